"""What is to leave to the Internet, by an exit or to some of its addresses, and what of it leaves elsewhere or not at all."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product
from typing import Final

from pontifex.core.addressing import Address, Family, Prefix, Service
from pontifex.core.addressing.special import is_others
from pontifex.core.kinds import Gateway, Intent, MemberType, Network
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import ANY_SERVICE, Conditions, Flow
from pontifex.core.routing.trace.flow_path import End, FlowPath, Trace
from pontifex.core.routing.trace.trace import trace
from pontifex.core.routing.wanted.blocks import parts_of, parts_within

# Any public address that the design doesn't hold will do: the first of blocks that registries hand out.
_SOMEWHERE: Final = {Family.V4: 45 << 24 | 1, Family.V6: 0x2600 << 112 | 1}
_MOST_TRIED: Final = 1024
_NEXT: Final = {Family.V4: 1 << 16, Family.V6: 1 << 96}


@dataclass(frozen=True, slots=True)
class WantedExit:
    """Addresses of a network that are to reach the Internet, or a prefix of it, by a gateway or whichever way."""

    intent: Intent
    source: Network
    begin: Prefix
    exits: tuple[Gateway, ...]  # any of them will do; none where each does
    towards: Prefix | None  # None for all of the Internet
    service: Service
    dscp: int


@dataclass(frozen=True, slots=True)
class UnmetExit:
    """Something that doesn't leave by its exit, with a trace that shows why."""

    want: WantedExit
    trace: Trace
    leaves_by: Gateway | None  # another one; None where it doesn't leave


def wanted_exits(design: Design) -> Iterator[WantedExit]:
    """Yield all that is to leave to the Internet, by network, family and service."""
    for intent in design.intents:
        exits = [
            design.gateway_by_id[destination.id] for destination in intent.destinations if destination.type is MemberType.GATEWAY
        ]
        outside = [prefix for prefix in intent.destination_prefixes if is_outside(design, prefix)]
        wanted = [*((None,) if exits else ()), *outside]
        if wanted:
            yield from _of_intent(design, intent, tuple(exits), wanted)


def _of_intent(design: Design, intent: Intent, exits: tuple[Gateway, ...], wanted: list[Prefix | None]) -> Iterator[WantedExit]:
    for towards, part in product(wanted, dict.fromkeys(parts_of(design, intent.source_side))):
        if towards is None or towards.family is part.prefix.family:
            for service in intent.services or (ANY_SERVICE,):
                yield WantedExit(intent, part.network, part.prefix, exits, towards, service, parse_dscp(intent.dscp or "DF"))


def is_outside(design: Design, prefix: Prefix) -> bool:
    """Whether a prefix can only be the Internet's: somebody else's, and in no network or supernet of the design."""
    is_ours = any(supernet.overlaps(prefix) for supernet in design.supernets) or any(parts_within(design, prefix))
    return is_others(prefix) and not is_ours


def unmet_exits(tables: Tables, conditions: Conditions) -> Iterator[UnmetExit]:
    """Yield what doesn't leave to the Internet by the exit that is wanted."""
    for want in wanted_exits(tables.design):
        begin, to = want.begin, want.towards
        outside = Address(to.family, to.network) if to else somewhere_outside(tables, begin.family)
        if outside is None:
            continue  # the design holds nearly every address that there is: nothing leaves it
        flow = Flow(Address(begin.family, begin.network), outside, want.service, want.dscp)
        traced = trace(tables, flow, conditions, want.source)
        leaves_by = _leaves_by(tables.design, traced.forward)
        if leaves_by is None or (want.exits and leaves_by not in want.exits):
            yield UnmetExit(want, traced, leaves_by)


def _leaves_by(design: Design, way: FlowPath) -> Gateway | None:
    passed = [hop.gateway_id for hop in way.hops if hop.gateway_id]
    return design.gateway_by_id[passed[-1]] if way.end is End.INTERNET and passed else None


def somewhere_outside(tables: Tables, family: Family) -> Address | None:
    """Return an address of the Internet that is in no network of the design; None where none is found soon."""
    for step in range(_MOST_TRIED):
        address = Address(family, _SOMEWHERE[family] + step * _NEXT[family])
        if not any(tables.design.network_map.holding(address)):
            return address
    return None
