"""What is wanted, pair by pair, what of it the paths don't give, and the cause of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Final

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.kinds import Intent, Member, MemberType, Network
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.matrix import NO_CELL, Course, Matrix, Reach, matrix
from pontifex.core.routing.all_flows.worst_flow import worst_between
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import ANY_SERVICE, Conditions, Flow
from pontifex.core.routing.trace.flow_path import Trace


@dataclass(frozen=True, slots=True)
class WantedFlow:
    """One thing that an intent asks for: some addresses of a network are to reach some of another."""

    intent: Intent
    source: Network
    begin: Prefix  # within the source
    target: Network
    end: Prefix  # within the target
    service: Service
    dscp: int

    @property
    def flow(self) -> Flow:
        """The first of its flows."""
        begin, end = (Address(one.family, one.network) for one in (self.begin, self.end))
        return Flow(begin, end, self.service, self.dscp)

    @property
    def whole(self) -> bool:
        """Whether it is about all addresses of both networks."""
        return (self.begin, self.end) == (self.source.prefix, self.target.prefix)


@dataclass(frozen=True, slots=True)
class UnmetWant:
    """Something wanted that the paths don't give, with a trace that shows why."""

    want: WantedFlow
    reach: Reach
    trace: Trace


@dataclass(frozen=True, slots=True)
class _WantedCell:
    """Two networks in a matrix, by their places."""

    matrix: Matrix
    row: int
    column: int

    @property
    def reach(self) -> Reach:
        return self.matrix.at(self.row, self.column).reach

    def course(self) -> Course | None:
        return self.matrix.course_of(self.row, self.column)

    def trace(self) -> Trace:
        return self.matrix.trace_of(self.row, self.column)


def wants(design: Design) -> Iterator[WantedFlow]:
    """Yield all that the intents of a design ask for; networks of one site and family, and of the common zone, aside."""
    for intent in design.intents:
        dscp = parse_dscp(intent.dscp or "DF")
        directions = [(intent.sources, intent.destinations)]
        if intent.both_ways:
            directions.append((intent.destinations, intent.sources))
        for sources, destinations in directions:
            for source, begin in _members(design, sources):
                for target, end in _members(design, destinations):
                    if source.id == target.id or begin.family is not end.family:
                        continue
                    for service in intent.services or (ANY_SERVICE,):
                        yield WantedFlow(intent, source, begin, target, end, service, dscp)


def _members(design: Design, members: tuple[Member, ...]) -> Iterator[tuple[Network, Prefix]]:
    for member in members:
        if member.type is MemberType.HOST:
            (network,), (prefix,) = design.member_networks(member), design.member_prefixes(member)
            yield network, prefix
            continue
        for network in design.member_networks(member):
            if not network.zone:
                yield network, network.prefix


_FEW: Final = 300  # wants that are traced one by one; more are cheaper all at once


class IntentTraces:
    """The intents of a design against its paths."""

    def __init__(self, tables: Tables, conditions: Conditions) -> None:
        self._tables, self._conditions = tables, conditions
        self._matrices: dict[tuple[Service, int], Matrix] = {}

    @cached_property
    def all(self) -> tuple[WantedFlow, ...]:
        """All that is wanted."""
        return tuple(wants(self._tables.design))

    @cached_property
    def _networks(self) -> frozenset[str]:
        return frozenset(network.id for want in self.all for network in (want.source, want.target))

    def reach(self, want: WantedFlow) -> tuple[Reach, Trace]:
        """Return what the paths give of something wanted, the worst of it, with a trace that shows it."""
        cell = self._cell(want)
        if cell:
            return cell.reach, cell.trace()
        source, target = (want.source, want.begin), (want.target, want.end)
        return worst_between(self._tables, self._conditions, source, target, want.service, want.dscp)

    def is_met(self, want: WantedFlow) -> bool:
        """Whether something wanted arrives and returns the same way."""
        cell = self._cell(want)
        return (cell.reach if cell else self.reach(want)[0]) is Reach.REACHES

    def _cell(self, want: WantedFlow) -> _WantedCell | None:
        """Return the cell of the matrix that something wanted is about, where there is so much that one is worth its while."""
        if not want.whole or len(self.all) <= _FEW:
            return None
        key = want.service, want.dscp
        if key not in self._matrices:
            self._matrices[key] = matrix(self._tables, self._conditions, *key, self._networks)
        found = self._matrices[key]
        row, column = found.place[want.source.id], found.place[want.target.id]
        return _WantedCell(found, row, column) if found.worst[row, column] != NO_CELL else None

    def tunnels(self, want: WantedFlow) -> set[str]:
        """Return the ids of the tunnels by which something wanted is nearest."""
        return {crossing.tunnel.id for crossing in self._tables.chains.chain(want.source.site_id, want.target.site_id)}

    def unmet(self) -> Iterator[UnmetWant]:
        """Yield what is wanted and doesn't arrive and return the same way.

        Of flows that go the same course, and so have the same cause, one is traced.
        """
        traces: dict[object, Trace] = {}
        for want in self.all:
            cell = self._cell(want)
            if cell and cell.reach is Reach.REACHES:
                continue
            course = cell.course() if cell else None
            if cell is None or course is None:
                reach, traced = self.reach(want)
                if reach is not Reach.REACHES:
                    yield UnmetWant(want, reach, traced)
                continue
            alike = want.intent.id, want.service, cell.reach, course
            if alike not in traces:
                traces[alike] = cell.trace()
            yield UnmetWant(want, cell.reach, traces[alike])
