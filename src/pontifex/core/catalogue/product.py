"""What is said of the product itself."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import CatalogueEntry, Severity

_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
ENTRIES: Final = (
    CatalogueEntry(Code.ANALYSIS_CHECK_FAILED, _PARTIAL, "A check could not be made", "What it would tell isn't known. All other checks stand; the error is Pontifex's own, and in its log.", "RFC 9110 section 15.6"),
)  # fmt: skip
