"""Reach, before anything else: both ends speak the same technology, and are switched on."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Gateway, GatewayKind, Side, Technology
from pontifex.core.matching.row import Judgement, Remedy, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import put
from pontifex.core.reasons import named, reach


def judge_technology(ends: TunnelEnds) -> Judgement:
    """Compare the technologies, with each other and with what the gateways can do."""
    lacking = [side for side in SIDES if _lacks(ends, side)]
    if ends.technology and not lacking:
        return Judgement(Verdict.AGREED, reach.BothHaveTechnology(ends.technology))
    able = _both_can(ends)
    can = reach.CanDo(tuple(able)) if able else reach.NoneInCommon()
    if ends.technology is None:
        left, right = (ends.end(side).technology for side in SIDES)
        differ = reach.TechnologiesDiffer(Side.LEFT, left, Side.RIGHT, right, can)
        return Judgement(Verdict.DIFFERS, differ, Code.TUNNEL_TECHNOLOGY_DIFFERS, _change_both)
    reason = reach.TechnologyLacking(lacking[0], ends.technology, can)
    return Judgement(Verdict.DIFFERS, reason, Code.TUNNEL_TECHNOLOGY_LACKING, _change_both)


def _lacks(ends: TunnelEnds, side: Side) -> bool:
    gateway = ends.gateway(side)
    return ends.end(side).technology not in (gateway.technologies or _usual(gateway))


def _both_can(ends: TunnelEnds) -> list[Technology]:
    """Return what both gateways can do; one of which nothing is known can do all that is usual for its kind."""
    sets = [ends.gateway(side).technologies or _usual(ends.gateway(side)) for side in SIDES]
    return [technology for technology in Technology if all(technology in has for has in sets)]


_IN_CLOUDS: Final = tuple(Technology)
_ELSEWHERE: Final = tuple(technology for technology in Technology if not technology.traits.clouds_alone)


def _usual(gateway: Gateway) -> tuple[Technology, ...]:
    return _IN_CLOUDS if gateway.kind is GatewayKind.CLOUD_GATEWAY else _ELSEWHERE


def _change_both(ends: TunnelEnds) -> Iterator[Remedy]:
    for technology in _both_can(ends):
        yield ends.set_same(f"Let both ends have {technology.label}", technology=technology)


def judge_switch(ends: TunnelEnds) -> Judgement:
    """Whether both ends are on: each tunnel has a switch, and each gateway one for all of its tunnels."""
    for side in SIDES:
        gateway = ends.gateway(side)
        if not gateway.service_on:
            return Judgement(
                Verdict.DIFFERS,
                reach.ServiceOff(named(gateway)),
                Code.REACH_SERVICE_OFF,
                _service_on(side),
            )
    off = [side for side in SIDES if not ends.end(side).enabled]
    if off:
        return Judgement(
            Verdict.DIFFERS,
            reach.SwitchedOff(tuple(off)),
            Code.REACH_SWITCHED_OFF,
            lambda ends: [ends.set_same("Switch this tunnel on", enabled=True)],
        )
    return Judgement(Verdict.AGREED, reach.SwitchedOn())


def _service_on(side: Side) -> RowRemedies:
    def switched(ends: TunnelEnds) -> Iterator[Remedy]:
        gateway = ends.gateway(side)
        yield Remedy(title=f"Switch {gateway.name}'s tunnels on", operations=(put(gateway.changed(service_on=True)),))

    return switched
