"""Findings about what stands at a site, beside its addresses."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import CatalogueEntry, Severity

_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
ENTRIES: Final = (
    CatalogueEntry(Code.PORT_TWICE, _PARTIAL, "One port published twice", "The second container doesn't start, or takes the first one's connections.", "RFC 9293 section 3.9.1"),
)  # fmt: skip
