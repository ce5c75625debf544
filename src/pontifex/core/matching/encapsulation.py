"""Traffic: whether ESP goes in UDP, and whether it passes as it goes (RFC 3948, RFC 7296 section 2.23)."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, NatTraversal
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import child


def behind_nat(ends: TunnelEnds) -> bool:
    """Whether a NAT stands between the ends."""
    return any((uplink := ends.uplink(side)) and uplink.behind_nat for side in SIDES)


def goes_in_udp(ends: TunnelEnds) -> bool:
    """Whether ESP goes in UDP: where both ends can, and one asks for it or a NAT is seen."""
    wanted = [ends.end(side).nat_traversal for side in SIDES]
    return NatTraversal.OFF not in wanted and (behind_nat(ends) or NatTraversal.ALWAYS in wanted)


def judge_encapsulation(ends: TunnelEnds) -> Judgement:
    """Say whether ESP passes as it goes: bare through uplinks that let protocol 50 pass and no NAT, or in UDP."""
    if goes_in_udp(ends):
        return Judgement(Verdict.AGREED, child.EspInUdp())
    off = [side for side in SIDES if ends.end(side).nat_traversal is NatTraversal.OFF]
    if behind_nat(ends):
        return Judgement(
            Verdict.DIFFERS,
            child.EspStopsAtNat(off[0]),
            Code.REACH_NO_NAT_TRAVERSAL,
            lambda ends: [ends.set_same("Let both ends traverse a NAT as needed", nat_traversal=NatTraversal.AS_NEEDED)],
        )
    closed = [side for side in SIDES if (uplink := ends.uplink(side)) and not uplink.esp_passes]
    if closed:
        return Judgement(
            Verdict.DIFFERS,
            child.EspStopsAtUplink(closed[0]),
            Code.REACH_ESP_BLOCKED,
            lambda ends: [ends.set_same("Put ESP in UDP at both ends", nat_traversal=NatTraversal.ALWAYS)],
        )
    return Judgement(Verdict.AGREED, child.EspAlone())
