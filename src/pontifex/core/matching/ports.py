"""The ports that tunnels wait on at an uplink: what one of them has already, another can't have."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Side, Tunnel, Uplink
from pontifex.core.matching.callers import Call
from pontifex.core.matching.row import Judgement, Relation, Remedy, Row, RowHeading, Stage, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Design
from pontifex.core.reasons import Named, named, reach

_IKE_PORTS: Final = (500, 4500)  # RFC 7296 section 2.23
_FIRST_PORT, _LAST_PORT = 1024, 65_535
_IPSEC: Final = ("ipsec",)

Port = tuple[str, str, int]  # the uplink, the transport protocol, and the number

LISTENER: Final = {
    side: RowHeading(f"listener-{side.value}", "{this}'s port", Stage.REACH, Relation.COMPLEMENTARY, "port", "port")
    for side in SIDES
}


@dataclass(frozen=True, slots=True)
class Listener:
    """An end that waits on a port: ends with the same `service` share it, others can't."""

    tunnel: Tunnel
    side: Side
    service: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TakenPort:
    """A port that an end would wait on, and that another tunnel has already."""

    side: Side
    other: Named[Tunnel]
    transport: str
    port: int
    uplink: Named[Uplink]
    free: int  # the next port that nobody waits on there

    def row(self, ends: TunnelEnds) -> Row:
        """Return the row that says so."""
        reason = reach.ListenerTwice(self.other, self.transport, self.port, self.uplink)
        movable = ends.left.port is not None
        judged = Judgement(Verdict.DIFFERS, reason, Code.PORT_LISTENER_TWICE, self._moved if movable else None)
        return ends.row(LISTENER[self.side], judged, self.side)

    def _moved(self, ends: TunnelEnds) -> Iterator[Remedy]:
        yield ends.set_same(f"Let both ends use port {self.free}", port=self.free)


class Ports:
    """Who waits where, among those tunnels of a design that are judged."""

    def __init__(self, tunnels: Iterable[Tunnel], calls: Mapping[str, Call | None]) -> None:
        judged = [tunnel for tunnel in tunnels if tunnel.id in calls]
        ends = (
            end for judged_tunnel in judged for end in (judged_tunnel.left, judged_tunnel.right) if not end.technology.is_ipsec
        )
        # where anything but IPsec is waited for, too: all tunnels of IPsec share its own ports
        self._mixed_uplinks = {end.uplink_id for end in ends if end.uplink_id}
        self._listeners: dict[Port, list[Listener]] = defaultdict(list)
        for tunnel in judged if self._mixed_uplinks else ():
            for side, end in zip(SIDES, (tunnel.left, tunnel.right), strict=True):
                if end.uplink_id in self._mixed_uplinks:
                    for port, listener in _listening(tunnel, side, calls[tunnel.id]):
                        self._listeners[port].append(listener)
        services = {port: {waiting.service for waiting in listeners} for port, listeners in self._listeners.items()}
        # where different services wait
        self.contested = frozenset(port for port, waiting in services.items() if len(waiting) > 1)

    def concern(self, tunnel: Tunnel) -> bool:
        """Whether it matters to anybody where a tunnel waits."""
        at = {tunnel.left.uplink_id, tunnel.right.uplink_id}
        return not tunnel.left.technology.is_ipsec or not self._mixed_uplinks.isdisjoint(at)

    def taken(self, design: Design, tunnel: Tunnel, call: Call | None) -> Iterator[TakenPort]:
        """Yield the ports that a tunnel would wait on, and that another one has already."""
        for side in SIDES if self.concern(tunnel) else ():
            for port, listener in _listening(tunnel, side, call):
                if port not in self.contested:
                    continue
                others = [
                    candidate
                    for candidate in self._listeners[port]
                    if candidate.service != listener.service and _is_first(candidate, listener)
                ]
                if others:
                    uplink, transport, number = port
                    on = named(design.uplink_by_id[uplink])
                    yield TakenPort(side, named(others[0].tunnel), transport.upper(), number, on, self._free(port))

    def _free(self, port: Port) -> int:
        """Return the next port of an uplink that nobody waits on."""
        uplink, transport, number = port
        taken = {other for where, carried, other in self._listeners if (where, carried) == (uplink, transport)}
        return next(free for free in range(max(number + 1, _FIRST_PORT), _LAST_PORT) if free not in taken)


def _is_first(one: Listener, other: Listener) -> bool:
    """Whether the first of two listeners has the port: IPsec can't use another one, and otherwise the first has it."""
    fixed = [listener.service == _IPSEC for listener in (one, other)]
    return fixed[0] or (not fixed[1] and one.tunnel.id < other.tunnel.id)


def waiting(tunnel: Tunnel | None, call: Call | None) -> tuple[object, ...]:
    """Return where the ends of a tunnel wait, and what others are told of it; nothing for one that isn't judged."""
    if tunnel is None:
        return ()
    listening = (listener for side in SIDES for listener in _listening(tunnel, side, call))
    return (tunnel.name, *((key, listener.service) for key, listener in listening))


def _listening(tunnel: Tunnel, side: Side, call: Call | None) -> Iterator[tuple[Port, Listener]]:
    """Yield the ports that an end waits on. IPsec shares its own among all its tunnels."""
    end = tunnel.end(side)
    if end.uplink_id is None or (call and call.caller is side):
        return
    if end.technology.is_ipsec:
        for port in _IKE_PORTS:
            yield (end.uplink_id, "udp", port), Listener(tunnel, side, _IPSEC)
    elif end.port and end.technology.traits.over_tcp and end.transport:
        own = end.certificates[0].pem if end.certificates else ""
        yield (end.uplink_id, end.transport.value, end.port), Listener(tunnel, side, ("tls", own))
    elif end.port and end.technology.traits.by_allowed_prefixes and end.key_pair:
        yield (end.uplink_id, "udp", end.port), Listener(tunnel, side, ("peer-key", end.key_pair.public))
