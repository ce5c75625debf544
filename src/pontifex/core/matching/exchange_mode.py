"""Init in IKEv1: the mode of the first exchange (RFC 2409 section 5)."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import AuthMethod, ExchangeMode
from pontifex.core.matching.authentication import uses
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import init, unknown


def judge_exchange_mode(ends: TunnelEnds) -> Judgement:
    """Compare the modes. In main mode a pre-shared key is found by the caller's address alone (RFC 2409 section 5.4)."""
    left, right = ends.left.exchange_mode, ends.right.exchange_mode
    if left is None or right is None:
        return Judgement(Verdict.UNKNOWN, unknown.ExchangeModeNotKnown())
    if left is not right:
        return Judgement(
            Verdict.DIFFERS,
            init.ExchangeModesDiffer(left, right),
            Code.IKE1_MODE_DIFFERS,
            lambda ends: ends.copies("the exchange mode", "exchange_mode", "exchange_mode"),
        )
    answering = ends.caller.other
    by_key = uses(ends, AuthMethod.PRE_SHARED_KEY)
    if by_key and left is ExchangeMode.MAIN and ends.takes_any(answering):
        return Judgement(
            Verdict.DIFFERS,
            init.KeyByAddress(answering),
            Code.IKE1_KEY_BY_ADDRESS,
            lambda ends: [ends.set_same("Take aggressive mode at both ends", exchange_mode=ExchangeMode.AGGRESSIVE)],
        )
    return Judgement(Verdict.AGREED, init.BothHaveExchangeMode(left))
