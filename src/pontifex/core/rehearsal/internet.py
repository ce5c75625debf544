"""The simulated Internet between two uplinks: names, NAT, filters, delay, loss and sizes."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from random import Random
from typing import Final

from pontifex.core.addressing import Address, Family, parse_address
from pontifex.core.ike.effects import IKE_PORT, NAT_PORT, Socket
from pontifex.core.kinds import AddressKind, Uplink, peer_address
from pontifex.core.matching.alive import NAT_PATIENCE_S
from pontifex.core.matching.inner import USUAL_MTU
from pontifex.core.rehearsal.packets import ESP, PORTED, TCP, UDP, Packet

USUAL_DELAY_MS: Final = 10.0
_EXCHANGE: Final = 18  # where the header of IKE has the exchange type, before its flags (RFC 7296 section 3.1)
_CALL: Final = bytes((34, 0x08))  # IKE_SA_INIT, from the initiator
_HTTPS: Final = 443
_FIRST_MAPPED: Final = 61_000
_MADE_UP: Final = {Family.V4: "192.0.2.129", Family.V6: "2001:db8:ffff::129"}  # of an uplink whose address nobody has said
_INSIDE: Final = {Family.V4: "192.168.200.2", Family.V6: "fd00:c8::2"}  # of a device behind a NAT


class DroppedError(Exception):
    """A packet didn't arrive; the message says why and where."""


@dataclass(slots=True)
class Access:
    """A gateway's way to the Internet: what stands on it, and what it remembers of the packets that passed."""

    inside: Address  # that the device has itself
    outside: Address  # that the outside sees
    kind: AddressKind
    calls_arrive: bool
    udp_leaves: bool
    esp_passes: bool
    fragments_pass: bool
    nat_timeout_s: float
    delay_s: float
    jitter_s: float
    loss: float  # from 0 to 1
    mtu: int
    is_down: bool = False
    blocked: set[int] = field(default_factory=set)  # ports of UDP that don't pass, either way
    _ports: dict[Socket, int] = field(default_factory=dict)  # the port outside, by the socket inside
    _flows: dict[tuple[Socket, Socket], float] = field(default_factory=dict)  # inside and far socket: when it last spoke

    @property
    def translates(self) -> bool:
        """Whether a NAT stands on it."""
        return self.kind in (AddressKind.BEHIND_NAT, AddressKind.CARRIER_NAT)

    def forget(self) -> None:
        """Let the NAT or filter forget all that passed."""
        self._ports.clear()
        self._flows.clear()

    def leave(self, now: float, packet: Packet) -> Packet:
        """Return a packet as the outside sees it. Raise DroppedError where it doesn't get out."""
        if self.is_down:
            raise DroppedError("the uplink is down")
        if not self.udp_leaves and not self._is_https(packet):
            raise DroppedError("only TCP 443 leaves here")
        if packet.protocol == ESP and not self.esp_passes:
            raise DroppedError("ESP doesn't leave here")
        if self.blocked and {packet.source.port, packet.destination.port} & self.blocked:
            raise DroppedError("the port is blocked")
        if packet.destination.address.family is not self.outside.family:
            raise DroppedError("the uplink has no address of the destination's family")
        if self.translates and packet.protocol not in PORTED:
            raise DroppedError("the NAT passes UDP and TCP alone, and this is ESP without UDP")
        self._flows[packet.source, packet.destination] = now
        if packet.source.address == self.outside:
            return packet
        return Packet(self._mapped(now, packet.source), packet.destination, packet.protocol, packet.payload)

    def _is_https(self, packet: Packet) -> bool:
        """Whether a packet goes to TCP 443, or answers a connection that came from outside."""
        answers = (packet.source, packet.destination) in self._flows
        return packet.protocol == TCP and (packet.destination.port == _HTTPS or answers)

    def _mapped(self, now: float, source: Socket) -> Socket:
        """Return the socket outside: the same port while it is free, and the same one for all destinations (RFC 4787)."""
        if not self.translates:
            return Socket(self.outside, source.port)
        live = {inside for (inside, _), last in self._flows.items() if now - last < self.nat_timeout_s}
        for inside in [candidate for candidate in self._ports if candidate not in live]:
            del self._ports[inside]
        if source not in self._ports:
            taken = set(self._ports.values())
            is_shared = self.kind is AddressKind.CARRIER_NAT
            free = (port for port in range(_FIRST_MAPPED, 65_536) if port not in taken)
            self._ports[source] = next(free) if is_shared or source.port in taken else source.port
        return Socket(self.outside, self._ports[source])

    def arrive(self, now: float, packet: Packet) -> Packet:
        """Return a packet as the device gets it. Raise DroppedError where it doesn't get in."""
        if self.is_down:
            raise DroppedError("the far end's uplink is down")
        if packet.protocol == ESP and not self.esp_passes:
            raise DroppedError("ESP doesn't arrive at the far end")
        if packet.destination.port in self.blocked:
            raise DroppedError("the port is blocked at the far end")
        is_open = self.calls_arrive and not self.translates  # whatever comes gets in, and nothing of it is kept in mind
        inside = None if is_open else self._inside_of(packet.destination)
        if inside and self._is_answer(now, packet, inside) and (self.calls_arrive or not _is_call(packet)):
            self._flows[inside, packet.source] = now
            return Packet(packet.source, inside, packet.protocol, packet.payload)
        if not self.calls_arrive:
            raise DroppedError(
                "the NAT knows nothing of it, and forwards no call" if self.translates else "calls from outside don't arrive"
            )
        to = Socket(self.inside, packet.destination.port)
        if packet.protocol == TCP:
            self._flows[to, packet.source] = now
        return Packet(packet.source, to, packet.protocol, packet.payload)

    def _is_answer(self, now: float, packet: Packet, inside: Socket) -> bool:
        """Whether the device has lately sent something to where a packet comes from; for ESP, from any port."""
        if packet.protocol == UDP:
            return now - self._flows.get((inside, packet.source), -math.inf) < self.nat_timeout_s
        far = packet.source.address
        return any(to.address == far and now - last < self.nat_timeout_s for (_, to), last in self._flows.items())

    def _inside_of(self, destination: Socket) -> Socket | None:
        if not self.translates:
            return Socket(self.inside, destination.port)
        return next((inside for inside, port in self._ports.items() if port == destination.port), None)


