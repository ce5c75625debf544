"""What one tunnel alone can't show: the tunnels of one gateway, judged together.

What two callers of one gateway share puts them in each other's way (`callers`), and so do networks (`overlapping`) and
ports that two of its tunnels have in common.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import chain, islice
from typing import Final

from pontifex.core.addressing import Address
from pontifex.core.catalogue import Code
from pontifex.core.ipsec import Agreement, ProposalFacts, negotiate
from pontifex.core.kinds import ANY_PEER, SIDES, AuthMethod, Identity, Side, Transport, Tunnel, Uplink
from pontifex.core.matching.callers import (
    NOBODY,
    Call,
    OtherCalls,
    account_twice,
    first_that_fits,
    identity_twice,
    key_pair_twice,
    same_nat,
)
from pontifex.core.matching.overlapping import SharedNetworks, networks_twice, shared_networks
from pontifex.core.matching.proposals import IKE
from pontifex.core.matching.row import Judgement, Relation, Row, RowHeading, Stage, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Design
from pontifex.core.reasons import Named, named, reach

_IKE_PORTS: Final = (500, 4500)  # RFC 7296 section 2.23
_FIRST_PORT, _LAST_PORT = 1024, 65_535
_IPSEC: Final = ("ipsec",)
_MOST_NAMED: Final = 3


_Answering = tuple[str, str | None, str | None]  # gateway, uplink, and whom it answers there
_ProposalLists = tuple[ProposalFacts, ...]


LISTENER: Final = {
    side: RowHeading(f"listener-{side.value}", "{this}'s port", Stage.REACH, Relation.COMPLEMENTARY, "port", "port")
    for side in SIDES
}


@dataclass(frozen=True, slots=True)
class Listener:
    """An end that waits on a port: ends with the same `service` share it, others can't."""

    tunnel: Tunnel
    side: Side
    service: tuple[str, ...]


_RowsOf = Callable[[TunnelEnds, Call, OtherCalls], Iterator[Row]]


@dataclass(frozen=True, slots=True)
class TakenPort:
    """A port that an end would wait on, and that another tunnel has already."""

    side: Side
    other: Named[Tunnel]
    transport: str
    port: int
    uplink: Named[Uplink]
    free: int  # the next port that nobody waits on there

    def row(self, ends: TunnelEnds) -> Row:
        """Return the row that says so."""
        reason = reach.ListenerTwice(self.other, self.transport, self.port, self.uplink)
        movable = ends.tunnel.left.port is not None
        remedies = (ends.set_same(f"Let both ends use port {self.free}", port=self.free),) if movable else ()
        return ends.row(LISTENER[self.side], Judgement(Verdict.DIFFERS, reason, Code.PORT_LISTENER_TWICE, remedies), self.side)


@dataclass(frozen=True, slots=True)
class Neighbours:
    """All that other tunnels are to one: its rows about them are made from this and nothing else."""

    call: Call | None = None
    shares: tuple[tuple[_RowsOf, OtherCalls], ...] = ()
    ports: tuple[TakenPort, ...] = ()
    networks: tuple[SharedNetworks, ...] = ()


NO_NEIGHBOURS: Final = Neighbours()


