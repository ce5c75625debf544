"""Which networks reach which, exactly for whole prefixes, and under which conditions that changes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from enum import Enum
from functools import cached_property
from typing import ClassVar, Final

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Address, Family, Service
from pontifex.core.errors import TooLarge
from pontifex.core.kinds import Network
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.codes import BY_HAND_END, ENDS, Numbers
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses
from pontifex.core.routing.all_flows.forwarding_plane import ForwardingPlane
from pontifex.core.routing.all_flows.walk_outcomes import Pairs, WalkOutcomes
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import ANY_SERVICE, Conditions, Flow
from pontifex.core.routing.trace.flow_path import End, Trace
from pontifex.core.routing.trace.trace import trace

MOST_PARTS: Final = 6000  # of one family; the work grows with their square


class Reach(Enum):
    """What one network gets of another. The order of the members is from best to worst."""

    REACHES = "reaches"
    ASYMMETRIC = "asymmetric"  # the answer comes another way
    UNKNOWN = "unknown"  # whether it arrives, or the answer does, is not known yet
    ONE_WAY = "one-way"  # it arrives, and the answer doesn't
    HELD = "held"  # a rule keeps it back
    BLOCKED = "blocked"
    UNPROTECTED = "unprotected"  # it leaves to the Internet

    @property
    def rank(self) -> int:
        """Place from the best, from 0."""
        return REACHES.index(self)


REACHES: Final = tuple(Reach)
_RANK: Final = {reach: np.uint8(place) for place, reach in enumerate(REACHES)}
_BLOCK: Final = 100_000  # pairs that are walked side by side
NO_CELL: Final = np.uint8(len(REACHES))  # of a network with itself, and of two families
Ranks = NDArray[np.uint8]

# what the end of the way there alone says; ARRIVES is judged by the answer
_BY_END: Final = {
    End.UNPROTECTED: Reach.UNPROTECTED,
    End.INTERNET: Reach.UNPROTECTED,
    End.HELD: Reach.HELD,
    End.UNKNOWN: Reach.UNKNOWN,
}
_RANK_BY_END: Final = np.array([_BY_END.get(end, Reach.BLOCKED).rank for end in ENDS] + [0], dtype=np.uint8)


def reach_of(traced: Trace) -> Reach:
    """Return what a trace amounts to."""
    if traced.forward.end is not End.ARRIVES or traced.back is None:
        return _BY_END.get(traced.forward.end, Reach.BLOCKED)
    if traced.back.end is not End.ARRIVES:
        return Reach.UNKNOWN if traced.back.end is End.UNKNOWN else Reach.ONE_WAY
    return Reach.REACHES if traced.forward.tunnels == tuple(reversed(traced.back.tunnels)) else Reach.ASYMMETRIC


def flow_between(
    tables: Tables,
    source: Network,
    begin: Address,
    destination: Network,
    end: Address,
    service: Service = ANY_SERVICE,
    dscp: int = 0,
) -> Flow:
    """Return the flow from an address of one network to one of another, under the address by which it is known there."""
    return Flow(begin, tables.chains.seen_from(source.site_id, destination, end), service, dscp)


@dataclass(frozen=True)
class Cell:
    """How one network reaches another."""

    source: Network
    destination: Network
    reach: Reach  # the worst of all its parts
    whole: bool  # the same for all addresses of both


@dataclass(frozen=True)
class Matrix:
    """Which networks reach which. Ranks are places in REACHES, NO_CELL where there is nothing to say."""

    BY_ITSELF: ClassVar[int] = -1

    networks: tuple[Network, ...]
    worst: Ranks  # row by source, column by destination
    best: Ranks
    fabrics: dict[Family, FamilyWalks]

    @cached_property
    def place(self) -> dict[str, int]:
        """The place of each network, by id."""
        return {network.id: place for place, network in enumerate(self.networks)}

    def trace_of(self, row: int, column: int) -> Trace:
        """Trace the worst of all pairs of parts of two networks, by their places. Raise KeyError where there is no cell."""
        source, destination = self.networks[row], self.networks[column]
        fabric = self.fabrics[source.prefix.family]
        return fabric.traced(fabric.worst_pair(source.id, destination.id))

    def courses(self, rows: Sequence[int], columns: Sequence[int]) -> Pairs:
        """Return how the worst pairs of networks of one family go there and back: one number for all that go alike.

        BY_ITSELF is what a rule keeps back, or is traced by itself: the walk doesn't tell its cause.
        """
        fabric = self.fabrics[self.networks[rows[0]].prefix.family]
        ids = ((self.networks[row].id, self.networks[column].id) for row, column in zip(rows, columns, strict=True))
        return fabric.courses(np.array([fabric.worst_pair(*two) for two in ids], dtype=np.int64))

    def cells(self) -> Iterator[Cell]:
        """Yield all cells, row by row."""
        for row, column in np.argwhere(self.worst != NO_CELL).tolist():
            yield self.at(row, column)

    def at(self, row: int, column: int) -> Cell:
        """Return the cell of two networks by their places."""
        worst, best = self.worst[row, column], self.best[row, column]
        return Cell(self.networks[row], self.networks[column], REACHES[worst], bool(worst == best))


def matrix(
    tables: Tables, conditions: Conditions, service: Service = ANY_SERVICE, dscp: int = 0, only: Collection[str] | None = None
) -> Matrix:
    """Return which networks of the common zone reach which; with `only`, among the networks of these ids.

    Raise TooLarge.
    """
    design = tables.design
    size = len(design.networks)
    worst, best = (np.full((size, size), NO_CELL, dtype=np.uint8) for _ in range(2))
    fabrics = {}
    for family in Family:
        fabric = FamilyWalks.of(tables, family, conditions, service, dscp, only)
        if fabric:
            fabric.fill(worst, best)
            fabrics[family] = fabric
    shown = [place for place, network in enumerate(design.networks) if not network.zone and (only is None or network.id in only)]
    if len(shown) < size:
        chosen = np.ix_(shown, shown)
        worst, best = worst[chosen], best[chosen]
    return Matrix(tuple(design.networks[place] for place in shown), worst, best, fabrics)


@dataclass
class FamilyWalks:
    """All walks of one family, there and back, and what each pair of parts comes to."""

    plane: ForwardingPlane
    answering: ForwardingPlane | None  # about answers; None where they go as their counterparts begin
    forward: WalkOutcomes
    back: WalkOutcomes  # the same as `forward` where answers go as their counterparts begin
    ranks: Ranks  # one for each pair of parts
    by_hand: dict[int, Trace]

    @classmethod
    def of(
        cls,
        tables: Tables,
        family: Family,
        conditions: Conditions,
        service: Service = ANY_SERVICE,
        dscp: int = 0,
        only: Collection[str] | None = None,
    ) -> FamilyWalks | None:
        """Walk all pairs of parts; None where the family has no networks. Raise TooLarge."""
        parts = EquivalenceClasses(tables, family, only)
        if not len(parts):
            return None
        if len(parts) > MOST_PARTS:
            raise TooLarge(f"the networks fall into {len(parts)} parts; {MOST_PARTS} can be compared at once")
        plane = ForwardingPlane(tables, parts, conditions, service, dscp)
        answering = None if plane.answers_alike else plane.of_answers()
        forward = WalkOutcomes(plane.codes, len(parts))
        back = WalkOutcomes(plane.codes, len(parts)) if answering else forward
        found = cls(plane, answering, forward, back, np.full(len(parts) ** 2, NO_CELL, dtype=np.uint8), {})
        pairs = plane.all_pairs()
        blocks = np.array_split(pairs, len(pairs) // _BLOCK + 1)  # each fits a processor's cache
        for block in blocks:
            plane.walk(forward, block)
        for block in blocks:
            found.answer(block)
        for block in blocks:
            found.judge(block)
        return found

    @contextmanager
    def changed(self, conditions: Conditions, down: frozenset[str], gateways: Collection[str]) -> Iterator[None]:
        """Put all walks under other conditions for a while, in which more is down, of interest to some gateways alone."""
        with ExitStack() as planes:
            for plane in filter(None, (self.plane, self.answering)):
                planes.enter_context(plane.changed(conditions, down, gateways))
            yield

    def answer(self, pairs: Pairs) -> None:
        """Walk the answers to what arrives of some pairs, where they go otherwise than their counterparts."""
        if self.answering:
            arrived = pairs[self.forward.ends[pairs] == ENDS.index(End.ARRIVES)]
            self.answering.walk(self.back, self.plane.turned(arrived), self.forward)

    def judge(self, pairs: Pairs) -> None:
        """Say what some pairs come to, now that their ways there and back are known."""
        turned = self.plane.turned(pairs)
        ends, answers = self.forward.ends[pairs], self.back.ends[turned]
        arrives = ends == ENDS.index(End.ARRIVES)
        ranks = _RANK_BY_END[ends]
        returns = arrives & (answers == ENDS.index(End.ARRIVES))
        ranks[arrives & ~returns] = _RANK[Reach.ONE_WAY]
        ranks[arrives & (answers == ENDS.index(End.UNKNOWN))] = _RANK[Reach.UNKNOWN]
        alike = self._same_way(pairs[returns], turned[returns])
        ranks[returns] = np.where(alike, _RANK[Reach.REACHES], _RANK[Reach.ASYMMETRIC])
        self.ranks[pairs] = ranks
        for pair in pairs[(ends == BY_HAND_END) | (arrives & (answers == BY_HAND_END))].tolist():
            traced = self.traced(pair)
            self.by_hand[pair] = traced
            self.ranks[pair] = _RANK[reach_of(traced)]

    def _same_way(self, pairs: Pairs, turned: Pairs) -> NDArray[np.bool_]:
        """Whether, of pairs that arrive and return, the answer comes through the same tunnels, the last one first."""
        counts, there = self.forward.tunnels(pairs)
        answers, back = self.back.tunnels(turned)
        alike: NDArray[np.bool_] = np.equal(counts, answers)
        for count in range(1, int(counts.max(initial=0)) + 1):
            some = np.flatnonzero(alike & (counts == count))
            for place in range(count):
                alike[some] &= there[place][some] == back[count - 1 - place][some]
        return alike

    def courses(self, pairs: Pairs) -> Pairs:
        """Return a number for how each pair goes there and back, BY_ITSELF for what its walks don't tell."""
        turned = self.plane.turned(pairs)
        columns = (*self.forward.course(pairs), *self.back.course(turned))
        _, numbers = np.unique(np.stack(columns, axis=1), axis=0, return_inverse=True)
        untold = self.forward.held(pairs) | self.back.held(turned) | np.isin(pairs, list(self.by_hand))
        return np.where(untold, Matrix.BY_ITSELF, numbers.reshape(-1))

    def traced(self, pair: int) -> Trace:
        """Trace one pair of parts."""
        plane, parts = self.plane, self.plane.parts
        places = divmod(pair, len(parts))
        begin, end = (Address(parts.family, parts.firsts[place]) for place in places)
        source, destination = (parts.networks[parts.network[place]] for place in places)
        flow = flow_between(plane.tables, source, begin, destination, end, plane.service, plane.dscp)
        return trace(plane.tables, flow, plane.conditions, source, destination)

    def fill(self, worst: Ranks, best: Ranks) -> None:
        """Write the worst and the best rank of each pair of networks into arrays by their places in the design."""
        order, starts, networks = self._by_network()
        ranks = self.ranks.reshape(len(order), len(order))[np.ix_(order, order)]
        chosen = np.ix_(networks, networks)
        known = np.where(ranks == NO_CELL, 0, ranks)
        worst[chosen], best[chosen] = _of_blocks(np.maximum, known, starts), _of_blocks(np.minimum, ranks, starts)
        worst[networks, networks] = best[networks, networks] = NO_CELL

    def worst_pair(self, source_id: str, target_id: str) -> int:
        """Return a pair of parts of two networks than which none of theirs fares worse."""
        size = len(self.plane.parts)
        pairs = [row * size + column for row in self._parts_of[source_id] for column in self._parts_of[target_id]]
        return pairs[0] if len(pairs) == 1 else max(pairs, key=lambda pair: int(self.ranks[pair]))

    @cached_property
    def _parts_of(self) -> dict[str, list[int]]:
        """The parts of each network, by its id."""
        found: dict[str, list[int]] = defaultdict(list)
        for part, network in enumerate(self.plane.parts.network.tolist()):
            found[self.plane.parts.networks[network].id].append(part)
        return found

    def _by_network(self) -> tuple[Pairs, Pairs, Numbers]:
        """Return the parts network by network, where each network begins among them, and the networks' places."""
        network = self.plane.parts.network
        order = np.argsort(network, kind="stable")
        sorted_ = network[order]
        starts = np.flatnonzero(np.concatenate(([True], sorted_[1:] != sorted_[:-1])))
        return order, starts, sorted_[starts]


def _of_blocks(extreme: np.ufunc, ranks: Ranks, starts: Pairs) -> Ranks:
    """Return the extreme of each block of ranks, which begin at the same places in rows and in columns."""
    if len(starts) == len(ranks):
        return ranks  # each is a block of its own
    found: Ranks = extreme.reduceat(extreme.reduceat(ranks, starts, axis=0), starts, axis=1)
    return found


def services_of(design: Design) -> tuple[Service, ...]:
    """Return the services that rules, filters, tunnels and intents of a design tell apart, all traffic first."""
    named = {Service.of(destination) for rule in design.rules for destination in rule.destinations}
    named |= {Service.of(destination) for filter_ in design.filters for destination in filter_.destinations}
    named |= {service for intent in design.intents for service in intent.services}
    named |= {service for rule in design.cloud_rules for service in rule.services}
    return (ANY_SERVICE, *sorted(named - {ANY_SERVICE}))
