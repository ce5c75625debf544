"""What carries a tunnel: the gateway's own packets to its peer, which must not go into the tunnel that they carry.

A default route, all traffic as networks, or a network that holds the peer's outside address swallows them, unless a narrower
route by the uplink goes around (RFC 4301 section 4.4.1, RFC 1812 section 5.2.4.3). A tunnel within a tunnel is carried by
the other one, whose own packets must not come back into it.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property
from typing import Final

from pontifex.core.addressing import Address, Family, Selector, Service
from pontifex.core.addressing.prefix_map import PrefixMap
from pontifex.core.kinds import Side, Transport, Tunnel, TunnelEnd
from pontifex.core.routing.tables.tables import Tables, under_prefixes
from pontifex.core.routing.trace.decide import Decision, DecisionKind, decide
from pontifex.core.routing.trace.flow import Conditions, Flow

_TCP, _UDP = 6, 17
_NAT_TRAVERSAL_PORT: Final = 4500  # RFC 7296 section 2.23
_SOMEWHERE: Final = {Family.V4: 0xDFFFFFFE, Family.V6: (0x3FFF << 112) - 2}  # outside, where nobody knows the address yet
_ALL_UP: Final = Conditions()


@dataclass(frozen=True, slots=True)
class CarrierPath:
    """Where a gateway's packets to the peer of a tunnel go."""

    tunnel: Tunnel
    side: Side  # of the gateway, in the tunnel
    peer: Address | None  # None where its address isn't known
    decision: Decision

    @property
    def into(self) -> Tunnel | None:
        """The tunnel that they go into; None where they leave as they should."""
        return self.decision.tunnel if self.decision.kind is DecisionKind.TUNNEL else None


def _destination(tables: Tables, tunnel: Tunnel, side: Side) -> Address:
    """Return where a gateway sends what carries a tunnel."""
    peer = tables.design.peer_outside(tunnel, side)
    if peer:
        return peer
    own = _source(tables, tunnel.end(side))
    family = own.family if own else Family.V4
    return Address(family, _SOMEWHERE[family])


def _source(tables: Tables, end: TunnelEnd) -> Address | None:
    """Return the address by which an end's gateway is known outside; None where it isn't, or a NAT has another one."""
    uplink = tables.design.uplink_of(end)
    return uplink.address if uplink and not uplink.behind_nat else None


def carrying_flow(tables: Tables, tunnel: Tunnel, side: Side) -> Flow:
    """Return the flow that carries a tunnel from one of its sides, to an address somewhere outside where it isn't known."""
    end = tunnel.end(side)
    own, destination = _source(tables, end), _destination(tables, tunnel, side)
    family = destination.family
    source = own if own and own.family is family else Address(family, _SOMEWHERE[family])
    over_tcp = end.technology.traits.over_tcp and end.transport is Transport.TCP
    protocol, port = (_TCP if over_tcp else _UDP), (_NAT_TRAVERSAL_PORT if end.technology.is_ipsec else end.port)
    ports = (port, port) if port else (1, 65_535)
    return Flow(source, destination, Service((protocol, protocol), ports))


def carried(tables: Tables, tunnel: Tunnel, side: Side) -> CarrierPath:
    """Return where what carries a tunnel goes from one of its sides, all tunnels being up."""
    gateway = tables.design.gateway_by_id[tunnel.end(side).gateway_id]
    decision = decide(tables, gateway, carrying_flow(tables, tunnel, side), _ALL_UP, own=True)
    return CarrierPath(tunnel, side, tables.design.peer_outside(tunnel, side), decision)


class WaysIntoTunnels:
    """Where the gateways of a design lead packets into tunnels. Most tunnels' own packets go nowhere near."""

    def __init__(self, tables: Tables) -> None:
        self._tables = tables
        self._leading: dict[Address, tuple[frozenset[str], ...]] = {}  # what was asked already: many have one peer, a hub

    def may_swallow(self, tunnel: Tunnel, side: Side) -> bool:
        """Whether any way of the gateway at a side leads to the tunnel's peer through a tunnel."""
        peer, gateway_id = _destination(self._tables, tunnel, side), tunnel.end(side).gateway_id
        if peer not in self._leading:
            self._leading[peer] = tuple(self._gateways.holding(peer))
        return any(gateway_id in gateways for gateways in self._leading[peer])

    @cached_property
    def _gateways(self) -> PrefixMap[frozenset[str]]:
        """The ids of the gateways that know a way into a tunnel, under the prefixes that it is for."""
        design, named = self._tables.design, defaultdict[Selector, set[str]](set)
        for end in (end for tunnel in design.tunnels for end in (tunnel.left, tunnel.right)):
            for network in () if end.goes_by_routes else end.remote_networks:
                named[network].add(end.gateway_id)
            if end.inner_address:
                named[Selector.of(end.inner_address.prefix)].add(end.gateway_id)
        for route in design.routes:
            if route.network_id is None and (route.tunnel_id or route.via):  # a next hop may be a tunnel's inner address
                named[Selector.of(route.prefix)].add(route.gateway_id)
        return under_prefixes((network, frozenset(ids)) for network, ids in named.items())


def swallowed_by(tables: Tables, tunnel: Tunnel, side: Side) -> tuple[Tunnel, ...]:
    """Return the tunnels, one in the other, by which what carries a tunnel comes back into it; none where it gets out."""
    chain: list[Tunnel] = []
    at, here = tunnel, side
    while True:
        into = carried(tables, at, here).into
        if into is None or into in chain:
            return ()
        chain.append(into)
        if into.id == tunnel.id:
            return tuple(chain)
        gateway_id = at.end(here).gateway_id
        here = Side.LEFT if into.left.gateway_id == gateway_id else Side.RIGHT
        at = into
