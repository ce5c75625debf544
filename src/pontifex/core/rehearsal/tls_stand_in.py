"""A stand-in gateway whose tunnel goes over TLS."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing import Family, Region
from pontifex.core.ike.effects import Logged, LogLevel
from pontifex.core.ipsec.overhead import IP_HEADER, UDP_HEADER
from pontifex.core.kinds import Role
from pontifex.core.rehearsal.call_stand_in import CallStandIn
from pontifex.core.rehearsal.gateway import StandIn, allows
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import TCP, TCP_HEADER, UDP, InnerHeader, Packet
from pontifex.core.tls.endpoint import TlsEndpoint
from pontifex.core.tls.segments import SEGMENT_HEAD
from pontifex.core.tls.settings import TlsSettings

_FROM_PORT: Final = 49_152  # the first that is nobody's (RFC 6335 section 6)


@dataclass(slots=True)
class TlsStandIn(CallStandIn[TlsEndpoint]):
    """A gateway whose tunnel goes over TLS, by TCP or UDP."""

    @property
    def _settings(self) -> TlsSettings:
        assert isinstance(self.own.settings, TlsSettings)
        return self.own.settings

    def begun(self) -> TlsEndpoint:
        """Return an endpoint without a connection."""
        return TlsEndpoint(self._settings, self.entropy)

    @property
    def call_ports(self) -> tuple[int, int]:
        """One that is nobody's, and that of the other end, which is one's own."""
        return _FROM_PORT, self._settings.port

    @property
    def protocol(self) -> int:
        """TCP or UDP, as it is set."""
        return TCP if self._settings.over_tcp else UDP

    def receive(self, now: float, packet: Packet) -> None:
        """Take a segment, where it comes by the transport of this end and to one of its ports."""
        at = (self._settings.port, _FROM_PORT)
        if self.endpoint is None or packet.protocol != self.protocol or packet.destination.port not in at:
            return
        if not self.is_from_peer(packet):
            return
        effects, inner, dropped = self.endpoint.receive(now, packet.payload, packet.source, packet.destination)
        self.act(now, effects)
        if dropped:
            self.log(Logged(f"A packet of the tunnel is dropped: {dropped}.", LogLevel.WARNING))
        if inner is not None:
            self.deliver(inner, self.carries)

    def carry(self, now: float, inner: bytes, header: InnerHeader) -> str:
        """Send an inner packet by the newest connection; an end that calls on traffic calls for it."""
        carrying = self.endpoint.carrying if self.endpoint else None
        if carrying is None or not allows(*carrying.carries, header, outbound=True):
            if carrying is None and self.own.role is Role.ON_TRAFFIC:
                self.dial(now)
            return "no connection carries it"
        self.act(now, carrying.packet(inner))
        return ""

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
