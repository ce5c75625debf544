"""Lifetimes: in IKEv2 each end keeps its own; they are not negotiated (RFC 7296 section 2.8)."""

from __future__ import annotations

from typing import Final

from pontifex.core.matching.pair import Pair
from pontifex.core.matching.row import Relation, Row, Stage, Verdict
from pontifex.core.model import Side

_TITLES: Final = {"ike_lifetime_s": "IKE SA lifetime, s", "child_lifetime_s": "Child SA lifetime, s"}


def lifetime_row(pair: Pair, field: str) -> Row:
    """Say which end rekeys first."""
    lifetimes = {side: getattr(pair.end(side), field) for side in Side}
    stage = Stage.INIT if field == "ike_lifetime_s" else Stage.CHILD

    def row(verdict: Verdict, reason: str) -> Row:
        key = field.removesuffix("_s").replace("_", "-")
        return pair.row(key, _TITLES[field], stage, Relation.COMPLEMENTARY, (field, field), verdict, reason)

    if None in lifetimes.values():
        return row(Verdict.AGREED, "each end keeps its own; one is not known yet, which stops nothing")
    if lifetimes[Side.LEFT] == lifetimes[Side.RIGHT]:
        return row(Verdict.AGREED, "each end keeps its own; they are the same")
    first = min(Side, key=lambda side: lifetimes[side])
    return row(Verdict.AGREED, f"each end keeps its own; {pair.names[first]} rekeys first")
