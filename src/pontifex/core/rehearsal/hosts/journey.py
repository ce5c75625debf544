"""The way of a packet from host to host: over the wire of its site, through both gateways and the tunnel between them."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

from pontifex.core.addressing import Address, Prefix
from pontifex.core.addressing.special import is_others
from pontifex.core.ike.effects import Socket
from pontifex.core.kinds import Side
from pontifex.core.rehearsal.hosts.configured import OwnHosts
from pontifex.core.rehearsal.hosts.forwarder import Came, Forwarder, PacketFate
from pontifex.core.rehearsal.hosts.packet import HostPacket, read_host_packet
from pontifex.core.rehearsal.internet import DroppedError
from pontifex.core.rehearsal.packets import Packet
from pontifex.core.rehearsal.probes import carried_across
from pontifex.core.rehearsal.world import World

_MOST_GATEWAYS: Final = 16


class Reached(Enum):
    """Whom a packet has reached."""

    HOST = "host"
    GATEWAY = "gateway"
    OUTSIDE = "outside"
    EXPIRED = "expired"  # a gateway at which it has gone too far
    NOBODY = "nobody"


@dataclass(frozen=True, slots=True)
class Arrival:
    """Where a packet has come to, and how it looks there."""

    reached: Reached
    side: Side  # of the host or gateway, or from where it left for outside
    packet: HostPacket
    came: Came = Came.LAN  # how it came to the gateway that it ends at
    seen: Address | None = None  # OUTSIDE: the address that it comes from there
    why: str = ""  # NOBODY


@dataclass(frozen=True, slots=True)
class Journeys:
    """All ways of packets in one world."""

    world: World
    forwarders: dict[Side, Forwarder]

    def from_host(self, side: Side, packet: HostPacket) -> Arrival:
        """Let a host of a side send a packet, by what it has been told of its network."""
        home = self.home(side, packet.source)
        if home is None:
            return Arrival(Reached.NOBODY, side, packet, why=f"no network at {self._name(side)} holds {packet.source}")
        if home.prefix.holds(packet.destination):
            is_own = packet.destination in self.forwarders[side].own.addresses
            return Arrival(Reached.GATEWAY if is_own else Reached.HOST, side, packet)
        told = [candidate for candidate in home.told if candidate[0].holds(packet.destination)]
        leads_here = max(told, key=lambda way: way[0].length)[1] if told else home.is_default
        if not leads_here:
            return Arrival(Reached.NOBODY, side, packet, why="its host sends it to another router")
        return self._through(side, packet, Came.LAN)

    def from_gateway(self, side: Side, packet: HostPacket) -> Arrival:
        """Let a gateway send a packet of its own."""
        return self._through(side, packet, Came.ITSELF)

    def home(self, side: Side, address: Address) -> OwnHosts | None:
        """Return the narrowest network at a side that holds an address."""
        holding = [host for host in self.forwarders[side].own.hosts if host.prefix.holds(address)]
        return max(holding, key=lambda network: network.prefix.length, default=None)

    def _through(self, side: Side, packet: HostPacket, came: Came) -> Arrival:
        """Let a gateway forward a packet, and the other one what comes to it by the tunnel."""
        for _ in range(_MOST_GATEWAYS):
            done = self.forwarders[side].take(packet, came, is_up=self._is_usable(side))
            if done.fate is not PacketFate.TUNNEL:
                ended = packet if done.fate is PacketFate.EXPIRED else done.packet
                return self._ended(side, ended, came, done.fate, done.why)
            arrived, why = carried_across(self.world, side, done.packet.octets())
            if why:
                return Arrival(Reached.NOBODY, side, done.packet, why=why)
            side, packet, came = side.other, read_host_packet(arrived), Came.TUNNEL
        return Arrival(Reached.NOBODY, side, packet, why="it goes round in circles")

    def _ended(self, side: Side, packet: HostPacket, came: Came, fate: PacketFate, why: str) -> Arrival:
        if fate is PacketFate.UPLINK:
            return self._outside(side, packet)
        return Arrival(_REACHED[fate], side, packet, came, why=why)

    def _outside(self, side: Side, packet: HostPacket) -> Arrival:
        """Let a packet leave by the gateway's uplink, from its address there."""
        if not is_others(Prefix.of_address(packet.destination)):
            return Arrival(
                Reached.NOBODY, side, packet, why=f"it leaves unprotected, and nobody outside has {packet.destination}"
            )
        access = self.world.access[side]
        ports = Socket(access.inside, packet.ports[0]), Socket(packet.destination, packet.ports[1])
        try:
            seen = access.leave(self.world.clock.now, Packet(*ports, packet.protocol, b""))
        except DroppedError as error:
            return Arrival(Reached.NOBODY, side, packet, why=str(error))
        return Arrival(Reached.OUTSIDE, side, packet, seen=seen.source.address)

    def _is_usable(self, side: Side) -> bool:
        """Whether packets may be sent into the tunnel at a side: it is up, or comes up by them."""
        gateway = self.world.gateways[side]
        return gateway.is_up or (self.forwarders[side].own.calls_on_traffic and gateway.is_running)

    def _name(self, side: Side) -> str:
        return self.forwarders[side].own.name


_REACHED: Final = {
    PacketFate.LAN: Reached.HOST,
    PacketFate.ITSELF: Reached.GATEWAY,
    PacketFate.EXPIRED: Reached.EXPIRED,
    PacketFate.DROPPED: Reached.NOBODY,
}
