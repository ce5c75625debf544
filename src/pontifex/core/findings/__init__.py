"""The catalogue of checks: each finding says what, where and why it matters; how to mend it is asked for by itself.

`findings(design)` runs them all; `overlaps(design)` is the check of address space by itself.
"""

from pontifex.core.findings.cache import AnalysisCache
from pontifex.core.findings.change import AnalysisChange, analysis_change
from pontifex.core.findings.check import Analysis, analyse, findings
from pontifex.core.findings.finding import Finding, FindingAt, FindingKey, Place
from pontifex.core.findings.mending import mended_together
from pontifex.core.findings.overlaps import Overlap, overlaps

__all__ = [
    "Analysis",
    "AnalysisCache",
    "AnalysisChange",
    "Finding",
    "FindingAt",
    "FindingKey",
    "Overlap",
    "Place",
    "analyse",
    "analysis_change",
    "findings",
    "mended_together",
    "overlaps",
]
