"""What hosts behind the gateways try: a connection, the way hop by hop, the address that the outside sees, and a name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Final

from pontifex.core.addressing import Address
from pontifex.core.kinds import SIDES, Side, Tunnel
from pontifex.core.model import Design
from pontifex.core.rehearsal.hosts.alone import alone
from pontifex.core.rehearsal.hosts.choice import AskingHost, asking_hosts
from pontifex.core.rehearsal.hosts.configured import own_forwarding
from pontifex.core.rehearsal.hosts.foreseen import Foreseen, foresee
from pontifex.core.rehearsal.hosts.forwarder import Came, Forwarder
from pontifex.core.rehearsal.hosts.journey import Arrival, Journeys, Reached
from pontifex.core.rehearsal.hosts.packet import DNS_PORT, HTTPS_PORT, HostPacket, Saying
from pontifex.core.rehearsal.probes import ProbeKind, ProbeResult
from pontifex.core.rehearsal.world import World
from pontifex.core.routing import Tables

_MOST_HOPS: Final = 8
_TRIES: Final = 3  # the first ones may bring the tunnel up
_TRIES_WITH_LOSS: Final = 40  # what is lost on the way is sent again, as a host does
_FIRST_PORT: Final = 49_152  # the first that is nobody's (RFC 6335 section 6)


@dataclass(slots=True)
class HostTrials:
    """All that hosts at both sides of a tunnel try, in one world."""

    tables: Tables  # of the tunnel alone
    tunnel: Tunnel
    world: World
    hosts: dict[Side, AskingHost]
    journeys: Journeys
    _port: int = field(default=_FIRST_PORT)

    def all(self) -> tuple[ProbeResult, ...]:
        """Try everything, from behind both gateways."""
        return tuple(self._tried(kind, side) for kind in _TRIED for side in SIDES if self._can_be_tried(kind, side))

    def foreseen(self, result: ProbeResult, *, is_up: bool) -> Foreseen:
        """Return what the trace says of a trial, with the tunnel up or down."""
        outside = {side: self.world.access[side].outside for side in SIDES}
        return foresee(self.tables, self.tunnel, self.hosts[result.sender], result.kind, outside, is_up=is_up)

    def _can_be_tried(self, kind: ProbeKind, side: Side) -> bool:
        host = self.hosts.get(side)
        if host is None or (kind is ProbeKind.OUTSIDE and host.outside is None):
            return False
        return kind is not ProbeKind.RESOLVER or bool(host.resolvers)

    def _tried(self, kind: ProbeKind, side: Side) -> ProbeResult:
        result = _TRIED[kind](self, side)
        loses = any(access.loss for access in self.world.access.values())
        for _ in range((_TRIES_WITH_LOSS if loses else _TRIES) - 1):
            if result.passes:
                break
            result = _TRIED[kind](self, side)
        return result

    def _next_port(self) -> int:
        """A port, or an identifier of an echo, that nobody has used yet."""
        self._port += 1
        return self._port

    def connect(self, side: Side) -> ProbeResult:
        """Connect to a port of the host at the other side (RFC 9293 section 3.5)."""
        host, began = self.hosts[side], self.world.clock.now
        start = HostPacket(host.address, host.destination, Saying.SYN, (self._next_port(), host.port))
        accepted, why = self._there_and_back(side, start)
        if accepted is None:
            return _failed(side, ProbeKind.TCP, why)
        took = self._ms_since(began)
        last = self.journeys.from_host(side, accepted.acknowledged())
        if not _is_at(last, side.other):
            return _failed(side, ProbeKind.TCP, f"the connection is accepted, and goes no further: {last.why}")
        text = f"connected to port {host.port} after {took:g} ms"
        return ProbeResult(kind=ProbeKind.TCP, sender=side, passes=True, round_trip_ms=took, octets=0, text=text)

    def _there_and_back(self, side: Side, packet: HostPacket) -> tuple[HostPacket | None, str]:
        """Send a packet and let whoever is reached answer; return the answer as it arrives, or None and why it doesn't."""
        there = self.journeys.from_host(side, packet)
        if not _is_at(there, side.other):
            return None, there.why or "it reaches somebody else"
        back = self.journeys.from_host(side.other, there.packet.answered())
        why = _why_no_answer(side, packet, back)
        return (None, f"it arrives, and {why}") if why else (back.packet, "")

    def follow(self, side: Side) -> ProbeResult:
        """Ask for echoes that go a little further each time, and note who answers (RFC 792)."""
        way: list[Address | None] = []
        reached, why = False, ""
        host, identifier = self.hosts[side], self._next_port()
        for hops in range(1, _MOST_HOPS + 1):
            request = HostPacket(host.address, host.destination, Saying.ECHO_REQUEST, (identifier, 0), hops)
            there = self.journeys.from_host(side, request)
            if there.reached is Reached.EXPIRED:
                way.append(self._answer_of_gateway(side, there))
                continue
            answer, why = self._there_and_back(side, replace(request, hops=hops))
            reached = answer is not None
            way += [host.destination] if reached else []
            break
        shown = ", ".join(str(address or "no answer") for address in way)
        text = shown if reached else "; ".join(filter(None, (shown, why)))
        known = tuple(address for address in way if address)
        return ProbeResult(
            kind=ProbeKind.HOPS, sender=side, passes=reached, round_trip_ms=None, octets=0, text=text, answers=known
        )

    def _answer_of_gateway(self, side: Side, there: Arrival) -> Address | None:
        """Let a gateway say that a packet has gone too far; return its address where that arrives."""
        own = self.journeys.forwarders[there.side].own
        home = self.journeys.home(there.side, there.packet.source)
        router = home.router if home else None
        address = own.inside_tunnel if there.came is Came.TUNNEL else router
        if address is None or address.family is not there.packet.source.family:
            return None
        back = self.journeys.from_gateway(there.side, there.packet.exceeded(address))
        return back.packet.source if _is_at(back, side) else None

    def ask_outside(self, side: Side) -> ProbeResult:
        """Ask the echo service by which address it sees the host."""
        host = self.hosts[side]
        assert host.outside
        there = self.journeys.from_host(side, HostPacket(host.address, host.outside, Saying.SYN, (self._next_port(), HTTPS_PORT)))
        if there.seen is None:
            return _failed(side, ProbeKind.OUTSIDE, there.why or "it doesn't get out")
        return _answered(side, ProbeKind.OUTSIDE, there.seen, f"seen as {there.seen}")

    def ask_name(self, side: Side) -> ProbeResult:
        """Ask the resolvers of the host's network for a name, one after the other, until one answers (RFC 1035 section 7.2)."""
        host = self.hosts[side]
        whys = []
        for resolver in host.resolvers:
            query = HostPacket(host.address, resolver, Saying.QUERY, (self._next_port(), DNS_PORT))
            why = self._unanswered(side, query)
            if not why:
                return _answered(side, ProbeKind.RESOLVER, resolver, f"{resolver} answers")
            whys.append(f"{resolver}: {why}")
        return _failed(side, ProbeKind.RESOLVER, "; ".join(whys))

    def _unanswered(self, side: Side, query: HostPacket) -> str:
        """Ask one resolver; return why no answer comes, or nothing where one does."""
        there = self.journeys.from_host(side, query)
        if there.reached is Reached.OUTSIDE:
            return ""
        if there.reached is Reached.HOST:
            back = self.journeys.from_host(there.side, there.packet.answered())
        elif there.reached is Reached.GATEWAY:
            back = self.journeys.from_gateway(there.side, there.packet.answered())
        else:
            return there.why
        return _why_no_answer(side, query, back)

    def _ms_since(self, began: float) -> float:
        return round((self.world.clock.now - began) * 1000, 3)


