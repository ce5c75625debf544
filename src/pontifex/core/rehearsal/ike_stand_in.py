"""A stand-in gateway that speaks IKEv2: the machine of its end, its Child SAs, and what it forwards."""

from __future__ import annotations

from dataclasses import dataclass, field

from pontifex.core.addressing import Address, Family, Region
from pontifex.core.esp import EspError, InboundSa, OutboundSa
from pontifex.core.ike.effects import (
    IKE_PORT,
    NAT_PORT,
    ChildInstalled,
    ChildRemoved,
    ChildSa,
    Effect,
    IkeEstablished,
    IkeMoved,
    Keepalive,
    Logged,
    LogLevel,
    Redial,
    Send,
    Socket,
)
from pontifex.core.ike.endpoint import Endpoint
from pontifex.core.ike.message import ExchangeType
from pontifex.core.ike.settings import EndSettings
from pontifex.core.ipsec import TransformType
from pontifex.core.ipsec.overhead import OverheadError, overhead
from pontifex.core.kinds import Role
from pontifex.core.rehearsal.gateway import StandIn, allows
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import ESP, IP_IN_IP, KEEPALIVE, UDP, InnerHeader, Packet, read_inner

_EXCHANGE = 18  # where the header of IKE has the exchange type (RFC 7296 section 3.1)
_FIRST = bytes((ExchangeType.IKE_SA_INIT,))
NON_ESP_MARKER = bytes(4)  # before IKE at port 4500 (RFC 3948 section 2.2)


@dataclass(slots=True)
class Carrying:
    """A Child SA in use, with both its directions and where its packets go."""

    sa: ChildSa
    inbound: InboundSa
    outbound: OutboundSa
    in_udp: bool


