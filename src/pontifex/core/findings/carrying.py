"""Findings about what carries a tunnel: packets that would go into the tunnel that they carry, and names asked beyond it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Final

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import SIDES, AddressKind, Gateway, ObjectType, Side, Tunnel, is_name
from pontifex.core.matching import Remedy
from pontifex.core.model import new_route, put
from pontifex.core.reasons import all_named, named, tunnels
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.carrying import WaysIntoTunnels, carried, swallowed_by
from pontifex.core.routing.trace.decide import decide
from pontifex.core.routing.trace.flow import Conditions, Flow

_ALL_UP: Final = Conditions()
_QUESTIONS: Final = Service((17, 17), (53, 53))  # RFC 1035 section 4.2.1


def carrying_findings(tables: Tables) -> Iterator[Remark]:
    """Yield what is to be said of the tunnels' own packets."""
    ways = WaysIntoTunnels(tables)
    for tunnel in tables.design.tunnels:
        left, right = tunnel.left, tunnel.right
        if not left.technology.traits.outer_packets or not (left.enabled and right.enabled):
            continue
        for side, end in zip(SIDES, (left, right), strict=True):
            chain = swallowed_by(tables, tunnel, side) if ways.may_swallow(tunnel, side) else ()
            if chain and _is_told(tables, tunnel, side):
                yield _swallowed(tables, tunnel, side, chain)
            if is_name(end.peer_address):
                yield from _name(tables, tunnel, side)


def _is_told(tables: Tables, tunnel: Tunnel, side: Side) -> bool:
    """Leave out a peer that isn't entered yet: its row asks for it."""
    return tunnel.end(side).peer_address is not None or tables.design.peer_outside(tunnel, side) is not None


def _swallowed(tables: Tables, tunnel: Tunnel, side: Side, chain: tuple[Tunnel, ...]) -> Remark:
    gateway = tables.design.gateway_by_id[tunnel.end(side).gateway_id]
    found = carried(tables, tunnel, side)
    peer = tunnels.PeerAt(found.peer) if found.peer else tunnels.PeerAnywhere()
    through = tunnels.ThroughOthers(all_named(chain[:-1])) if chain[:-1] else None
    why = tunnels.InTunnel(named(tunnel), tunnels.CarriesItself(named(gateway), peer, through, found.decision.by))
    place = Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field=f"{side.value}/mode")
    return remark(Code.TUNNEL_CARRIES_ITSELF, (place,), why, partial(_route_around, tables, tunnel, side))


def _route_around(tables: Tables, tunnel: Tunnel, side: Side) -> Iterator[Remedy]:
    """Yield the route by the uplink to the peer alone."""
    design, end = tables.design, tunnel.end(side)
    found = carried(tables, tunnel, side)
    if found.peer is None or end.uplink_id is None:
        return
    host = Prefix.of_address(found.peer)
    taken = {route.id for route in design.routes}
    route = new_route(design, taken, end.gateway_id, host, None, None, uplink_id=end.uplink_id)
    far = design.uplink_of(tunnel.end(side.other))
    changes = far is not None and far.address_kind is AddressKind.CHANGING_PUBLIC
    renewed = ", to be renewed whenever that address changes" if changes else ""
    title = f"Add a route to {found.peer} by {design.uplink_by_id[end.uplink_id].name}{renewed}"
    yield Remedy(title=title, operations=(put(route),))


def _name(tables: Tables, tunnel: Tunnel, side: Side) -> Iterator[Remark]:
    """Find a peer's name that only resolvers beyond the tunnel could answer: it is asked for before the tunnel is up."""
    end = tunnel.end(side)
    gateway = tables.design.gateway_by_id[end.gateway_id]
    if not gateway.resolvers or not all(_beyond(tables, gateway, tunnel, resolver) for resolver in gateway.resolvers):
        return
    why = tunnels.InTunnel(named(tunnel), tunnels.NameBeyondItself(named(gateway), gateway.resolvers, end.peer_address or ""))
    place = Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field=f"{side.value}/peer_address")
    far = tables.design.uplink_of(tunnel.end(side.other))
    remedies = partial(_called_by, tunnel, side, far.address) if far and far.address else None
    yield remark(Code.TUNNEL_NAME_BEYOND_ITSELF, (place,), why, remedies)


def _called_by(tunnel: Tunnel, side: Side, address: Address) -> Iterator[Remedy]:
    changed = tunnel.with_end(side, peer_address=str(address))
    yield Remedy(title=f"Call {address} instead of the name", operations=(put(changed),))


def _beyond(tables: Tables, gateway: Gateway, tunnel: Tunnel, resolver: Address) -> bool:
    """Whether a gateway's questions to a resolver go into a tunnel."""
    source = gateway.inside_address if gateway.inside_address and gateway.inside_address.family is resolver.family else resolver
    decision = decide(tables, gateway, Flow(source, resolver, _QUESTIONS), _ALL_UP, own=True)
    return decision.tunnel is not None and decision.tunnel.id == tunnel.id
