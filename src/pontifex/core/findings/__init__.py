"""The catalogue of checks: each finding says what, where, why it matters, and how to mend it.

`findings(design)` runs them all; `overlaps(design)` is the check of address space by itself.
"""

from pontifex.core.findings.accepting import mended_together
from pontifex.core.findings.change import AnalysisChange, analysis_change
from pontifex.core.findings.check import Analysis, AnalysisCache, analyse, findings
from pontifex.core.findings.finding import Finding, FindingKey, Place
from pontifex.core.findings.overlaps import Overlap, overlaps

__all__ = [
    "Analysis",
    "AnalysisCache",
    "AnalysisChange",
    "Finding",
    "FindingKey",
    "Overlap",
    "Place",
    "analyse",
    "analysis_change",
    "findings",
    "mended_together",
    "overlaps",
]
