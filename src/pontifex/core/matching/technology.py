"""Reach, before anything else: both ends speak the same technology, and are switched on."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Gateway, GatewayKind, Side, Technology
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import put

_FIELDS = ("technology", "technology")


def judge_technology(pair: TunnelEnds) -> Judgement:
    """Compare the technologies, with each other and with what the gateways can do."""
    lacking = [side for side in SIDES if _lacks(pair, side)]
    if pair.technology and not lacking:
        return Judgement(Verdict.AGREED, f"both have {pair.technology.label}")
    able = _both_can(pair)
    can = f"both gateways can do {', '.join(t.label for t in able)}" if able else "the gateways have none in common"
    change = tuple(_change_both(pair, technology) for technology in able)
    if pair.technology is None:
        left, right = (pair.end(side).technology.label for side in SIDES)
        names = pair.names
        reason = f"{names[Side.LEFT]} has {left}, {names[Side.RIGHT]} has {right}; {can}"
        return Judgement(Verdict.DIFFERS, reason, Code.TUNNEL_TECHNOLOGY_DIFFERS, change)
    reason = f"{pair.names[lacking[0]]}'s gateway can't do {pair.technology.label}; {can}"
    return Judgement(Verdict.DIFFERS, reason, Code.TUNNEL_TECHNOLOGY_LACKING, change)


def _lacks(pair: TunnelEnds, side: Side) -> bool:
    gateway = pair.gateway(side)
    return pair.end(side).technology not in (gateway.technologies or _usual(gateway))


def _both_can(pair: TunnelEnds) -> list[Technology]:
    """Return what both gateways can do; one of which nothing is known can do all that is usual for its kind."""
    sets = [pair.gateway(side).technologies or _usual(pair.gateway(side)) for side in SIDES]
    return [technology for technology in Technology if all(technology in has for has in sets)]


def _usual(gateway: Gateway) -> tuple[Technology, ...]:
    clouds = gateway.kind is GatewayKind.CLOUD_GATEWAY
    return tuple(technology for technology in Technology if clouds or not technology.traits.clouds_alone)


def _change_both(pair: TunnelEnds, technology: Technology) -> Remedy:
    return pair.set_same(f"Let both ends have {technology.label}", technology=technology)


def judge_switch(pair: TunnelEnds) -> Judgement:
    """Whether both ends are on: each tunnel has a switch, and each gateway one for all of its tunnels."""
    for side in SIDES:
        gateway = pair.gateway(side)
        if not gateway.service_on:
            reason = f"{gateway.name} has all of its tunnels switched off; the switch of this tunnel alone changes nothing"
            operations = (put(gateway.changed(service_on=True)),)
            remedy = Remedy(title=f"Switch {gateway.name}'s tunnels on", operations=operations)
            return Judgement(Verdict.DIFFERS, reason, Code.REACH_SERVICE_OFF, (remedy,))
    off = [side for side in SIDES if not pair.end(side).enabled]
    if off:
        names = " and ".join(pair.names[side] for side in off)
        remedy = pair.set_same("Switch this tunnel on", enabled=True)
        return Judgement(Verdict.DIFFERS, f"this tunnel alone is switched off at {names}", Code.REACH_SWITCHED_OFF, (remedy,))
    return Judgement(Verdict.AGREED, "this tunnel is on at both ends, and so are both gateways' tunnels")
