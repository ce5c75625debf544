"""What of all that is wanted the paths don't give, and the cause of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Service
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.matrix import NO_CELL, REACHES, Matrix, Ranks, Reach, matrix
from pontifex.core.routing.all_flows.worst_flow import worst_between
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.trace.flow_path import Trace
from pontifex.core.routing.wanted.blocks import WantedBlock, WantedFlow, WantedPart, wanted_blocks

_FEW: Final = 300  # wants that are traced one by one; more are cheaper all at once
_NOWHERE: Final = -1  # of a part that the matrix has no network for
_Cell = tuple[int, int]  # places of a source and of a destination in a block


@dataclass(frozen=True, slots=True)
class UnmetWants:
    """Things wanted that the paths don't give, all for one cause, with a trace of the first that shows it."""

    block: WantedBlock
    cells: tuple[_Cell, ...]
    reach: Reach
    trace: Trace

    def flows(self) -> Iterator[WantedFlow]:
        """Yield them one by one."""
        return (self.block.at(row, column) for row, column in self.cells)

    def only(self, cells: tuple[_Cell, ...]) -> UnmetWants:
        """Return some of them."""
        return replace(self, cells=cells)


class IntentTraces:
    """The intents of a design against its paths."""

    def __init__(self, tables: Tables, conditions: Conditions) -> None:
        self._tables, self._conditions = tables, conditions
        self._matrices: dict[tuple[Service, int], Matrix] = {}

    @property
    def design(self) -> Design:
        """The state of the design that is traced."""
        return self._tables.design

    @cached_property
    def blocks(self) -> tuple[WantedBlock, ...]:
        """All that is wanted, in blocks."""
        return tuple(wanted_blocks(self.design))

    @cached_property
    def all(self) -> tuple[WantedFlow, ...]:
        """All that is wanted, one by one."""
        return tuple(want for block in self.blocks for want in block.flows())

    @cached_property
    def _are_few(self) -> bool:
        return sum(len(block.sources) * len(block.destinations) for block in self.blocks) <= _FEW

    @cached_property
    def _networks(self) -> frozenset[str]:
        parts = (part for block in self.blocks for some in (block.sources, block.destinations) for part in some)
        return frozenset(part.network.id for part in parts)

    def reach(self, want: WantedFlow) -> tuple[Reach, Trace]:
        """Return what the paths give of something wanted, the worst of it, with a trace that shows it."""
        found, ranks = self._ranks(want.block)
        if found and ranks[0, 0] != NO_CELL:
            return REACHES[ranks[0, 0]], found.trace_of(found.place[want.source.id], found.place[want.destination.id])
        return self._traced(want)

    def met(self, block: WantedBlock) -> NDArray[np.bool_]:
        """Whether what a block asks for arrives and returns the same way, source by row and destination by column."""
        _, ranks = self._ranks(block)
        met: NDArray[np.bool_] = ranks == Reach.REACHES.rank
        for row, column in np.argwhere(block.asked & (ranks == NO_CELL)).tolist():
            met[row, column] = self._traced(block.at(row, column))[0] is Reach.REACHES
        return met

    def _traced(self, want: WantedFlow) -> tuple[Reach, Trace]:
        source, destination = (want.source, want.begin), (want.destination, want.end)
        return worst_between(self._tables, self._conditions, source, destination, want.service, want.dscp)

    def _ranks(self, block: WantedBlock) -> tuple[Matrix | None, Ranks]:
        """Return the worst of each pair of a block, NO_CELL where it is traced by itself; None where there is no matrix.

        A matrix is made where there is so much that it is worth its while.
        """
        ranks = np.full((len(block.sources), len(block.destinations)), NO_CELL, dtype=np.uint8)
        if self._are_few or not any(part.whole for part in block.sources) or not any(part.whole for part in block.destinations):
            return None, ranks
        key = block.service, block.dscp
        if key not in self._matrices:
            self._matrices[key] = matrix(self._tables, self._conditions, *key, self._networks)
        found = self._matrices[key]
        rows, columns = (_places(found, parts) for parts in (block.sources, block.destinations))
        known = np.ix_(np.flatnonzero(rows != _NOWHERE), np.flatnonzero(columns != _NOWHERE))
        ranks[known] = found.worst[np.ix_(rows[rows != _NOWHERE], columns[columns != _NOWHERE])]
        return found, ranks

    def tunnels(self, block: WantedBlock) -> set[str]:
        """Return the ids of the tunnels by which what is wanted is nearest."""
        return {crossing.tunnel.id for crossing in self._tables.chains.chain(*block.sites)}

    def unmet(self) -> Iterator[UnmetWants]:
        """Yield what is wanted and doesn't arrive and return the same way."""
        for block in self.blocks:
            yield from self.unmet_of(block)

    def unmet_of(self, block: WantedBlock, cells: Sequence[_Cell] | None = None) -> Iterator[UnmetWants]:
        """Yield what a block asks for and doesn't get; with `cells`, of these alone.

        Of flows that go the same course, and so have the same cause, one is traced.
        """
        found, ranks = self._ranks(block)
        asked = block.asked if cells is None else _mask(ranks, cells)
        lacking = np.argwhere(asked & (ranks != Reach.REACHES.rank) & (ranks != NO_CELL)).tolist()
        if found and lacking:
            yield from _by_course(found, block, lacking, ranks)
        for row, column in np.argwhere(asked & (ranks == NO_CELL)).tolist():
            reach, traced = self._traced(block.at(row, column))
            if reach is not Reach.REACHES:
                yield UnmetWants(block, ((row, column),), reach, traced)


def _mask(ranks: Ranks, cells: Sequence[_Cell]) -> NDArray[np.bool_]:
    """Return where cells are."""
    mask = np.zeros(ranks.shape, dtype=np.bool_)
    mask[tuple(np.array(cells).T)] = True
    return mask


def _places(found: Matrix, parts: tuple[WantedPart, ...]) -> NDArray[np.int64]:
    """Return the places in a matrix of the networks that parts are the whole of."""
    return np.array([found.place.get(part.network.id, _NOWHERE) if part.whole else _NOWHERE for part in parts], dtype=np.int64)


def _by_course(found: Matrix, block: WantedBlock, lacking: list[list[int]], ranks: Ranks) -> Iterator[UnmetWants]:
    """Yield what a block lacks, by the course that it takes; by itself what a rule keeps back, since that tells too little."""
    rows, columns = (
        [found.place[parts[place].network.id] for place in places]
        for parts, places in zip((block.sources, block.destinations), zip(*lacking, strict=True), strict=True)
    )
    groups: dict[tuple[int, int], list[int]] = defaultdict(list)
    for place, course in enumerate(found.courses(rows, columns).tolist()):
        groups[course, place if course == Matrix.BY_ITSELF else 0].append(place)
    for places in groups.values():
        cells = tuple((lacking[place][0], lacking[place][1]) for place in places)
        first = places[0]
        yield UnmetWants(block, cells, REACHES[ranks[cells[0]]], found.trace_of(rows[first], columns[first]))
