"""Findings about clouds: their networks, what their rules let through, and what links them."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue.code import Code
from pontifex.core.catalogue.entry import CatalogueEntry, Severity

_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
ENTRIES: Final = (
    CatalogueEntry(Code.CLOUD_RULE_BLOCKS, _BLOCKER, "A cloud's rules block it", "Routes lead there, and whoever asks waits until the time is out.", "RFC 2979 section 3"),
    CatalogueEntry(Code.CLOUD_ANSWER_BLOCKED, _BLOCKER, "A subnet's rules block the answer", "They keep no state: the request arrives, and its answer needs a rule to the port that it came from.", "RFC 2979 section 3, RFC 6056 section 3.2"),
    CatalogueEntry(Code.CLOUD_SUBNET_OUTSIDE, _BLOCKER, "A subnet outside the blocks", "The cloud refuses to make it.", "RFC 4632 section 5.1"),
    CatalogueEntry(Code.CLOUD_BLOCKS_OVERLAP, _BLOCKER, "A peering of networks that overlap", "The cloud refuses it when it is requested.", "RFC 1918 section 5"),
    CatalogueEntry(Code.CLOUD_MEMBER_ELSEWHERE, _PARTIAL, "A cloud rule for somewhere else", "The cloud has nothing that it could hold for.", "RFC 2979 section 3"),
)  # fmt: skip
