"""What keeps a tunnel alive: keep-alives against a NAT's patience, and noticing that the other end is gone."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Role
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds

NAT_PATIENCE_S: Final = 120  # the least that a NAT keeps a silent UDP flow, RFC 4787 section 4.3
USUAL_KEEPALIVE_S: Final = 20  # RFC 3948 section 4
_USUAL_CHECK_S: Final = 30
_GIVEN_UP_AFTER: Final = 5  # checks without an answer; RFC 7296 section 2.4 leaves the number to the device


def judge_keepalive(pair: TunnelEnds) -> Judgement:
    """Compare what an end behind a NAT sends in silence with the time after which that NAT forgets it (RFC 3948 section 4)."""
    hidden = [side for side in SIDES if (uplink := pair.uplink(side)) and uplink.behind_nat]
    if not hidden:
        return Judgement(Verdict.AGREED, "no NAT stands on the way, so nothing has to be kept alive")
    for side in hidden:
        uplink, end = pair.uplink(side), pair.end(side)
        patience = (uplink.nat_timeout_s if uplink else None) or NAT_PATIENCE_S
        sent = [end.technology.traits.usual_keepalive_s if end.keepalive_s is None else end.keepalive_s, end.dead_peer_s or 0]
        every = min(filter(None, sent), default=0)
        if every and every < patience:
            continue
        name = pair.names[side]
        says = f"speaks only every {every} s in silence" if every else "sends nothing in silence"
        remedy = pair.set_field(
            side, f"Let {name} send every {USUAL_KEEPALIVE_S} s", keepalive_s=min(USUAL_KEEPALIVE_S, patience // 2)
        )
        reason = f"{name} {says}, and the NAT before it forgets after {patience} s: then nobody reaches it"
        return Judgement(Verdict.DIFFERS_LATER, reason, Code.REACH_KEEPALIVE_TOO_LONG, (remedy,))
    return Judgement(Verdict.AGREED, f"{' and '.join(pair.names[side] for side in hidden)} speaks before the NAT forgets")


def judge_dead_peer(pair: TunnelEnds) -> Judgement:
    """Whether the end that calls notices that the other one has restarted (RFC 7296 section 2.4)."""
    callers = [side for side in SIDES if pair.calls(side)]
    if not callers:
        return Judgement(Verdict.UNKNOWN, "who calls again after a restart is not known yet")
    checks = {side: pair.end(side).dead_peer_s for side in callers}
    noticing = [side for side in callers if checks[side]]
    if noticing:
        side = noticing[0]
        again = "with the next packet" if pair.end(side).role is Role.ON_TRAFFIC else "at once"
        seconds = (checks[side] or 0) * _GIVEN_UP_AFTER
        return Judgement(Verdict.AGREED, f"{pair.names[side]} notices after about {seconds} s and calls again {again}")
    if None in checks.values():
        return Judgement(Verdict.UNKNOWN, f"whether {pair.names[callers[0]]} notices a dead peer is not known yet")
    side = callers[0]
    remedy = pair.set_field(side, f"Let {pair.names[side]} check every {_USUAL_CHECK_S} s", dead_peer_s=_USUAL_CHECK_S)
    reason = f"{pair.names[side]} doesn't notice when {pair.names[side.other]} restarts, and sends into a dead tunnel"
    return Judgement(Verdict.DIFFERS_LATER, reason, Code.RESTART_NOT_NOTICED, (remedy,))