class GatewayTunnels:
    """What the tunnels of each gateway have in common, ready to be asked for each tunnel."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self._calls: dict[str, Call | None] = {}
        self._by_identity: dict[tuple[str, Identity], list[Call]] = defaultdict(list)
        self._by_key_pair: dict[tuple[str, str], list[Call]] = defaultdict(list)
        self._by_account: dict[tuple[str, str], list[Call]] = defaultdict(list)
        self._by_peer: dict[_Answering, list[Call]] = defaultdict(list)
        self._known_lists: dict[_Answering, frozenset[_ProposalLists]] = {}
        self._by_outside: dict[tuple[str, Address], list[Call]] = defaultdict(list)
        self._known_services: dict[tuple[str, str, int], set[tuple[str, ...]]] = {}
        for tunnel in design.tunnels:
            if tunnel.left.enabled and tunnel.right.enabled and tunnel.left.technology is tunnel.right.technology:
                self._take(tunnel)
        self._shared = shared_networks(design)

    def _take(self, tunnel: Tunnel) -> None:
        call = self._calls[tunnel.id] = self._call(tunnel)
        if call is None:
            return
        end, hub = tunnel.end(call.caller), tunnel.end(call.answers)
        if end.technology.is_ipsec:
            self._by_peer[hub.gateway_id, hub.uplink_id, hub.peer_address].append(call)
            if end.local_identity and end.local_identity.value:
                self._by_identity[hub.gateway_id, end.local_identity].append(call)
        if end.technology.traits.by_allowed_prefixes and end.key_pair:
            self._by_key_pair[hub.gateway_id, end.key_pair.public].append(call)
        if end.account and (end.technology.traits.logs_in or end.local_auth is AuthMethod.EAP):
            self._by_account[hub.gateway_id, end.account.name].append(call)
        uplink = self._design.uplink_of(end)
        if uplink and uplink.behind_nat and uplink.address:
            self._by_outside[hub.gateway_id, uplink.address].append(call)

    @cached_property
    def _mixed_uplinks(self) -> frozenset[str]:
        """The uplinks at which anything but IPsec is waited for: all tunnels of IPsec share its own ports."""
        tunnels = (self._design.tunnel_by_id[id_] for id_ in self._calls)
        ends = (end for one in tunnels for end in (one.left, one.right) if not end.technology.is_ipsec)
        return frozenset(end.uplink_id for end in ends if end.uplink_id)

    @cached_property
    def _listeners(self) -> dict[tuple[str, str, int], list[Listener]]:
        found: dict[tuple[str, str, int], list[Listener]] = defaultdict(list)
        for tunnel_id, call in self._calls.items() if self._mixed_uplinks else ():
            tunnel = self._design.tunnel_by_id[tunnel_id]
            for side in SIDES:
                if tunnel.end(side).uplink_id in self._mixed_uplinks:
                    for key, listener in _listening(tunnel, side, call):
                        found[key].append(listener)
        return found

    @cached_property
    def _crowded(self) -> frozenset[str]:
        """The ids of tunnels whose calls share something with others."""
        one_each = self._by_identity.values(), self._by_key_pair.values(), self._by_account.values(), self._by_outside.values()
        first_fits = (calls for place, calls in self._by_peer.items() if len(calls) > 1 and len(self._lists(place)) > 1)
        return frozenset(call.tunnel.id for calls in chain(*one_each, first_fits) if len(calls) > 1 for call in calls)

    def _call(self, tunnel: Tunnel) -> Call | None:
        """Return who calls whom; None where nobody does, or it isn't known."""
        for side in SIDES:
            end, far = tunnel.end(side), self._design.uplink_of(tunnel.end(side.other))
            over_tcp = end.technology.traits.over_tcp and Transport.TCP in (end.transport, tunnel.end(side.other).transport)
            if end.role and end.role.calls and far and far.callable(over_tcp) and end.peer_address != ANY_PEER:
                return Call(tunnel, side)
        return None

    def neighbours(self, tunnel: Tunnel) -> Neighbours:
        """Return what other tunnels have in common with one of the design."""
        call = self._calls.get(tunnel.id)
        groups = self._groups(call) if call and tunnel.id in self._crowded else ()
        shares = tuple((row_of, others) for row_of, others in groups if others.count)
        sides = [side for side in SIDES if tunnel.end(side).uplink_id in self._mixed_uplinks]
        ports = tuple(one for side in sides for one in self._taken_ports(tunnel, side, call))
        return Neighbours(call, shares, ports, tuple(self._shared.get(tunnel.id, ())))

    def _groups(self, call: Call) -> Iterator[tuple[_RowsOf, OtherCalls]]:
        """Yield the calls that a call shares something with, each with what makes rows of them."""
        end, hub = call.tunnel.end(call.caller), call.tunnel.end(call.answers)
        here = hub.gateway_id
        if end.technology.is_ipsec:
            yield first_that_fits, self._deciding(call, (here, hub.uplink_id, hub.peer_address))
            if end.local_identity:
                yield identity_twice, self._others(call, self._by_identity[here, end.local_identity])
        if end.key_pair:
            yield key_pair_twice, self._others(call, self._by_key_pair[here, end.key_pair.public])
        if end.account:
            yield account_twice, self._others(call, self._by_account[here, end.account.name])
        uplink = self._design.uplink_of(end)
        if uplink and uplink.address:
            yield same_nat, self._others(call, self._by_outside[here, uplink.address])

    def _deciding(self, call: Call, answering: _Answering) -> OtherCalls:
        """Return the tunnel that a hub takes before this one, since its proposals fit what the caller offers."""
        if len(self._lists(answering)) < 2:
            return NOBODY
        offer = call.tunnel.end(call.caller).ike_proposals
        for other in self._by_peer[answering]:
            if other.tunnel.id == call.tunnel.id:
                break
            accepted = other.tunnel.end(other.answers).ike_proposals
            alike = other.tunnel.left.technology is call.tunnel.left.technology
            kind = IKE[call.tunnel.left.technology]
            if alike and offer and accepted and isinstance(negotiate(offer, accepted, kind.leave_out), Agreement):
                return OtherCalls((other,), 1)
        return NOBODY

    def _services(self, uplink: str, protocol: str, port: int) -> set[tuple[str, ...]]:
        key = uplink, protocol, port
        if key not in self._known_services:
            self._known_services[key] = {one.service for one in self._listeners[key]}
        return self._known_services[key]

    def _lists(self, answering: _Answering) -> frozenset[_ProposalLists]:
        """Return the different lists of IKE proposals of the tunnels that answer at one place."""
        if answering not in self._known_lists:
            ends = [one.tunnel.end(one.answers) for one in self._by_peer[answering]]
            self._known_lists[answering] = frozenset(tuple(one.facts for one in end.ike_proposals) for end in ends)
        return self._known_lists[answering]

    def _others(self, call: Call, calls: list[Call]) -> OtherCalls:
        """Return the calls of other devices: one that calls twice knows that it does."""
        if len(calls) < 2:
            return NOBODY
        own = call.tunnel.end(call.caller).gateway_id
        others = (one for one in calls if one.tunnel.end(one.caller).gateway_id != own)
        first = tuple(islice(others, _MOST_NAMED))
        # how many there are beside is told roughly: a device that calls twice counts as two
        return OtherCalls(first, len(calls) - 1 if first else 0)

    def _taken_ports(self, tunnel: Tunnel, side: Side, call: Call | None) -> Iterator[TakenPort]:
        for key, listener in _listening(tunnel, side, call):
            if len(self._services(*key)) < 2:
                continue
            others = [one for one in self._listeners[key] if one.service != listener.service and _is_first(one, listener)]
            if others:
                uplink, protocol, port = key
                taken = {number for (where, carried, number) in self._listeners if (where, carried) == (uplink, protocol)}
                free = next(number for number in range(max(port + 1, _FIRST_PORT), _LAST_PORT) if number not in taken)
                on = named(self._design.uplink_by_id[uplink])
                yield TakenPort(side, named(others[0].tunnel), protocol.upper(), port, on, free)


