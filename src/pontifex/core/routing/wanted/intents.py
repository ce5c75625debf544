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
from pontifex.core.routing.all_flows.matrix import NO_CELL, Matrix, Reach, matrix
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


def wants(design: Design) -> Iterator[WantedFlow]:
    """Yield all that the intents of a design ask for; networks of one site and family, and of the common zone, aside."""
    for intent in design.intents:
        directions = [(intent.sources, intent.destinations)]
        if intent.both_ways:
            directions.append((intent.destinations, intent.sources))
        for sources, destinations in directions:
            for source, begin in _members(design, sources):
                for target, end in _members(design, destinations):
                    if source.id == target.id or begin.family is not end.family:
                        continue
                    for service in intent.services or (ANY_SERVICE,):
                        yield WantedFlow(intent, source, begin, target, end, service, parse_dscp(intent.dscp or "DF"))


def _members(design: Design, members: tuple[Member, ...]) -> Iterator[tuple[Network, Prefix]]:
    for member in members:
        if member.type is MemberType.HOST:
            (network,), (prefix,) = design.member_networks(member), design.member_prefixes(member)
            yield network, prefix
            continue
        for network in design.member_networks(member):
            if not network.zone:
                yield network, network.prefix


_FEW: Final = 2000  # wants that are traced one by one; more are cheaper all at once


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
        if want.whole and len(self.all) > _FEW:
            key = want.service, want.dscp
            if key not in self._matrices:
                self._matrices[key] = matrix(self._tables, self._conditions, *key, self._networks)
            found = self._matrices[key]
            row, column = found.place[want.source.id], found.place[want.target.id]
            if found.worst[row, column] != NO_CELL:
                return found.at(row, column).reach, found.trace_of(row, column)
        source, target = (want.source, want.begin), (want.target, want.end)
        return worst_between(self._tables, self._conditions, source, target, want.service, want.dscp)

    def tunnels(self, want: WantedFlow) -> set[str]:
        """Return the ids of the tunnels by which something wanted is nearest."""
        return {crossing.tunnel.id for crossing in self._tables.chains.chain(want.source.site_id, want.target.site_id)}

    def unmet(self) -> Iterator[UnmetWant]:
        """Yield what is wanted and doesn't arrive and return the same way."""
        for want in self.all:
            reach, traced = self.reach(want)
            if reach is not Reach.REACHES:
                yield UnmetWant(want, reach, traced)
