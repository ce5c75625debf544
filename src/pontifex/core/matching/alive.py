"""What keeps a tunnel alive: keep-alives against a NAT's patience, and noticing that the other end is gone."""

from __future__ import annotations

from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, AuthMethod, Role, Side
from pontifex.core.matching.row import Judgement, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import reach, unknown

NAT_PATIENCE_S: Final = 120  # the least that a NAT keeps a silent UDP flow, RFC 4787 section 4.3
USUAL_KEEPALIVE_S: Final = 20  # RFC 3948 section 4
_USUAL_CHECK_S: Final = 30
_GIVEN_UP_AFTER: Final = 5  # checks without an answer; RFC 7296 section 2.4 leaves the number to the device


def judge_keepalive(ends: TunnelEnds) -> Judgement:
    """Compare what an end behind a NAT sends in silence with the time after which that NAT forgets it (RFC 3948 section 4)."""
    hidden = [side for side in SIDES if (uplink := ends.uplink(side)) and uplink.behind_nat]
    if not hidden:
        return Judgement(Verdict.AGREED, reach.NoNatOnTheWay())
    for side in hidden:
        uplink, end = ends.uplink(side), ends.end(side)
        patience = (uplink.nat_timeout_s if uplink else None) or NAT_PATIENCE_S
        sent = [end.technology.traits.usual_keepalive_s if end.keepalive_s is None else end.keepalive_s, end.dead_peer_s or 0]
        every = min(filter(None, sent), default=0)
        if every and every < patience:
            continue
        speaks = reach.SpeaksEvery(every) if every else reach.SpeaksNever()
        seconds = min(USUAL_KEEPALIVE_S, patience // 2)
        reason = reach.NatForgets(side, speaks, patience)
        return Judgement(Verdict.DIFFERS_LATER, reason, Code.REACH_KEEPALIVE_TOO_LONG, _sending(side, seconds))
    return Judgement(Verdict.AGREED, reach.SpeaksBeforeNatForgets(tuple(hidden)))


def _sending(side: Side, seconds: int) -> RowRemedies:
    return lambda ends: [ends.set_field(side, f"Let {ends.names[side]} send every {seconds} s", keepalive_s=seconds)]


def judge_dead_peer(ends: TunnelEnds) -> Judgement:
    """Whether the end that calls notices that the other one has restarted (RFC 7296 section 2.4)."""
    callers = ends.callers
    if not callers:
        return Judgement(Verdict.UNKNOWN, unknown.CallerNotKnown())
    checks = {side: ends.end(side).dead_peer_s for side in callers}
    noticing = [side for side in callers if checks[side]]
    if noticing:
        side = noticing[0]
        by_traffic = ends.end(side).role is Role.ON_TRAFFIC
        when = reach.WhenCalled.WITH_TRAFFIC if by_traffic else reach.WhenCalled.AT_ONCE
        seconds = (checks[side] or 0) * _GIVEN_UP_AFTER
        return Judgement(Verdict.AGREED, reach.RestartNoticed(side, seconds, when))
    if None in checks.values():
        return Judgement(Verdict.UNKNOWN, unknown.DeadPeerCheckNotKnown(callers[0]))
    side = callers[0]
    return Judgement(
        Verdict.DIFFERS_LATER,
        reach.RestartNotNoticed(side),
        Code.RESTART_NOT_NOTICED,
        lambda ends: [ends.set_field(side, f"Let {ends.names[side]} check every {_USUAL_CHECK_S} s", dead_peer_s=_USUAL_CHECK_S)],
    )


def judge_calling_again(ends: TunnelEnds) -> Judgement:
    """Whether somebody calls again once the tunnel is lost, as after a restart of the end that waits."""
    callers = ends.callers
    if not callers:
        return Judgement(Verdict.UNKNOWN, unknown.CallerNotKnown())
    heard = [side for side in callers if ends.end(side.other).local_auth is not AuthMethod.EAP]  # by EAP a caller alone is proved
    again = [side for side in heard if ends.end(side).role is Role.ON_TRAFFIC or ends.end(side).calls_again is not False]
    if again or len(heard) != 1:  # where both call, whoever has restarted does
        return Judgement(Verdict.AGREED, reach.CallsAgain((again or callers)[0]))
    side = heard[0]
    return Judgement(
        Verdict.DIFFERS_LATER,
        reach.NobodyCallsAgain(side),
        Code.RESTART_NOBODY_CALLS_AGAIN,
        lambda ends: [ends.set_field(side, f"Let {ends.names[side]} call again", calls_again=True)],
    )
