"""What mends several findings at once."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from pontifex.core.findings.cache import AnalysisCache
from pontifex.core.findings.check import analyse
from pontifex.core.findings.finding import FindingAt
from pontifex.core.model import Design, Difference, apply_operations, difference


def mended_together(design: Design, found: Iterable[FindingAt], today: date, memory: AnalysisCache) -> tuple[Difference, int]:
    """Return the one change that mends findings by the first remedy of each, and how many it mends.

    Each is looked for in the design as the remedies before it have left it, so that none undoes another. `memory` holds
    the analysis of the design, and is led on from state to state.
    """
    now, count = design, 0
    for at in found:
        remedies = memory.remedies({at})
        if at in remedies:
            now, count = apply_operations(now, remedies[at][0].operations), count + 1
            analyse(now, today, memory)
    return difference(design, now), count
