"""What a judge says of the two ends: a verdict with its reason."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.catalogue import Code
from pontifex.core.matching.row import Remedy, Verdict


@dataclass(frozen=True, slots=True)
class Judgement:
    """A verdict, why, the code of the finding that it is, the ways to mend it, and the value that both ends settle on."""

    verdict: Verdict
    reason: str
    code: Code | None = None
    remedies: tuple[Remedy, ...] = ()
    value: str = ""
