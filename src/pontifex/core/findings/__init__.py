"""The catalogue of checks: each finding says what, where, why it matters, and how to mend it.

`findings(design)` runs them all; `overlaps(design)` is the check of address space by itself.
"""

from pontifex.core.findings.catalogue import CATALOGUE, Severity
from pontifex.core.findings.check import Analysis, analyse, findings
from pontifex.core.findings.finding import Finding, Place
from pontifex.core.findings.overlaps import Overlap, overlaps

__all__ = ["CATALOGUE", "Analysis", "Finding", "Overlap", "Place", "Severity", "analyse", "findings", "overlaps"]
