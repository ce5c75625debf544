"""Init in IKEv1: the mode of the first exchange (RFC 2409 section 5)."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import ANY_PEER, AuthMethod, ExchangeMode
from pontifex.core.matching.authentication import uses
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds


def judge_exchange_mode(pair: TunnelEnds) -> Judgement:
    """Compare the modes. In main mode a pre-shared key is found by the caller's address alone (RFC 2409 section 5.4)."""
    left, right = pair.tunnel.left.exchange_mode, pair.tunnel.right.exchange_mode
    fields = ("exchange_mode", "exchange_mode")
    if left is None or right is None:
        return Judgement(Verdict.UNKNOWN, "main or aggressive is not known yet at both ends")
    if left is not right:
        reason = f"{left.value} and {right.value}"
        return Judgement(Verdict.DIFFERS, reason, Code.IKE1_MODE_DIFFERS, pair.copies("the exchange mode", *fields))
    answering = pair.caller.other
    by_key = uses(pair, AuthMethod.PRE_SHARED_KEY)
    if by_key and left is ExchangeMode.MAIN and pair.end(answering).peer_address == ANY_PEER:
        reason = f"{pair.names[answering]} takes calls from any address, and in main mode finds a key by the address alone"
        return Judgement(
            Verdict.DIFFERS,
            reason,
            Code.IKE1_KEY_BY_ADDRESS,
            (pair.set_same("Take aggressive mode at both ends", exchange_mode=ExchangeMode.AGGRESSIVE),),
        )
    return Judgement(Verdict.AGREED, f"both have {left.value} mode")