@dataclass(slots=True)
class IkeStandIn(StandIn):
    """A gateway whose tunnel is of IPsec with IKEv2."""

    carrying: dict[bytes, Carrying] = field(default_factory=dict)  # by inbound SPI, oldest first
    endpoint: Endpoint | None = None

    def start(self, now: float) -> None:
        """Begin from nothing, as after a restart: no SA is left. An end that calls calls at once."""
        self.carrying.clear()
        self.endpoint = Endpoint(self._settings, self.entropy) if self.own.is_on else None
        if self.own.role is Role.CALL:
            self.dial(now)

    def stop(self) -> None:
        """Switch the end off without a word to the other one."""
        self.carrying.clear()
        self.endpoint = None

    @property
    def due(self) -> float:
        """When the machine is to be woken."""
        return self.endpoint.due if self.endpoint else float("inf")

    def dial(self, now: float) -> None:
        """Call the other end, where there is an address to call."""
        if self.endpoint is None:
            return
        remote = self.peer_to_call()
        if remote is None:
            return
        self._act(now, self.endpoint.dial(now, Socket(self.local, IKE_PORT), Socket(remote, IKE_PORT)))

    def move(self, now: float, address: Address) -> None:
        """Take another address: where both ends can, the IKE SAs go on from there."""
        self.local = address
        if self.endpoint:
            self._act(now, self.endpoint.move(now, address))

    def wake(self, now: float) -> None:
        """Do what is due."""
        if self.endpoint:
            self._act(now, self.endpoint.wake(now))

    def receive(self, now: float, packet: Packet) -> None:
        """Take a packet from outside: ESP, or IKE at one of its ports."""
        if self.endpoint is None:
            return
        if packet.protocol == ESP:
            self._open(packet.payload)
        elif packet.destination.port == IKE_PORT:
            self._hear(now, packet, packet.payload)
        elif packet.payload[:4] == NON_ESP_MARKER:
            self._hear(now, packet, packet.payload[4:])
        elif packet.payload != KEEPALIVE:
            self._open(packet.payload)

    def _hear(self, now: float, packet: Packet, octets: bytes) -> None:
        if octets[_EXCHANGE : _EXCHANGE + 1] == _FIRST and not self.is_from_peer(packet):
            return  # what belongs to an IKE SA is known by its seal, wherever it comes from
        assert self.endpoint
        self._act(now, self.endpoint.receive(now, octets, packet.source, packet.destination))

    def _open(self, octets: bytes) -> None:
        """Open a packet of ESP, and pass on what is inside where the Child SA may carry it (RFC 4301 section 5.2)."""
        carrying = self.carrying.get(octets[:4])
        if carrying is None:
            return
        try:
            inner, _ = carrying.inbound.open(octets)
        except EspError as error:
            self.log(Logged(f"A packet of ESP is dropped: {error}.", LogLevel.WARNING))
            return
        header = read_inner(inner)
        if header is None or not allows(carrying.sa.local, carrying.sa.remote, header, outbound=False):
            self.log(Logged("A packet from the tunnel is dropped: its addresses aren't those of the Child SA.", LogLevel.WARNING))
            return
        self.delivered(inner)

    @property
    def is_running(self) -> bool:
        """Whether the end is switched on."""
        return self.endpoint is not None

    def carry(self, now: float, inner: bytes, header: InnerHeader) -> str:
        """Send an inner packet by the newest Child SA that may carry it; an end that calls on traffic calls for it."""
        fitting = [
            candidate
            for candidate in reversed(self.carrying.values())
            if allows(candidate.sa.local, candidate.sa.remote, header, outbound=True)
        ]
        if not fitting:
            if self.own.role is Role.ON_TRAFFIC and self.endpoint and not self.endpoint.stands:
                self.dial(now)
            return "no Child SA carries it"
        carrying = fitting[0]
        packet = carrying.outbound.protect(inner, IP_IN_IP[header.source.family], self.entropy)
        self._send_esp(carrying, packet)
        return ""

    def _send_esp(self, carrying: Carrying, octets: bytes) -> None:
        assert self.endpoint  # it has Child SAs
        local, remote = self.endpoint.sockets_of(carrying.sa.spi_in)
        if carrying.in_udp:
            self.send(Packet(local, remote, UDP, octets), None)
        else:
            self.send(Packet(Socket(local.address, 0), Socket(remote.address, 0), ESP, octets), None)

    def _act(self, now: float, effects: list[Effect]) -> None:
        """Do what the machine has left to be done, in its order."""
        for effect in effects:
            match effect:
                case Send():
                    marker = NON_ESP_MARKER if effect.source.port == NAT_PORT else b""
                    self.send(Packet(effect.source, effect.destination, UDP, marker + effect.octets), effect.message)
                case Keepalive():
                    self.send(Packet(effect.source, effect.destination, UDP, KEEPALIVE), None)
                case Logged():
                    self.log(effect)
                case ChildInstalled():
                    self._install(effect)
                case ChildRemoved():
                    self.carrying.pop(effect.spi_in, None)
                case IkeEstablished():
                    self.counters.established += 1
                    self.counters.ike_rekeys += effect.rekeyed
                case IkeMoved():
                    for spi in effect.children:
                        self.carrying[spi].in_udp = effect.in_udp
                case Redial():
                    self.dial(now)
                case _:
                    pass
            self.changed(effect)

    def _install(self, installed: ChildInstalled) -> None:
        sa, keys = installed.child, installed.child.keys
        outwards, inwards = (keys.encryption_i, keys.integrity_i), (keys.encryption_r, keys.integrity_r)
        if not sa.initiated:
            outwards, inwards = inwards, outwards
        inbound, outbound = InboundSa(sa.spi_in, sa.suite, *inwards), OutboundSa(sa.spi_out, sa.suite, *outwards)
        self.carrying[sa.spi_in] = Carrying(sa, inbound, outbound, installed.in_udp)
        self.counters.child_rekeys += installed.replaces is not None

    @property
    def _settings(self) -> EndSettings:
        assert isinstance(self.own.settings, EndSettings)
        return self.own.settings

    @property
    def carries(self) -> tuple[Region, Region] | None:
        """The networks of the newest Child SA."""
        newest = next(reversed(self.carrying.values()), None)
        return (newest.sa.local, newest.sa.remote) if newest else None

    def inner_mtu(self, outer: Family, path_mtu: int) -> int | None:
        """Return what ESP leaves of the path (RFC 4303)."""
        newest = next(reversed(self.carrying.values()), None)
        if newest is None:
            return None
        chosen = {transform.type: transform for transform in newest.sa.chosen}
        try:
            encryption, integrity = chosen[TransformType.ENCR], chosen.get(TransformType.INTEG)
            return overhead(encryption, integrity, outer, newest.in_udp, path_mtu).inner_mtu
        except OverheadError:
            return None

    def is_paired_with(self, other: StandIn) -> bool:
        """Whether both ends have the two halves of one Child SA."""
        theirs = other.carrying.values() if isinstance(other, IkeStandIn) else ()
        outgoing = {carrying.sa.spi_out for carrying in self.carrying.values()}
        return any(their.sa.spi_in in outgoing for their in theirs)

    @property
    def ports(self) -> frozenset[int]:
        """The ports of IKE."""
        return frozenset((IKE_PORT, NAT_PORT))

    def configure(self, own: OwnEnd) -> None:
        """Take what was entered."""
        self.own = own
        if self.endpoint:
            self.endpoint.configure(self._settings)
