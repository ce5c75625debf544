"""A stand-in gateway: the machine of its end, its Child SAs, what it forwards, and what a restart makes it forget."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import lru_cache

from pontifex.core.addressing import Address, Region, parse_address
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, Selector
from pontifex.core.esp import EspError, InboundSa, OutboundSa
from pontifex.core.ike.effects import (
    IKE_PORT,
    NAT_PORT,
    ChildInstalled,
    ChildRemoved,
    ChildSa,
    Effect,
    IkeEstablished,
    Keepalive,
    Logged,
    LogLevel,
    Redial,
    Send,
    Socket,
)
from pontifex.core.ike.endpoint import Endpoint
from pontifex.core.ike.entropy import Entropy
from pontifex.core.ike.message import Message
from pontifex.core.kinds import ANY_PEER, Role, is_name
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import ESP, IP_IN_IP, KEEPALIVE, UDP, InnerHeader, Packet, read_inner

NON_ESP_MARKER = bytes(4)  # before IKE at port 4500 (RFC 3948 section 2.2)

SendPacket = Callable[[Packet, Message | None], None]
Resolve = Callable[[str], Address | None]


@dataclass(slots=True)
class Carrying:
    """A Child SA in use, with both its directions and where its packets go."""

    sa: ChildSa
    inbound: InboundSa
    outbound: OutboundSa
    in_udp: bool


@dataclass(slots=True)
class Counters:
    """What a gateway counts of its SAs."""

    established: int = 0
    ike_rekeys: int = 0
    child_rekeys: int = 0


@dataclass(slots=True)
class StandIn:
    """A gateway that knows its own end alone. `local` is the address that the device itself has."""

    own: OwnEnd
    entropy: Entropy
    local: Address
    send: SendPacket
    resolve: Resolve
    log: Callable[[Logged], None]
    delivered: Callable[[bytes], None]  # an inner packet that has come out of the tunnel
    changed: Callable[[Effect], None]
    counters: Counters = field(default_factory=Counters)
    carrying: dict[bytes, Carrying] = field(default_factory=dict)  # by inbound SPI, oldest first
    endpoint: Endpoint | None = None
    is_saved: bool = True  # whether what was entered is there again after a restart

    def start(self, now: float) -> None:
        """Begin from nothing, as after a restart: no SA is left. An end that calls calls at once."""
        self.carrying.clear()
        self.endpoint = Endpoint(self.own.settings, self.entropy) if self.own.is_on else None
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
        remote = self._peer()
        if remote is None:
            known = "it accepts any caller, and has nobody to call" if self.own.peer == ANY_PEER else "its name has no address"
            self.log(Logged(f"{self.own.peer} can't be called: {known}.", LogLevel.ERROR))
            return
        self._act(now, self.endpoint.dial(now, Socket(self.local, IKE_PORT), Socket(remote, IKE_PORT)))

    def _peer(self) -> Address | None:
        if self.own.peer == ANY_PEER:
            return None
        return self.resolve(self.own.peer) if is_name(self.own.peer) else _address(self.own.peer)

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
        peer = self._peer()
        if self.own.peer != ANY_PEER and packet.source.address != peer:
            text = f"A call from {packet.source.address} is dropped: the peer of this tunnel is {self.own.peer}."
            self.log(Logged(text, LogLevel.WARNING))
            return
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
        if header is None or not _allows(carrying.sa, header, outbound=False):
            self.log(Logged("A packet from the tunnel is dropped: its addresses aren't those of the Child SA.", LogLevel.WARNING))
            return
        self.delivered(inner)

    def forward(self, now: float, inner: bytes) -> str:
        """Send an inner packet into the tunnel; say why it isn't sent, or nothing where it is."""
        header = read_inner(inner)
        if header is None or self.endpoint is None:
            return "the tunnel is switched off"
        fitting = [one for one in reversed(self.carrying.values()) if _allows(one.sa, header, outbound=True)]
        if not fitting:
            if self.own.role is Role.ON_TRAFFIC and not self.endpoint.stands:
                self.dial(now)
            return "no Child SA carries it"
        carrying = fitting[0]
        packet = carrying.outbound.protect(inner, IP_IN_IP[header.source.family], self.entropy(16))
        self._send_esp(carrying, packet)
        return ""

    def _send_esp(self, carrying: Carrying, octets: bytes) -> None:
        sas = self.endpoint.sas if self.endpoint else ()
        sa = next(one for one in sas if carrying.sa.spi_in in one.children)
        local, remote = (sa.local, sa.remote) if carrying.in_udp else (Socket(one.address, 0) for one in (sa.local, sa.remote))
        self.send(Packet(local, remote, UDP if carrying.in_udp else ESP, octets), None)

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
    def is_up(self) -> bool:
        """Whether a Child SA stands."""
        return bool(self.carrying)


@lru_cache(maxsize=1024)
def _address(text: str) -> Address:
    return Address(*parse_address(text))


def _allows(sa: ChildSa, header: InnerHeader, *, outbound: bool) -> bool:
    """Whether the selectors of a Child SA allow a packet (RFC 4301 section 4.4.1)."""
    near, far = (header.source, header.destination) if outbound else (header.destination, header.source)
    ports = header.ports if outbound or header.ports is None else header.ports[::-1]
    return any(_selects(one, near, header.protocol, ports, 0) for one in sa.local) and any(
        _selects(one, far, header.protocol, ports, 1) for one in sa.remote
    )


def _selects(selector: Selector, address: Address, protocol: int, ports: tuple[int, int] | None, place: int) -> bool:
    low, high = selector.protocols
    if not selector.holds(address) or not low <= protocol <= high:
        return False
    return selector.ports == ANY_PORT or (ports is not None and selector.ports[0] <= ports[place] <= selector.ports[1])


def packets_of(local: Region, remote: Region) -> Iterator[InnerHeader]:
    """Yield what a packet from near to far may look like, one for each two selectors that share family and protocol."""
    for near in local:
        for far in remote:
            protocol = _shared_protocol(near, far)
            if near.family is far.family and protocol is not None:
                ports = near.ports[1], far.ports[0] or 1
                source, destination = Address(near.family, _host(near)), Address(far.family, _host(far))
                yield InnerHeader(source, destination, protocol, ports)


def _host(selector: Selector) -> int:
    """Return an address that a host may have: behind that of the network itself."""
    return min(selector.first + 10, selector.last)


def _shared_protocol(near: Selector, far: Selector) -> int | None:
    low, high = max(near.protocols[0], far.protocols[0]), min(near.protocols[1], far.protocols[1])
    limited = near.ports != ANY_PORT or far.ports != ANY_PORT
    if limited:
        return next((number for number in (6, 17, 132) if low <= number <= high), None)
    if (low, high) == ANY_PROTOCOL:
        return {32: 1, 128: 58}[near.family.bits]
    return low if low <= high else None
