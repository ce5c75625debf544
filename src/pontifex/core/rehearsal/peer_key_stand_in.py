"""A stand-in gateway whose tunnel has static peer keys."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.addressing import Family, Region
from pontifex.core.ipsec.overhead import IP_HEADER, UDP_HEADER
from pontifex.core.peer_keys.datagrams import DATAGRAM_HEAD, Datagram, DatagramKind
from pontifex.core.peer_keys.endpoint import PeerKeyEndpoint
from pontifex.core.peer_keys.noise import TAG
from pontifex.core.peer_keys.settings import PeerKeySettings
from pontifex.core.rehearsal.call_stand_in import CallStandIn
from pontifex.core.rehearsal.gateway import StandIn, allows
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import UDP, InnerHeader, Packet


@dataclass(slots=True)
class PeerKeyStandIn(CallStandIn[PeerKeyEndpoint]):
    """A gateway that knows its peer by its public key."""

    @property
    def _settings(self) -> PeerKeySettings:
        assert isinstance(self.own.settings, PeerKeySettings)
        return self.own.settings

    def begun(self) -> PeerKeyEndpoint:
        """Return an endpoint without a session."""
        return PeerKeyEndpoint(self._settings, self.entropy)

    @property
    def call_ports(self) -> tuple[int, int]:
        """The one port of both ends."""
        return self._settings.port, self._settings.port

    def receive(self, now: float, packet: Packet) -> None:
        """Take a datagram, where it comes to this end's port; a call only from where the peer is expected."""
        if self.endpoint is None or packet.protocol != UDP or packet.destination.port != self._settings.port:
            return
        datagram = Datagram.read(packet.payload)
        if datagram and datagram.kind is DatagramKind.CALL and not self.is_from_peer(packet):
            return
        effects, inner = self.endpoint.receive(now, packet.payload, packet.source, packet.destination)
        self.act(now, effects)
        if inner is not None:
            self.deliver(inner, self._networks)

    def carry(self, now: float, inner: bytes, header: InnerHeader) -> str:
        """Send an inner packet by the newest session; an end that calls calls for one."""
        if not allows(*self._networks, header, outbound=True):
            return "the tunnel doesn't take it"
        if self.endpoint is None or self.endpoint.carrying is None:
            if self.own.role.calls:
                self.dial(now)
            return "no session carries it"
        self.act(now, self.endpoint.packet(now, inner))
        return ""

    @property
    def _networks(self) -> tuple[Region, Region]:
        return self._settings.local_networks, self._settings.remote_networks

    @property
    def carries(self) -> tuple[Region, Region] | None:
        """The networks of this end's own lists, while a session stands: nothing of them is agreed on."""
        return self._networks if self.endpoint and self.endpoint.carrying else None

    def inner_mtu(self, outer: Family, path_mtu: int) -> int | None:
        """Return what headers and seal leave of the path."""
        return path_mtu - IP_HEADER[outer] - UDP_HEADER - DATAGRAM_HEAD - TAG

    def is_paired_with(self, other: StandIn) -> bool:
        """Whether each end has the other half of the session that the other one sends by."""
        mine = self.endpoint
        theirs = other.endpoint if isinstance(other, PeerKeyStandIn) else None
        if mine is None or theirs is None or mine.carrying is None or theirs.carrying is None:
            return False
        return theirs.has(mine.carrying) and mine.has(theirs.carrying)

    @property
    def ports(self) -> frozenset[int]:
        """The port of this end."""
        return frozenset((self._settings.port,))

    def configure(self, own: OwnEnd) -> None:
        """Take what was entered."""
        self.own = own
        if self.endpoint:
            self.endpoint.configure(self._settings)
