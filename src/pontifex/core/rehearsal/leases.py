"""What becomes of leases when a scope changes: hosts and those who dial in, in virtual time, by the octets of RFC 2131."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, AddressRange, AddressSet, Family, Prefix
from pontifex.core.addressing.dhcp_routes import DhcpRoute, DhcpRoutesError
from pontifex.core.dhcp import DhcpClient, DhcpMessage, DhcpServer, LeaseBlock, Scope, decode_message
from pontifex.core.dhcp.message import BROADCAST, CLIENT_PORT, NOWHERE, SERVER_PORT
from pontifex.core.ike.effects import Socket
from pontifex.core.kinds import Network
from pontifex.core.rehearsal.capture import CapturedPacket
from pontifex.core.rehearsal.clock import Clock
from pontifex.core.rehearsal.packets import UDP, Packet
from pontifex.core.space import host_range

USUAL_LEASE_S: Final = 28_800  # where nobody has said how long a lease is
_HOST: Final = bytes.fromhex("02005e100a01")  # a documentation address (RFC 7042 section 2.1.2)
_GATEWAY: Final = bytes.fromhex("02005e100a02")
_LONGEST_BEFORE_S: Final = 600.0  # how long the host has had its lease when the scope changes
_DIALS_S: Final = 60.0  # after the change, and after the block was given back


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaseEvent:
    """Something that happened, and which routes whoever it is about goes by from then on."""

    at_s: Annotated[float, Field(title="Seconds from the change of the scope")]
    who: str
    what: str
    routes: Annotated[tuple[DhcpRoute, ...], Field(title="Routes that it goes by")]
    is_new: Annotated[bool, Field(title="These are the new ones")]


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaseCourse:
    """What becomes of leases when a scope changes."""

    events: tuple[LeaseEvent, ...]
    steps: Annotated[tuple[str, ...], Field(title="What is to be done so that new routes arrive", description="In this order.")]
    means: Annotated[tuple[str, ...], Field(title="What goes otherwise until then", description="A line each.")]
    new_after_s: Annotated[float | None, Field(title="After how long all have them", description="Null: never by themselves.")]


@dataclass
class _Wire:
    """Carries messages to the server and back as octets, and keeps what went over."""

    server: DhcpServer
    clock: Clock
    packets: list[CapturedPacket] = field(default_factory=list)

    def exchange(self, message: DhcpMessage) -> DhcpMessage | None:
        """Return what the server answers."""
        to_server = _packet(message, message.client, self.server.address if message.client != NOWHERE else BROADCAST)
        self._note(to_server)
        answer = self.server.answer(decode_message(message.octets()), self.clock.now)
        if answer is None:
            return None
        self._note(_packet(answer, self.server.address, answer.yours if answer.yours != NOWHERE else BROADCAST))
        return decode_message(answer.octets())

    def _note(self, packet: Packet) -> None:
        self.packets.append(CapturedPacket(self.clock.now, packet.octets()))


def _packet(message: DhcpMessage, source: Address, destination: Address) -> Packet:
    ports = (SERVER_PORT, CLIENT_PORT) if message.is_reply else (CLIENT_PORT, SERVER_PORT)
    return Packet(Socket(source, ports[0]), Socket(destination, ports[1]), UDP, message.octets())


def scope_of(network: Network) -> Scope:
    """Return the scope of a network: its ranges, or all of it where none is named, without who serves it."""
    served = _server_of(network)
    return Scope(
        prefix=network.prefix,
        ranges=_of_v4(network.dhcp_ranges) or (host_range(network.prefix),),
        lease_time_s=network.lease_time_s or USUAL_LEASE_S,
        excluded=(AddressRange(Family.V4, served.value, served.value), *_of_v4(network.reserved_ranges)),
        router=network.gateway_address,
        resolvers=network.resolvers,
        suffix=network.dhcp_suffix or "",
        routes=network.dhcp_routes,
    )


def _of_v4(ranges: tuple[AddressRange, ...]) -> tuple[AddressRange, ...]:
    return tuple(address_range for address_range in ranges if address_range.family is Family.V4)


def _server_of(network: Network) -> Address:
    return network.gateway_address or network.prefix.first_host


def lease_course(before: Network, after: Network, block: int | None) -> tuple[LeaseCourse, list[CapturedPacket]]:
    """Let leases take their course over a change of a scope; with a block, a dial-in gateway takes them for its people.

    Return what happened, and all packets of it. Raise DhcpRoutesError for an IPv6 network, which DHCP of RFC 2131 doesn't serve.
    """
    if before.prefix.family is Family.V6:
        raise DhcpRoutesError(f"{before.prefix}: leases of RFC 2131 are of IPv4 alone")
    course = _ScopeCourse(before, after)
    if block is None:
        course.of_a_host()
    else:
        course.of_a_block(block)
    return course.told(block), course.wire.packets


class _ScopeCourse:
    """One course: the scope changes at its time 0."""

    def __init__(self, before: Network, after: Network) -> None:
        self._before, self._after, self._clock = before, after, Clock()
        server = DhcpServer(scope_of(before), _server_of(before))
        self.wire = _Wire(server, self._clock)
        self._lease_s = server.scope.lease_time_s
        self._before_s = min(_LONGEST_BEFORE_S, self._lease_s / 4)
        self._events: list[LeaseEvent] = []
        self._new_after_s: float | None = None

    def of_a_host(self) -> None:
        """A host has its lease for a while, and renews it at a half of its time."""
        host = DhcpClient(_HOST)
        self._talk(host, host.discover())
        self._tell(-self._before_s, "a host", "has its lease", host.routes)
        self._change()
        renews = self._lease_s / 2 - self._before_s
        self._clock.run_until(self._before_s + max(renews, 0.0))
        self._talk(host, host.due(self._clock.now))
        self._tell(max(renews, 0.0), "the host", "renews its lease", host.routes)
        self._new_after_s = self._lease_s / 2  # of one that has renewed just before the change

    def of_a_block(self, size: int) -> None:
        """The gateway has its block: whoever dials in goes by what it was told when it took it."""
        block = LeaseBlock(_GATEWAY, size)
        taken = block.take(self.wire.exchange, self._clock.now)
        self._tell(-self._before_s, "the gateway", f"takes {taken} leases for those who dial in", block.routes)
        self._change()
        self._clock.run_until(self._before_s + _DIALS_S)
        self._tell(_DIALS_S, "a person", "dials in", block.routes)
        self._clock.run_until(self._before_s + self._lease_s / 2)
        block.renew(self.wire.exchange, self._clock.now)
        self._tell(self._lease_s / 2, "the gateway", "renews its leases, and looks at no option", block.routes)
        self._clock.run_until(self._before_s + self._lease_s)
        self._tell(self._lease_s, "a person", "dials in", block.routes)
        block.give_back(self.wire.exchange)
        taken = block.take(self.wire.exchange, self._clock.now)
        self._tell(self._lease_s, "the gateway", f"gives them back, and takes {taken} anew", block.routes)
        self._clock.run_until(self._before_s + self._lease_s + _DIALS_S)
        self._tell(self._lease_s + _DIALS_S, "a person", "dials in", block.routes)

    def _change(self) -> None:
        self._clock.run_until(self._before_s)
        self.wire.server.scope = scope_of(self._after)

    def _talk(self, client: DhcpClient, message: DhcpMessage | None) -> None:
        while message:
            reply = self.wire.exchange(message)
            message = client.receive(reply, self._clock.now) if reply else None

    def _tell(self, at_s: float, who: str, what: str, routes: tuple[DhcpRoute, ...]) -> None:
        is_new = at_s >= 0 and set(routes) == set(_handed_out(self._after))
        self._events.append(LeaseEvent(at_s=at_s, who=who, what=what, routes=routes, is_new=is_new))

    def told(self, block: int | None) -> LeaseCourse:
        """Put it into words."""
        lease = f"{self._lease_s // 2} s"
        steps = (
            ("change the scope", f"let the hosts renew their leases; the last one has done so after {lease}")
            if block is None
            else (
                "change the scope",
                "restart what ends the tunnels at the gateway, or delete the leases that it holds: it takes new ones",
                "let those who are dialled in dial in once more",
            )
        )
        return LeaseCourse(
            events=tuple(self._events),
            steps=steps,
            means=tuple(_means(_handed_out(self._before), _handed_out(self._after))),
            new_after_s=self._new_after_s,
        )


def _handed_out(network: Network) -> tuple[DhcpRoute, ...]:
    """The routes that a client of a network goes by."""
    if network.dhcp_routes or network.gateway_address is None:
        return network.dhcp_routes
    return (DhcpRoute(Prefix(Family.V4, 0, 0), network.gateway_address),)


def _means(before: tuple[DhcpRoute, ...], after: tuple[DhcpRoute, ...]) -> list[str]:
    was, is_ = (AddressSet.of([route.prefix for route in some], Family.V4) for some in (before, after))
    found = []
    for moved, words in (
        (is_ - was, "go beside the tunnel, and are to go through"),
        (was - is_, "go through, and are to go beside"),
    ):
        prefixes = moved.prefixes()
        if prefixes:
            named = "everything else" if len(prefixes) > _MOST_NAMED else ", ".join(map(str, prefixes))
            found.append(f"{named}: {words}")
    return found


_MOST_NAMED: Final = 8
