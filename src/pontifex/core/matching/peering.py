"""What a cloud peering needs: one side requests it, the other accepts, and until both have nothing passes."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds


def judge_agreement(pair: TunnelEnds) -> Judgement:
    """Whether both sides have agreed to a peering."""
    open_, refused = ([side for side in SIDES if pair.end(side).peering_agreed is state] for state in (None, False))
    if refused:
        names = " and ".join(pair.names[side] for side in refused)
        asked = [pair.names[side] for side in SIDES if pair.end(side).peering_agreed]
        reason = f"{asked[0]} has requested it, and {names} has not accepted" if asked else "neither side has requested it"
        remedy = pair.set_same(f"Accept it at {names}" if asked else "Request and accept it", peering_agreed=True)
        return Judgement(Verdict.DIFFERS, reason, Code.PEERING_NOT_ACCEPTED, (remedy,))
    if open_:
        return Judgement(Verdict.UNKNOWN, f"whether {pair.names[open_[0]]} has agreed is not known yet")
    return Judgement(Verdict.AGREED, "one side has requested it, the other accepted")
