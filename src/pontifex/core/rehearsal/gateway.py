"""A stand-in gateway, whatever its tunnel is made of: what the simulated world asks of it."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache

from pontifex.core.addressing import Address, Family, Region, parse_address
from pontifex.core.call_effects import CallEffect, Told
from pontifex.core.entropy import Entropy
from pontifex.core.ike.effects import Effect, Logged, LogLevel
from pontifex.core.ike.message import Message
from pontifex.core.kinds import ANY_PEER, is_name
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import InnerHeader, Packet, any_selects, read_inner

SendPacket = Callable[[Packet, Message | Told | None], None]
Resolve = Callable[[str], Address | None]


@dataclass(slots=True)
class Counters:
    """What a gateway counts of its SAs, or of its connections."""

    established: int = 0
    ike_rekeys: int = 0
    child_rekeys: int = 0


@dataclass(slots=True)
class StandIn(ABC):
    """A gateway that knows its own end alone. `local` is the address that the device itself has."""

    own: OwnEnd
    entropy: Entropy
    local: Address
    send: SendPacket
    resolve: Resolve
    log: Callable[[Logged], None]
    delivered: Callable[[bytes], None]  # an inner packet that has come out of the tunnel
    changed: Callable[[Effect | CallEffect], None]
    counters: Counters = field(default_factory=Counters)
    is_saved: bool = True  # whether what was entered is there again after a restart

    @abstractmethod
    def start(self, now: float) -> None:
        """Begin from nothing, as after a restart. An end that calls calls at once."""

    @abstractmethod
    def stop(self) -> None:
        """Switch the end off without a word to the other one."""

    @property
    @abstractmethod
    def due(self) -> float:
        """When it is to be woken."""

    @abstractmethod
    def wake(self, now: float) -> None:
        """Do what is due."""

    @abstractmethod
    def dial(self, now: float) -> None:
        """Call the other end, where there is an address to call."""

    @abstractmethod
    def receive(self, now: float, packet: Packet) -> None:
        """Take a packet from outside."""

    def move(self, now: float, address: Address) -> None:  # noqa: ARG002 -- most can't follow
        """Take another address of the device: what is sent from now on comes from there."""
        self.local = address

    def forward(self, now: float, inner: bytes) -> str:
        """Send an inner packet into the tunnel; say why it isn't sent, or nothing where it is."""
        header = read_inner(inner)
        if header is None or not self.is_running:
            return "the tunnel is switched off"
        return self.carry(now, inner, header)

    @property
    @abstractmethod
    def is_running(self) -> bool:
        """Whether the end is switched on."""

    @abstractmethod
    def carry(self, now: float, inner: bytes, header: InnerHeader) -> str:
        """Send an inner packet by what stands, or call for it; say why it isn't sent, or nothing where it is."""

    @property
    @abstractmethod
    def carries(self) -> tuple[Region, Region] | None:
        """The networks of this end and of the other one between which packets pass; None while the tunnel isn't up."""

    @abstractmethod
    def inner_mtu(self, outer: Family, path_mtu: int) -> int | None:
        """Return the largest packet, in octets, that the tunnel takes; None where that isn't known."""

    @abstractmethod
    def is_paired_with(self, other: StandIn) -> bool:
        """Whether both ends have the two halves of one tunnel."""

    @property
    @abstractmethod
    def ports(self) -> frozenset[int]:
        """The ports that the tunnel goes by."""

    @abstractmethod
    def configure(self, own: OwnEnd) -> None:
        """Take what was entered; what stands goes on standing until it is dialled anew."""

    @property
    def is_up(self) -> bool:
        """Whether packets pass."""
        return self.carries is not None

    def peer_to_call(self) -> Address | None:
        """Return the address to call; where there is none, the log says why."""
        remote = self.peer()
        if remote is None:
            known = "it accepts any caller, and has nobody to call" if self.own.peer == ANY_PEER else "its name has no address"
            self.log(Logged(f"{self.own.peer} can't be called: {known}.", LogLevel.ERROR))
        return remote

    def peer(self) -> Address | None:
        """Return the peer's address by what this end has of it."""
        if self.own.peer == ANY_PEER:
            return None
        return self.resolve(self.own.peer) if is_name(self.own.peer) else _address(self.own.peer)

    def is_from_peer(self, packet: Packet) -> bool:
        """Whether a packet comes from the peer of this tunnel; where it doesn't, the log says so."""
        if self.own.peer == ANY_PEER or packet.source.address == self.peer():
            return True
        text = f"A call from {packet.source.address} is dropped: the peer of this tunnel is {self.own.peer}."
        self.log(Logged(text, LogLevel.WARNING))
        return False


@lru_cache(maxsize=1024)
def _address(text: str) -> Address:
    return Address(*parse_address(text))


def allows(local: Region, remote: Region, header: InnerHeader, *, outbound: bool) -> bool:
    """Whether networks allow a packet (RFC 4301 section 4.4.1)."""
    near, far = (header.source, header.destination) if outbound else (header.destination, header.source)
    ports = header.ports if outbound or header.ports is None else header.ports[::-1]
    protocol = header.protocol
    return any_selects(local, near, protocol, ports, 0) and any_selects(remote, far, protocol, ports, 1)
