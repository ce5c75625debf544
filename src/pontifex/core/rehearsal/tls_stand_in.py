"""A stand-in gateway whose tunnel goes over TLS."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing import Family, Region
from pontifex.core.ike.effects import Logged, LogLevel, Redial, Socket
from pontifex.core.ipsec.overhead import IP_HEADER, UDP_HEADER
from pontifex.core.kinds import Role
from pontifex.core.rehearsal.gateway import StandIn, allows
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import TCP, TCP_HEADER, UDP, InnerHeader, Packet, read_inner
from pontifex.core.tls.effects import SendSegment, TlsEffect, TlsUp
from pontifex.core.tls.endpoint import TlsEndpoint
from pontifex.core.tls.segments import SEGMENT_HEAD
from pontifex.core.tls.settings import TlsSettings

_FROM_PORT: Final = 49_152  # the first that is nobody's (RFC 6335 section 6)


@dataclass(slots=True)
class TlsStandIn(StandIn):
    """A gateway whose tunnel goes over TLS, by TCP or UDP."""

    endpoint: TlsEndpoint | None = None

    @property
    def _settings(self) -> TlsSettings:
        assert isinstance(self.own.settings, TlsSettings)
        return self.own.settings

    def start(self, now: float) -> None:
        """Begin from nothing: no connection is left. An end that calls calls at once."""
        self.endpoint = TlsEndpoint(self._settings, self.entropy) if self.own.is_on else None
        if self.own.role is Role.CALL:
            self.dial(now)

    def stop(self) -> None:
        """Switch the end off without a word to the other one."""
        self.endpoint = None

    @property
    def due(self) -> float:
        """When something is to be sent again, asked, or called anew."""
        return self.endpoint.due if self.endpoint else float("inf")

    def wake(self, now: float) -> None:
        """Do what is due."""
        if self.endpoint:
            self._act(now, self.endpoint.wake(now))

    def dial(self, now: float) -> None:
        """Call the other end, where there is an address to call."""
        remote = self.peer_to_call() if self.endpoint else None
        if self.endpoint and remote:
            self._act(now, self.endpoint.dial(now, Socket(self.local, _FROM_PORT), Socket(remote, self._settings.port)))

    def receive(self, now: float, packet: Packet) -> None:
        """Take a segment, where it comes by the transport of this end and to one of its ports."""
        at = (self._settings.port, _FROM_PORT)
        if self.endpoint is None or packet.protocol != self._protocol or packet.destination.port not in at:
            return
        if not self.is_from_peer(packet):
            return
        effects, inner, dropped = self.endpoint.receive(now, packet.payload, packet.source, packet.destination)
        self._act(now, effects)
        if dropped:
            self.log(Logged(f"A packet of the tunnel is dropped: {dropped}.", LogLevel.WARNING))
        if inner is not None:
            self._deliver(inner)

    def _deliver(self, inner: bytes) -> None:
        header, networks = read_inner(inner), self.carries
        if header is None or networks is None or not allows(*networks, header, outbound=False):
            self.log(Logged("A packet from the tunnel is dropped: its addresses aren't those of the tunnel.", LogLevel.WARNING))
            return
        self.delivered(inner)

    @property
    def is_running(self) -> bool:
        """Whether the end is switched on."""
        return self.endpoint is not None

    def carry(self, now: float, inner: bytes, header: InnerHeader) -> str:
        """Send an inner packet by the newest connection; an end that calls on traffic calls for it."""
        carrying = self.endpoint.carrying if self.endpoint else None
        if carrying is None or not allows(*carrying.carries, header, outbound=True):
            if carrying is None and self.own.role is Role.ON_TRAFFIC:
                self.dial(now)
            return "no connection carries it"
        self._act(now, carrying.packet(inner))
        return ""

    def _act(self, now: float, effects: list[TlsEffect]) -> None:
        """Do what the end has left to be done, in its order."""
        for effect in effects:
            match effect:
                case SendSegment():
                    self.send(Packet(effect.source, effect.destination, self._protocol, effect.octets), effect.told)
                case Logged():
                    self.log(effect)
                case Redial():
                    self.dial(now)
                case TlsUp():
                    self.counters.established += 1
                    self.counters.ike_rekeys += effect.renewed
                case _:
                    pass
            self.changed(effect)

    @property
    def _protocol(self) -> int:
        return TCP if self._settings.over_tcp else UDP

    @property
    def carries(self) -> tuple[Region, Region] | None:
        """The networks that both ends have agreed on."""
        carrying = self.endpoint.carrying if self.endpoint else None
        return carrying.carries if carrying else None

    def inner_mtu(self, outer: Family, path_mtu: int) -> int | None:
        """Return what headers and cipher leave of the path: each packet goes in a segment of its own."""
        carrying = self.endpoint.carrying if self.endpoint else None
        if carrying is None or carrying.outgoing is None:
            return None
        ported = TCP_HEADER if self._settings.over_tcp else UDP_HEADER
        return carrying.outgoing.largest(path_mtu - IP_HEADER[outer] - ported - SEGMENT_HEAD)

    def is_paired_with(self, other: StandIn) -> bool:
        """Whether both ends have one connection."""
        own = self.endpoint.carrying if self.endpoint else None
        theirs = other.endpoint.carrying if isinstance(other, TlsStandIn) and other.endpoint else None
        return own is not None and theirs is not None and own.id == theirs.id

    @property
    def ports(self) -> frozenset[int]:
        """The port of this end."""
        return frozenset((self._settings.port,))

    def configure(self, own: OwnEnd) -> None:
        """Take what was entered."""
        self.own = own
        if self.endpoint:
            self.endpoint.configure(self._settings)
