"""What mends findings, for tests: asked for as the product asks, of the analysis of a design."""

from __future__ import annotations

from pontifex.core.findings import AnalysisCache, Finding, analyse
from pontifex.core.matching import Remedy
from pontifex.core.model import Design
from tests.support.designs import TODAY


def remedies(design: Design, finding: Finding) -> tuple[Remedy, ...]:
    """Return what mends a finding of a design, the best one first."""
    memory = AnalysisCache()
    analyse(design, TODAY, memory)
    return memory.remedies([finding])[0]


def findings_with_remedies(design: Design) -> list[tuple[Finding, tuple[Remedy, ...]]]:
    """Return all findings of a design, each with what mends it."""
    memory = AnalysisCache()
    found = analyse(design, TODAY, memory).findings
    return list(zip(found, memory.remedies(found), strict=True))
