"""What one tunnel alone can't show: the tunnels of one gateway, judged together.

What two callers of one gateway share puts them in each other's way (`callers`), and so do networks (`overlapping`) and
ports that two of its tunnels have in common.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from copy import copy
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import islice
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import ANY_PEER, SIDES, AuthMethod, Side, Transport, Tunnel, Uplink
from pontifex.core.matching.answering import AnsweringCalls, asked_by
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
from pontifex.core.matching.row import Judgement, Relation, Row, RowHeading, Stage, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Design
from pontifex.core.reasons import Named, named, reach

_IKE_PORTS: Final = (500, 4500)  # RFC 7296 section 2.23
_FIRST_PORT, _LAST_PORT = 1024, 65_535
_IPSEC: Final = ("ipsec",)
_MOST_NAMED: Final = 3


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
_Meeting = tuple[_RowsOf, str, object]  # what makes rows of it, the gateway that answers, and what calls have in common there


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
        self._by: dict[_Meeting, list[Call]] = defaultdict(list)
        self._known_answers: dict[_Meeting, AnsweringCalls] = {}
        self._known_services: dict[tuple[str, str, int], set[tuple[str, ...]]] = {}
        for tunnel in design.tunnels:
            if _is_judged(tunnel):
                call = self._calls[tunnel.id] = _call(design, tunnel)
                if call:
                    for meeting in _meetings(design, call):
                        self._by[meeting].append(call)
        self._shared = shared_networks(design)

    @classmethod
    def of(cls, design: Design) -> GatewayTunnels:
        """Return those of a design, worked out once for all that is asked of the very same state."""
        return _kept(_State(design))

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
        shared = (calls for meeting, calls in self._by.items() if len(calls) > 1 and self._matters(meeting))
        return frozenset(call.tunnel.id for calls in shared for call in calls)

    def _matters(self, meeting: _Meeting) -> bool:
        """Whether several calls that meet get in each other's way: at one place only where what fits isn't the same for all."""
        return meeting[0] is not first_that_fits or self._answers(meeting).differ

    def replaced(self, design: Design, tunnel: Tunnel) -> GatewayTunnels:
        """Return the same of a design with a tunnel in place of the one of its id, which `meets` others as that one did."""
        made = copy(self)
        made._design = design
        vars(made).pop("_crowded", None)
        old = self._calls.get(tunnel.id)
        if old:
            call = Call(tunnel, old.caller)
            made._calls = {**self._calls, tunnel.id: call}
            made._by, made._known_answers = self._by.copy(), self._known_answers.copy()
            for meeting in _meetings(design, call):
                made._by[meeting] = [call if one is old else one for one in self._by[meeting]]
                if meeting in self._known_answers:
                    made._known_answers[meeting] = self._known_answers[meeting].replaced(old, call)
        return made

    def touched(self, tunnel: Tunnel, after: GatewayTunnels) -> Iterator[str]:
        """Yield the ids of other tunnels whose neighbours aren't the same once a tunnel is `replaced`."""
        call = self._calls.get(tunnel.id)
        for meeting in _meetings(self._design, call) if call else ():
            calls = self._by[meeting]
            if meeting[0] is first_that_fits:
                was, is_ = self._answers(meeting), after._answers(meeting)
                unlike = {asked for asked in was.offers | is_.offers if was.first(asked) != is_.first(asked)}
                by_it = was.places[tunnel.id]
                changed = unlike | {asked for asked in was.offers if was.first(asked) == by_it}
                yield from (one.tunnel.id for one in calls if changed and one is not call and asked_by(one) in changed)
            elif len(calls) > 1:
                yield from (one.tunnel.id for one in calls if one is not call)

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
        for meeting in _meetings(self._design, call):
            rows_of = meeting[0]
            yield rows_of, self._deciding(call, meeting) if rows_of is first_that_fits else self._others(call, self._by[meeting])

    def _deciding(self, call: Call, meeting: _Meeting) -> OtherCalls:
        """Return the tunnel that a hub takes before this one, since its proposals fit what the caller offers."""
        answers = self._answers(meeting)
        first = answers.first(asked_by(call))
        if first is None or first >= answers.places[call.tunnel.id]:
            return NOBODY
        return OtherCalls((self._by[meeting][first],), 1)

    def _services(self, uplink: str, protocol: str, port: int) -> set[tuple[str, ...]]:
        key = uplink, protocol, port
        if key not in self._known_services:
            self._known_services[key] = {one.service for one in self._listeners[key]}
        return self._known_services[key]

    def _answers(self, meeting: _Meeting) -> AnsweringCalls:
        if meeting not in self._known_answers:
            self._known_answers[meeting] = AnsweringCalls(self._by[meeting])
        return self._known_answers[meeting]

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


class _State:
    """A state of a design, the same one as itself alone: to compare all that it holds would take longer than it saves."""

    def __init__(self, design: Design) -> None:
        self.design = design

    def __hash__(self) -> int:
        return id(self.design)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _State) and other.design is self.design


@lru_cache(maxsize=4)
def _kept(state: _State) -> GatewayTunnels:
    return GatewayTunnels(state.design)


def _is_judged(tunnel: Tunnel) -> bool:
    return tunnel.left.enabled and tunnel.right.enabled and tunnel.left.technology is tunnel.right.technology


def _call(design: Design, tunnel: Tunnel) -> Call | None:
    """Return who calls whom; None where nobody does, or it isn't known."""
    for side in SIDES:
        end, far = tunnel.end(side), design.uplink_of(tunnel.end(side.other))
        over_tcp = end.technology.traits.over_tcp and Transport.TCP in (end.transport, tunnel.end(side.other).transport)
        if end.role and end.role.calls and far and far.callable(over_tcp) and end.peer_address != ANY_PEER:
            return Call(tunnel, side)
    return None


def _meetings(design: Design, call: Call) -> Iterator[_Meeting]:
    """Yield what calls can have in common, each with what makes rows of it."""
    end, hub = call.tunnel.end(call.caller), call.tunnel.end(call.answers)
    here = hub.gateway_id
    if end.technology.is_ipsec:
        yield first_that_fits, here, (hub.uplink_id, hub.peer_address)
        if end.local_identity and end.local_identity.value:
            yield identity_twice, here, end.local_identity
    if end.technology.traits.by_allowed_prefixes and end.key_pair:
        yield key_pair_twice, here, end.key_pair.public
    if end.account and (end.technology.traits.logs_in or end.local_auth is AuthMethod.EAP):
        yield account_twice, here, end.account.name
    uplink = design.uplink_of(end)
    if uplink and uplink.behind_nat and uplink.address:
        yield same_nat, here, uplink.address


def meets(design: Design, tunnel: Tunnel) -> tuple[object, ...]:
    """Return all by which other tunnels come across a tunnel, but for its networks and where it runs.

    That is who calls, what calls have in common, and the ports that are waited on.
    """
    call = _call(design, tunnel) if _is_judged(tunnel) else None
    listening = [(key, listener.service) for side in SIDES for key, listener in _listening(tunnel, side, call)]
    return (call and call.caller, *(_meetings(design, call) if call else ()), *listening)


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
