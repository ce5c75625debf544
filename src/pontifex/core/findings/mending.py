"""What mends several findings at once."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from pontifex.core.findings.cache import AnalysisCache
from pontifex.core.findings.check import analyse
from pontifex.core.findings.finding import FindingAt
from pontifex.core.model import Design, Difference, apply_operations, difference


def mended_together(design: Design, wanted: Iterable[FindingAt], today: date, memory: AnalysisCache) -> tuple[Difference, int]:
    """Return the one change that mends findings by the first remedy of each, and how many it mends.

    Each is looked for in the design as the remedies before it have left it, so that none undoes another. `memory` is led
    on from state to state.
    """
    now, count = design, 0
    told = analyse(now, today, memory).findings
    for at in wanted:
        ways = memory.remedies([finding for finding in told if finding.at == at])
        first = next((remedies[0] for remedies in ways if remedies), None)
        if first:
            now, count = apply_operations(now, first.operations), count + 1
            told = analyse(now, today, memory).findings
    return difference(design, now), count
