"""What a cloud peering needs: one side requests it, the other accepts, and until both have nothing passes."""

from __future__ import annotations

from collections.abc import Sequence

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import reach, unknown


def judge_agreement(ends: TunnelEnds) -> Judgement:
    """Whether both sides have agreed to a peering."""
    open_, refused = ([side for side in SIDES if ends.end(side).peering_agreed is state] for state in (None, False))
    if refused:
        asked = [side for side in SIDES if ends.end(side).peering_agreed]
        reason = reach.AskedAndNotAccepted(asked[0]) if asked else reach.NotRequested()
        return Judgement(
            Verdict.DIFFERS, reason, Code.PEERING_NOT_ACCEPTED, lambda ends: [_accepted(ends, refused if asked else [])]
        )
    if open_:
        return Judgement(Verdict.UNKNOWN, unknown.AgreementNotKnown(open_[0]))
    return Judgement(Verdict.AGREED, reach.PeeringAgreed())


def _accepted(ends: TunnelEnds, lacking: Sequence[Side]) -> Remedy:
    """Have both sides agree; `lacking` are those that are asked already, none where nobody has asked."""
    names = " and ".join(ends.names[side] for side in lacking)
    return ends.set_same(f"Accept it at {names}" if lacking else "Request and accept it", peering_agreed=True)
