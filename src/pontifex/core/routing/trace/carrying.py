"""What carries a tunnel: the gateway's own packets to its peer, which must not go into the tunnel that they carry.

A default route, all traffic as networks, or a network that holds the peer's outside address swallows them, unless a narrower
route by the uplink goes around (RFC 4301 section 4.4.1, RFC 1812 section 5.2.4.3). A tunnel within a tunnel is carried by
the other one, whose own packets must not come back into it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing import Address, Family, Service
from pontifex.core.kinds import Side, Transport, Tunnel, TunnelEnd
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import Decision, DecisionKind, decide
from pontifex.core.routing.trace.flow import Conditions, Flow

_TCP, _UDP = 6, 17
_NAT_TRAVERSAL_PORT: Final = 4500  # RFC 7296 section 2.23
_SOMEWHERE: Final = {Family.V4: 0xDFFFFFFE, Family.V6: (0x3FFF << 112) - 2}  # outside, where nobody knows the address yet
_ALL_UP: Final = Conditions()
_FEW: Final = 8  # tunnels of a gateway that are looked at one by one, without a table


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


def _leads_into_any(tables: Tables, tunnel: Tunnel, side: Side) -> bool:
    """Whether any way of the gateway leads to the peer through a tunnel: most tunnels need no closer look."""
    gateway_id, destination = tunnel.end(side).gateway_id, _destination(tables, tunnel, side)
    ending = tables.design.ends_of_gateway(gateway_id)
    if len(ending) <= _FEW and not tables.routes_of.get(gateway_id):
        return any(_names(ended.end(here), destination) for ended, here in ending)
    by_prefix = tables.of(tables.design.gateway_by_id[gateway_id]).by_prefix
    return any(entry.tunnel for _, entry in by_prefix.holding_value(destination.family, destination.value))


def _names(end: TunnelEnd, destination: Address) -> bool:
    """Whether an end leads to an address by itself: by its policy, or since its inner network holds it."""
    if end.inner_address is not None and end.inner_address.prefix.holds(destination):
        return True
    return not end.goes_by_routes and any(network.holds(destination) for network in end.remote_networks)


def swallowed_by(tables: Tables, tunnel: Tunnel, side: Side) -> tuple[Tunnel, ...]:
    """Return the tunnels, one in the other, by which what carries a tunnel comes back into it; none where it gets out."""
    if not _leads_into_any(tables, tunnel, side):
        return ()
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
