"""What is to leave to the Internet by an exit, and what of it leaves elsewhere or not at all."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing import Address, Family, Prefix, Service
from pontifex.core.kinds import Gateway, Intent, MemberType, Network
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import ANY_SERVICE, Conditions, Flow
from pontifex.core.routing.trace.flow_path import End, FlowPath, Trace
from pontifex.core.routing.trace.trace import trace

# Any public address that the design doesn't hold will do: the first of blocks that registries hand out.
_SOMEWHERE: Final = {Family.V4: 45 << 24 | 1, Family.V6: 0x2600 << 112 | 1}
_MOST_TRIED: Final = 1024
_NEXT: Final = {Family.V4: 1 << 16, Family.V6: 1 << 96}


@dataclass(frozen=True, slots=True)
class WantedExit:
    """Addresses of a network that are to reach the Internet by a gateway."""

    intent: Intent
    source: Network
    begin: Prefix
    gateway: Gateway
    service: Service
    dscp: int


@dataclass(frozen=True, slots=True)
class UnmetExit:
    """Something that doesn't leave by its exit, with a trace that shows why."""

    want: WantedExit
    trace: Trace
    leaves_by: Gateway | None  # another one; None where it doesn't leave


def wanted_exits(design: Design) -> Iterator[WantedExit]:
    """Yield all that is to leave by an exit, by network, family and service."""
    for intent in design.intents:
        exits = [member.id for member in intent.destinations if member.type is MemberType.GATEWAY]
        for gateway in (design.gateway_by_id[id_] for id_ in exits):
            for member in intent.sources:
                for network, begin in zip(design.member_networks(member), design.member_prefixes(member), strict=True):
                    for service in intent.services or (ANY_SERVICE,):
                        yield WantedExit(intent, network, begin, gateway, service, parse_dscp(intent.dscp or "DF"))


def unmet_exits(tables: Tables, conditions: Conditions) -> Iterator[UnmetExit]:
    """Yield what doesn't leave to the Internet by the exit that is wanted."""
    for want in wanted_exits(tables.design):
        begin, outside = Address(want.begin.family, want.begin.network), somewhere_outside(tables, want.begin.family)
        if outside is None:
            continue  # the design holds nearly every address that there is: nothing leaves it
        flow = Flow(begin, outside, want.service, want.dscp)
        traced = trace(tables, flow, conditions, want.source)
        leaves_by = _leaves_by(tables.design, traced.forward)
        if leaves_by is not want.gateway:
            yield UnmetExit(want, traced, leaves_by)


def _leaves_by(design: Design, way: FlowPath) -> Gateway | None:
    passed = [hop.gateway_id for hop in way.hops if hop.gateway_id]
    return design.gateway_by_id[passed[-1]] if way.end is End.INTERNET and passed else None


def somewhere_outside(tables: Tables, family: Family) -> Address | None:
    """Return an address of the Internet that is in no network of the design; None where none is found soon."""
    for step in range(_MOST_TRIED):
        address = Address(family, _SOMEWHERE[family] + step * _NEXT[family])
        if not any(tables.networks.holding(address)):
            return address
    return None
