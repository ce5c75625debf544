"""What mends findings, for tests: asked for as the product asks, of the analysis of a design."""

from __future__ import annotations

from collections.abc import Mapping

from pontifex.core.findings import AnalysisCache, Finding, FindingAt, analyse
from pontifex.core.matching import Remedy
from pontifex.core.model import Design
from tests.support.designs import TODAY


def remedies(design: Design, finding: Finding) -> tuple[Remedy, ...]:
    """Return what mends a finding of a design, the best one first."""
    return remedies_of_all(design).get(finding.at, ()) if finding.mendable else ()


def remedies_of_all(design: Design) -> Mapping[FindingAt, tuple[Remedy, ...]]:
    """Return what mends each finding of a design, of those that something mends."""
    memory = AnalysisCache()
    return memory.remedies({finding.at for finding in analyse(design, TODAY, memory).findings})