def _is_call(packet: Packet) -> bool:
    """Whether this is a request of IKE_SA_INIT: where calls don't arrive, it doesn't either while this end calls, too."""
    ike = packet.payload[4:] if packet.destination.port == NAT_PORT else packet.payload
    return packet.protocol == UDP and packet.destination.port in (IKE_PORT, NAT_PORT) and ike[_EXCHANGE : _EXCHANGE + 2] == _CALL


def access(uplink: Uplink, far: Uplink, far_peer: str, *, over_tcp: bool = False) -> Access:
    """Return the access that an uplink is to a tunnel, which goes over TCP or not.

    `far` and its peer address tell what an address is that nobody has said.
    """
    outside = _outside(uplink, far, far_peer)
    behind_nat = uplink.behind_nat
    inside = Address(*parse_address(_INSIDE[outside.family])) if behind_nat else outside
    return Access(
        inside=inside,
        outside=outside,
        kind=uplink.address_kind,
        calls_arrive=uplink.callable(over_tcp),
        udp_leaves=not uplink.only_tcp_out,
        esp_passes=uplink.esp_passes,
        fragments_pass=uplink.fragments_pass,
        nat_timeout_s=uplink.nat_timeout_s or NAT_PATIENCE_S,
        delay_s=(USUAL_DELAY_MS if uplink.delay_ms is None else uplink.delay_ms) / 1000,
        jitter_s=(uplink.jitter_ms or 0) / 1000,
        loss=(uplink.loss_percent or 0) / 100,
        mtu=uplink.mtu or USUAL_MTU,
    )


def _outside(uplink: Uplink, far: Uplink, far_peer: str) -> Address:
    """Return the address that the outside sees. Behind a carrier's NAT it is one of a pool, and nobody's own."""
    if uplink.address and uplink.address_kind is not AddressKind.CARRIER_NAT:
        return uplink.address
    literal = peer_address(far_peer)
    if uplink.address_kind is AddressKind.CHANGING_PUBLIC and literal:
        return literal  # whoever wrote it down had seen it
    family = uplink.address.family if uplink.address else far.address.family if far.address else Family.V4
    made_up = Address(*parse_address(_MADE_UP[family]))
    return Address(family, made_up.value + 1) if made_up == literal else made_up


class Internet:
    """What lies between two accesses."""

    def __init__(self, random: Random) -> None:
        self._random = random

    def delay_s(self, packet: Packet, start: Access, end: Access) -> float:
        """Return after how many seconds a packet is at the far access. Raise DroppedError where it doesn't get that far."""
        if packet.destination.address != end.outside:
            raise DroppedError(f"nobody answers at {packet.destination.address}")
        self._check_size(packet, start, end)
        if self._random.random() >= (1 - start.loss) * (1 - end.loss):
            raise DroppedError("lost on the way")
        jitter = self._random.random() * (start.jitter_s + end.jitter_s)
        return start.delay_s + end.delay_s + jitter

    @staticmethod
    def _check_size(packet: Packet, start: Access, end: Access) -> None:
        """IKE may go in fragments of IP; a packet of the tunnel mustn't be cut."""
        most = min(start.mtu, end.mtu)
        if packet.size <= most:
            return
        at_ike = IKE_PORT in (packet.source.port, packet.destination.port)
        is_ike = packet.protocol == UDP and (at_ike or packet.payload[:4] == bytes(4))
        if is_ike and start.fragments_pass and end.fragments_pass:
            return
        why = ", and fragments of IP don't pass" if is_ike else ""
        raise DroppedError(f"larger than the path's MTU of {most} octets{why}")