def _is_at(arrival: Arrival, side: Side) -> bool:
    return arrival.reached is Reached.HOST and arrival.side is side


def _why_no_answer(side: Side, asked: HostPacket, answer: Arrival) -> str:
    """Return why an answer isn't one to who asked from a side; nothing where it is."""
    if not _is_at(answer, side):
        return f"the answer doesn't arrive: {answer.why or 'it goes elsewhere'}"
    if answer.packet.source != asked.destination:
        return f"the answer comes from {answer.packet.source}, and one from {asked.destination} is waited for"
    return "" if answer.packet.destination == asked.source else f"the answer goes to {answer.packet.destination}"


def _failed(side: Side, kind: ProbeKind, text: str) -> ProbeResult:
    return ProbeResult(kind=kind, sender=side, passes=False, round_trip_ms=None, octets=0, text=text)


def _answered(side: Side, kind: ProbeKind, address: Address, text: str) -> ProbeResult:
    return ProbeResult(kind=kind, sender=side, passes=True, round_trip_ms=None, octets=0, text=text, answers=(address,))


_TRIED: Final[dict[ProbeKind, Callable[[HostTrials, Side], ProbeResult]]] = {
    ProbeKind.TCP: HostTrials.connect,
    ProbeKind.HOPS: HostTrials.follow,
    ProbeKind.OUTSIDE: HostTrials.ask_outside,
    ProbeKind.RESOLVER: HostTrials.ask_name,
}


def host_trials(design: Design, tunnel: Tunnel, world: World) -> HostTrials:
    """Return what hosts at both sides of a tunnel try; nothing where no two of them could speak."""
    design = alone(design, tunnel)
    tables = Tables(design)
    outside = {side: world.access[side].outside for side in SIDES}
    forwarders = {side: Forwarder(own_forwarding(design, design.tunnels[0], side)) for side in SIDES}
    hosts = asking_hosts(tables, design.tunnels[0], outside)
    return HostTrials(tables, design.tunnels[0], world, hosts, Journeys(world, forwarders))