def neighbour_rows(ends: TunnelEnds, beside: Neighbours) -> Iterator[Row]:
    """Yield what stands between a tunnel and others of its gateways; nothing where none is in its way."""
    if beside.call and ends.technology:
        for rows_of, others in beside.shares:
            yield from rows_of(ends, beside.call, others)
    for port in beside.ports:
        yield port.row(ends)
    for shared in beside.networks:
        yield networks_twice(ends, shared)


def _is_first(one: Listener, other: Listener) -> bool:
    """Whether the first of two listeners has the port: IPsec can't use another one, and otherwise the first has it."""
    fixed = [listener.service == _IPSEC for listener in (one, other)]
    return fixed[0] or (not fixed[1] and one.tunnel.id < other.tunnel.id)


def _listening(tunnel: Tunnel, side: Side, call: Call | None) -> Iterator[tuple[tuple[str, str, int], Listener]]:
    """Yield the ports that an end waits on. IPsec shares its own among all its tunnels."""
    end = tunnel.end(side)
    if end.uplink_id is None or (call and call.caller is side):
        return
    if end.technology.is_ipsec:
        for port in _IKE_PORTS:
            yield (end.uplink_id, "udp", port), Listener(tunnel, side, _IPSEC)
    elif end.port and end.technology.traits.over_tcp and end.transport:
        own = end.certificates[0].pem if end.certificates else ""
        yield (end.uplink_id, end.transport.value, end.port), Listener(tunnel, side, ("tls", own))
    elif end.port and end.technology.traits.by_allowed_prefixes and end.key_pair:
        yield (end.uplink_id, "udp", end.port), Listener(tunnel, side, ("peer-key", end.key_pair.public))
