"""A stand-in gateway between its hosts and its tunnel: what it does with a packet, and what it remembers of connections.

The networks of a tunnel that goes by them come first (RFC 4301 section 4.4.1), then rules, then the longest prefix. What a
gateway with state has let through and translated goes on so, there and back (RFC 3022 section 2).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from enum import Enum

from pontifex.core.addressing import Address
from pontifex.core.kinds import FilterDirection, Outranking, TranslatedSide, TranslationKind
from pontifex.core.rehearsal.hosts.configured import Into, OwnForwarding, OwnRoute, OwnRule, Preference
from pontifex.core.rehearsal.hosts.packet import HostPacket, Saying, read_host_packet
from pontifex.core.rehearsal.packets import any_selects

_Ends = tuple[Address, Address, int, tuple[int, int]]  # source, destination, protocol and ports


class Came(Enum):
    """How a packet has come to a gateway."""

    LAN = "lan"
    TUNNEL = "tunnel"
    ITSELF = "itself"  # it is the gateway's own


class PacketFate(Enum):
    """What a gateway does with a packet."""

    LAN = Into.LAN
    TUNNEL = Into.TUNNEL
    UPLINK = Into.UPLINK
    ITSELF = "itself"  # it is meant for the gateway
    EXPIRED = "expired"  # it has gone too far
    DROPPED = "dropped"


@dataclass(frozen=True, slots=True)
class Forwarded:
    """What a gateway has done with a packet, and the packet as it leaves."""

    fate: PacketFate
    packet: HostPacket
    why: str = ""  # DROPPED


@dataclass(frozen=True, slots=True)
class _Passage:
    """How packets of a known connection leave, and whether those are answers."""

    leaves: HostPacket
    is_answer: bool


@dataclass(slots=True)
class Forwarder:
    """One gateway's forwarding."""

    own: OwnForwarding
    _passages: dict[_Ends, _Passage] = field(default_factory=dict)  # by how packets of a connection come
    _answered: set[_Ends] = field(default_factory=set)  # how those came that have been answered

    def take(self, packet: HostPacket, came: Came, *, is_up: bool) -> Forwarded:
        """Return what becomes of a packet. `is_up` tells whether the tunnel can be used."""
        passage = self._passage(packet)
        inside = self._arrived(packet, came, passage)
        refused = self._not_forwarded(inside, came)
        if refused:
            return refused
        into, inside, why = self._decide(inside, came, passage, is_up=is_up)
        if into is None:
            return Forwarded(PacketFate.DROPPED, inside, why)
        if came is not Came.ITSELF and not self._is_known(packet, passage) and not self._lets_through(inside, came, into):
            return Forwarded(PacketFate.DROPPED, inside, f"no filter of {self.own.name} lets it through")
        left = self._leaving(inside, into, passage)
        if self.own.keeps_state and passage is None and packet.may_begin:
            self._passages[_ends(packet)] = _Passage(left, is_answer=False)
            self._passages.setdefault(_ends(left.turned()), _Passage(packet.turned(), is_answer=True))  # it may come by again
        return Forwarded(PacketFate(into), replace(left, hops=left.hops - (came is not Came.ITSELF)))

    def _not_forwarded(self, inside: HostPacket, came: Came) -> Forwarded | None:
        """Return what becomes of a packet that isn't forwarded whatever the tables say; None where they are asked."""
        if came is Came.ITSELF:
            return None
        if inside.source in self.own.addresses:
            return Forwarded(PacketFate.DROPPED, inside, f"it comes back to {self.own.name}, whose own address it is from")
        if inside.destination in self.own.addresses:
            return Forwarded(PacketFate.ITSELF, inside)
        if not self.own.forwards:
            return Forwarded(PacketFate.DROPPED, inside, f"{self.own.name} doesn't forward")
        if inside.hops <= 1:
            return Forwarded(PacketFate.EXPIRED, inside)
        return None

    def _passage(self, packet: HostPacket) -> _Passage | None:
        """Return how a packet of a known connection leaves; an error goes with the connection that it is about."""
        if packet.saying is not Saying.TIME_EXCEEDED:
            return self._passages.get(_ends(packet))
        known = self._passages.get(_ends(read_host_packet(packet.quoted).turned()))
        if known is None:
            return None
        return _Passage(replace(packet, destination=known.leaves.destination), is_answer=True)

    def _is_known(self, packet: HostPacket, passage: _Passage | None) -> bool:
        """Whether a packet belongs to a connection that stands: it answers one, or follows an answer."""
        if passage and passage.is_answer:
            self._answered.add(_ends(passage.leaves.turned()))
            return True
        return _ends(packet) in self._answered

    def _arrived(self, packet: HostPacket, came: Came, passage: _Passage | None) -> HostPacket:
        """Return a packet as it is routed here: what goes into a tunnel is translated behind that."""
        if passage and (passage.is_answer or came is Came.TUNNEL):
            inside = replace(packet, destination=passage.leaves.destination)
            return inside if passage.is_answer else replace(inside, source=passage.leaves.source)
        if passage or came is not Came.TUNNEL or not self._translates(packet):
            return packet
        return self._by_list(packet, TranslatedSide.FAR, TranslatedSide.OWN)

    def _leaving(self, inside: HostPacket, into: Into, passage: _Passage | None) -> HostPacket:
        """Return a packet as it leaves."""
        if passage:
            return replace(inside, source=passage.leaves.source, destination=passage.leaves.destination)
        if into is not Into.TUNNEL or not self._translates(inside):
            return inside
        return self._by_list(inside, TranslatedSide.OWN, TranslatedSide.FAR)

    def _translates(self, packet: HostPacket) -> bool:
        """Whether a packet of no known connection is translated by the list: with state only what begins one."""
        return packet.may_begin or not self.own.keeps_state

    def _by_list(self, packet: HostPacket, sources: TranslatedSide, destinations: TranslatedSide) -> HostPacket:
        """Translate source and destination, each by the first translation that is about it."""
        translations = self.own.translations
        shown = next(
            (
                translation
                for translation in translations
                if translation.side is sources and translation.inside.holds(packet.source)
            ),
            None,
        )
        led = next(
            (
                translation
                for translation in translations
                if translation.side is destinations
                and translation.kind is TranslationKind.ONE_TO_ONE
                and translation.outside.holds(packet.destination)
            ),
            None,
        )
        source, destination = packet.source, packet.destination
        if shown:
            source = Address(source.family, shown.seen(source.value))
        if led:
            destination = Address(destination.family, destination.value - led.outside.network + led.inside.network)
        return replace(packet, source=source, destination=destination)

    # --- decisions

    def _decide(
        self, inside: HostPacket, came: Came, passage: _Passage | None, *, is_up: bool
    ) -> tuple[Into | None, HostPacket, str]:
        """Return where a packet goes, the packet as it is marked, and why where it goes nowhere."""
        own = self.own
        if own.by_networks and self._named(self._leaving(inside, Into.TUNNEL, passage)):
            return (Into.TUNNEL if is_up else None), inside, "the tunnel that takes it is down"
        before = self._route(inside, self._outranking(), is_up=is_up)
        if before:
            return before, inside, ""
        for rule in own.rules if came is not Came.ITSELF else ():
            if not _is_about(rule, inside):
                continue
            if rule.marks is not None:
                inside = replace(inside, dscp=rule.marks)
            if rule.by_tunnel and is_up:
                return Into.TUNNEL, inside, ""
            if rule.holds:
                return None, inside, f"a rule of {own.name} holds it"
        return self._route(inside, own.routes, is_up=is_up) or Into.UPLINK, inside, ""

    def _named(self, packet: HostPacket) -> bool:
        """Whether the tunnel's networks name a packet; without any of its own side it is all that goes to the far ones."""
        near, far = self.own.local, self.own.remote
        ports = packet.header.ports
        return any_selects(far, packet.destination, packet.protocol, ports, 1) and (
            not near or any_selects(near, packet.source, packet.protocol, ports, 0)
        )

    def _outranking(self) -> Iterable[OwnRoute]:
        """Return the routes that are asked before any rule."""
        if self.own.outranking is Outranking.SPECIFIC:
            return (route for route in self.own.routes if route.to.length)
        if self.own.outranking is Outranking.CONNECTED:
            return (route for route in self.own.routes if route.preference is Preference.CONNECTED)
        return ()

    @staticmethod
    def _route(packet: HostPacket, routes: Iterable[OwnRoute], *, is_up: bool) -> Into | None:
        """Return where the longest prefix leads; a route into a tunnel that is down goes with its interface."""
        usable = (route for route in routes if route.to.holds(packet.destination) and (is_up or route.into is not Into.TUNNEL))
        best = min(usable, key=lambda route: (-route.to.length, route.preference, route.metric), default=None)
        return best.into if best else None

    # --- filters

    def _lets_through(self, packet: HostPacket, came: Came, into: Into) -> bool:
        """Whether the filters let a packet through that belongs to no known connection."""
        way = _direction(came, into)
        asked = [candidate for candidate in self.own.filters if candidate.direction is way]
        if way is None or not asked:
            return True
        if self.own.keeps_state and not packet.may_begin:
            return False  # it hasn't seen the connection begin
        ports = packet.header.ports
        return any(
            (not rule.sources or any(prefix.holds(packet.source) for prefix in rule.sources))
            and (not rule.destinations or any_selects(rule.destinations, packet.destination, packet.protocol, ports, 1))
            for rule in asked
        )


def _direction(came: Came, into: Into) -> FilterDirection | None:
    """Return which filters look at a packet; None for what stays inside the site."""
    if came is Came.TUNNEL:
        return FilterDirection.IN if into is Into.LAN else FilterDirection.THROUGH
    return None if into is Into.LAN else FilterDirection.OUT


def _is_about(rule: OwnRule, packet: HostPacket) -> bool:
    source = not rule.sources or any(prefix.holds(packet.source) for prefix in rule.sources)
    ports = packet.header.ports
    destination = not rule.destinations or any_selects(rule.destinations, packet.destination, packet.protocol, ports, 1)
    return source and destination and (not rule.classes or packet.dscp in rule.classes)


def _ends(packet: HostPacket) -> _Ends:
    return packet.source, packet.destination, packet.protocol, packet.ports
