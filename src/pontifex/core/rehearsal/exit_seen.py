"""Which address the outside sees for what hangs on an exit: rehearsed before its tunnel stands, after it, and in a restart."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Family
from pontifex.core.exits.outside import Outside, OutsideFate
from pontifex.core.exits.workloads import ExitWorkload, Hanging, exit_table, source_of
from pontifex.core.ike.effects import Socket
from pontifex.core.kinds import ANY_PEER, SIDES, Exit, Network, Side, Tunnel
from pontifex.core.matching import Row
from pontifex.core.rehearsal.course import StoppedError
from pontifex.core.rehearsal.internet import DroppedError, access
from pontifex.core.rehearsal.packets import TCP, InnerHeader, Packet
from pontifex.core.rehearsal.probes import sent_across
from pontifex.core.rehearsal.rehearse import compared, course_of, why_not
from pontifex.core.rehearsal.world import World
from pontifex.core.routing import Tables
from pontifex.core.routing.wanted.exits import somewhere_outside

_MOST: Final = 50  # workloads that are tried
_PORTS: Final = (49_152, 443)  # from which the echo service is asked, and at which it answers
_OCTETS: Final = 60
_TRIES: Final = 60  # after a restart, each with its pause
_Call = tuple[World, str]  # and why the tunnel doesn't come up, nothing where it does


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenThen:
    """What the echo service has seen of a workload at one moment."""

    fate: OutsideFate
    uplink_id: str | None
    address: Annotated[Address | None, Field(title="As the outside saw it", description="Null where that is the provider's.")]
    text: Annotated[str, Field(title="What happened")]


@dataclass(frozen=True, slots=True, kw_only=True)
class RehearsedWorkload:
    """A workload that asks the echo service which address it is seen by."""

    host_id: str | None
    network_id: str
    name: str
    not_rehearsed: Annotated[tuple[str, ...], Field(title="Why it isn't rehearsed", description="Empty where it was.")] = ()
    before: Annotated[SeenThen | None, Field(title="Before the tunnel stands")] = None
    after: Annotated[SeenThen | None, Field(title="With the tunnel up")] = None
    restarting: Annotated[SeenThen | None, Field(title="While the exit restarts")] = None
    agrees: Annotated[bool, Field(title="As foreseen")] = True


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitRehearsal:
    """An exit whose tunnels were rehearsed, with what the outside saw of each workload."""

    exit_id: str
    workloads: tuple[RehearsedWorkload, ...]
    untried: Annotated[int, Field(title="Workloads beyond the first ones", description="They aren't tried.")] = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitRehearsals:
    """All exits of a design, rehearsed."""

    exits: tuple[ExitRehearsal, ...]


def rehearse_exit(tables: Tables, exit_: Exit, today: date, seed: int = 0) -> ExitRehearsal:
    """Dial the tunnels of an exit, beginning on a day, and let what hangs on it ask the echo service."""
    course = _ExitCourse(tables, exit_, today, seed)
    workloads = exit_table(tables, exit_).workloads
    return ExitRehearsal(
        exit_id=exit_.id,
        workloads=tuple(map(course.rehearsed, workloads[:_MOST])),
        untried=max(len(workloads) - _MOST, 0),
    )


@dataclass(frozen=True, slots=True)
class _Moments:
    """What is seen of a source before, with the tunnel up, and in a restart."""

    before: SeenThen
    after: SeenThen
    restarting: SeenThen


class _ExitCourse:
    """The tunnels of an exit, each compared and dialled once for all that leave by it."""

    def __init__(self, tables: Tables, exit_: Exit, today: date, seed: int) -> None:
        self._tables, self._design, self._exit = tables, tables.design, exit_
        self._today, self._seed = today, seed
        self._known: dict[tuple[Address, str, Hanging], _Moments] = {}
        self._rows: dict[str, list[Row]] = {}  # by tunnel
        self._calls: dict[str, _Call] = {}

    def rehearsed(self, workload: ExitWorkload) -> RehearsedWorkload:
        """Return what is seen of a workload; those that share a network have one address."""
        host_id, network_id, name = workload.host_id, workload.network_id, workload.name
        reasons = tuple(self._reasons(workload))
        if reasons:
            return RehearsedWorkload(host_id=host_id, network_id=network_id, name=name, not_rehearsed=reasons)
        source, network = source_of(self._design, self._exit, workload)
        key = source, network.id, workload.how
        if key not in self._known:
            self._known[key] = self._moments(workload, source, network)
        seen = self._known[key]
        return RehearsedWorkload(
            host_id=host_id,
            network_id=network_id,
            name=name,
            before=seen.before,
            after=seen.after,
            restarting=seen.restarting,
            agrees=(seen.after.fate, seen.after.address) == (workload.outside.fate, workload.outside.address)
            and seen.before.fate is workload.when_down.fate,
        )

    def _reasons(self, workload: ExitWorkload) -> Iterator[str]:
        """Yield why it can't be tried: what its tunnel is made of, or what isn't known of it."""
        if workload.outside.fate is OutsideFate.NOT_KNOWN:
            yield workload.outside.why
        if len(workload.outside.tunnels) > 1:
            yield "it leaves by several tunnels one after the other, and one is rehearsed at a time"
        for id_ in workload.outside.tunnels[:1]:
            tunnel = self._design.tunnel_by_id[id_]
            yield from why_not(tunnel, self._compared(tunnel))

    def _compared(self, tunnel: Tunnel) -> list[Row]:
        if tunnel.id not in self._rows:
            self._rows[tunnel.id] = compared(self._design, tunnel, self._today)
        return self._rows[tunnel.id]

    def _moments(self, workload: ExitWorkload, source: Address, network: Network) -> _Moments:
        down = self._out(workload.when_down, source.family)
        if workload.outside.tunnels:
            after, restarting = self._by_tunnel(workload, source, network, down)
        else:
            after, restarting = self._out(workload.outside, source.family), down
        shares = workload.how is Hanging.SHARES
        return _Moments(down, after, _lost("it has no network until the exit is back") if shares else restarting)

    def _by_tunnel(self, workload: ExitWorkload, source: Address, network: Network, down: SeenThen) -> tuple[SeenThen, SeenThen]:
        """Ask the echo service through the tunnel and back, and once more while the exit's gateway restarts."""
        tunnel = self._design.tunnel_by_id[workload.outside.tunnels[0]]
        near = next(side for side in SIDES if self._design.site_of(tunnel.end(side)).id == network.site_id)
        world, stopped = self._dialled(tunnel)
        if stopped:
            return replace(down, text=f"the tunnel doesn't come up: {stopped}"), down
        seen = self._out(workload.outside, source.family)
        echo = somewhere_outside(self._tables, source.family)
        if seen.fate is OutsideFate.LOST or echo is None:
            return seen, down
        asking = InnerHeader(source, echo, TCP, _PORTS)
        began = world.clock.now
        lost = _lost_on_the_way(world, near, asking)
        if lost:
            return _lost(lost), down
        took = (world.clock.now - began) * 1000
        after = replace(seen, text=f"answered after {took:.0f} ms")
        began = world.clock.now
        world.restart(near)
        if not _lost_on_the_way(world, near, asking):
            return after, after
        back = any(not _lost_on_the_way(world, near, asking) for _ in range(_TRIES))
        text = f"answered again after {world.clock.now - began:.0f} s" if back else "not answered again"
        if not back:
            del self._calls[tunnel.id]  # the next one is to begin with the tunnel up
        return after, replace(down, text=text)

    def _dialled(self, tunnel: Tunnel) -> _Call:
        """Return the world in which a tunnel was dialled, and why it doesn't come up; nothing where it does."""
        if tunnel.id not in self._calls:
            octets = f"{self._seed}/{tunnel.id}".encode()
            course = course_of(self._design, tunnel, self._compared(tunnel), self._today, octets)
            try:
                course.dial()
                self._calls[tunnel.id] = course.world, ""
            except StoppedError as error:
                self._calls[tunnel.id] = course.world, str(error)
        return self._calls[tunnel.id]

    def _out(self, outside: Outside, family: Family) -> SeenThen:
        """Return what the echo service sees of what comes to an uplink."""
        uplink = self._design.uplink_by_id[outside.uplink_id] if outside.uplink_id else None
        echo = somewhere_outside(self._tables, family)
        if uplink is None or echo is None:
            return SeenThen(fate=outside.fate, uplink_id=None, address=None, text=outside.why)
        way = access(uplink, uplink, ANY_PEER)
        try:
            left = way.leave(0.0, Packet(Socket(way.inside, _PORTS[0]), Socket(echo, _PORTS[1]), TCP, b""))
        except DroppedError as error:
            return _lost(str(error))
        address = left.source.address if left.source.address == uplink.address else None
        return SeenThen(fate=outside.fate, uplink_id=uplink.id, address=address, text=outside.why)


def _lost_on_the_way(world: World, near: Side, asking: InnerHeader) -> str:
    """Ask the echo service through the tunnel; say where the question or its answer is lost, or nothing where neither is."""
    lost = sent_across(world, near, asking, _OCTETS)
    if lost:
        return lost
    back = InnerHeader(asking.destination, asking.source, asking.protocol, _PORTS[::-1])
    lost = sent_across(world, near.other, back, _OCTETS)
    return f"it leaves, and the answer is lost: {lost}" if lost else ""


def _lost(text: str) -> SeenThen:
    return SeenThen(fate=OutsideFate.LOST, uplink_id=None, address=None, text=text)
