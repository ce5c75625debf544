"""Restart, second part: an address that changes, and what a caller left before its restart (RFC 4555, RFC 7296 section 2.4)."""

from __future__ import annotations

from pontifex.core.kinds import SIDES, AddressKind, InitialContact
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import reach


def can_move(ends: TunnelEnds) -> bool:
    """Whether an address may change, or somebody has said what happens then."""
    uplinks = [uplink for side in SIDES if (uplink := ends.uplink(side))]
    changing = any(uplink.address_kind is not AddressKind.FIXED_PUBLIC for uplink in uplinks)
    return changing or any(ends.end(side).mobike is not None for side in SIDES)


def judge_mobility(ends: TunnelEnds) -> Judgement:
    """Say whether the SAs follow an address that changes: where both ends can."""
    said = {side: ends.end(side).mobike for side in SIDES}
    if all(said.values()):
        return Judgement(Verdict.AGREED, reach.MovesAlong())
    off = tuple(side for side in SIDES if said[side] is False)
    if off:
        return Judgement(Verdict.AGREED, reach.CallsAnewWhenMoved(off))
    return Judgement(Verdict.AGREED, reach.MoveNotSaid(tuple(side for side in SIDES if said[side] is None)))


def judge_initial_contact(ends: TunnelEnds) -> Judgement:
    """Say what an end that is called does with what is left over from before a caller's restart."""
    called = [side for side in SIDES if ends.calls(side.other)]
    keeping = tuple(side for side in called if ends.end(side).initial_contact is InitialContact.KEEPS)
    return Judgement(Verdict.AGREED, reach.KeepsOldSas(keeping) if keeping else reach.ForgetsOldSas())
