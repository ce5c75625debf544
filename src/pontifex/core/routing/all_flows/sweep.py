"""Every single failure: what each one breaks, and which break nothing.

A failure only takes ways out of the choice. So a pair whose walk doesn't use what fails goes as before; only the pairs that
do are walked again, and judged again with their answers.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Final

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from pontifex.core.addressing import Family
from pontifex.core.kinds import SIDES, ObjectType
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.codes import Numbers
from pontifex.core.routing.all_flows.matrix import NO_CELL, REACHES, FamilyWalks, Ranks, Reach
from pontifex.core.routing.all_flows.walk_outcomes import NOTHING, Pairs, WalkOutcomes
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.dependents import Dependents, Fallen
from pontifex.core.routing.trace.flow import Conditions, Failing
from pontifex.core.routing.trace.flow_path import uses

MOST_LISTED = 200  # of the pairs that a failure costs


@dataclass(frozen=True, slots=True, kw_only=True)
class LostPair:
    """A pair of networks that is worse off during a failure."""

    source_id: str
    destination_id: str
    before: Reach
    during: Reach


@dataclass(frozen=True, slots=True, kw_only=True)
class Failure:
    """One thing that fails, and the pairs of networks that lose by it."""

    type: ObjectType
    id: str
    name: str
    lost: Annotated[int, Field(title="Pairs that are worse off")]
    unprotected: Annotated[int, Field(title="Of them those that leave unprotected then")]
    pairs: Annotated[tuple[LostPair, ...], Field(title="The pairs", description=f"The first {MOST_LISTED} of them.")]


@dataclass(frozen=True, slots=True)
class FailureCandidate:
    """Something that may fail."""

    type: ObjectType
    id: str
    name: str
    gone: frozenset[str] = frozenset()  # networks that are gone with it, and don't count


def suspects(design: Design) -> Iterator[FailureCandidate]:
    """Yield everything that may fail by itself."""
    for uplink in design.uplinks:
        yield FailureCandidate(ObjectType.UPLINK, uplink.id, uplink.name)
    for tunnel in design.tunnels:
        yield FailureCandidate(ObjectType.TUNNEL, tunnel.id, tunnel.name)
    for gateway in design.gateways:
        yield FailureCandidate(ObjectType.GATEWAY, gateway.id, gateway.name)
    for site in design.sites:
        gone = frozenset(network.id for network in design.networks_of_site(site.id))
        yield FailureCandidate(ObjectType.SITE, site.id, site.name, gone)


def sweep(tables: Tables, failing: Failing, only: Iterable[FailureCandidate] | None = None) -> tuple[Failure, ...]:
    """Return every single failure of an uplink, tunnel, gateway or site, the one that costs most pairs first.

    Pairs that begin or end at a site that fails are not counted: that they lose it goes without saying. Raise TooLarge.
    """
    design = tables.design
    before = Conditions.of(design, failing=failing)
    swept = [SweepBaseline(fabric) for family in Family if (fabric := FamilyWalks.of(tables, family, before))]
    dependents = Dependents(design)
    alike: dict[Fallen, list[FailureCandidate]] = defaultdict(list)  # a gateway, and a site that has no other
    for suspect in suspects(design) if only is None else only:
        alike[dependents.of([suspect.id])].append(suspect)
    place = {network.id: place for place, network in enumerate(design.networks)}
    found = []
    for fallen, some in alike.items():
        losses = [one.losses(before.with_fallen(fallen)) for one in swept]
        for suspect in some:
            gone = [place[id_] for id_ in suspect.gone]
            found.append(_failure(design, suspect, [one.apart_from(gone) for one in losses]))
    return tuple(sorted(found, key=lambda one: (-one.lost, one.type.value, one.id)))


def _failure(design: Design, suspect: FailureCandidate, losses: list[Losses]) -> Failure:
    pairs = tuple(pair for one in losses for pair in one.listed(design))
    return Failure(
        type=suspect.type,
        id=suspect.id,
        name=suspect.name,
        lost=sum(len(one.rows) for one in losses),
        unprotected=sum(int(np.count_nonzero(one.now == Reach.UNPROTECTED.rank)) for one in losses),
        pairs=pairs[:MOST_LISTED],
    )


@dataclass(frozen=True)
class Losses:
    """Pairs of networks that are worse off: places of their networks in the design, and ranks before and now."""

    rows: Numbers
    columns: Numbers
    was: Ranks
    now: Ranks

    def apart_from(self, networks: Sequence[int]) -> Losses:
        """Return those that are not of some networks, by their places."""
        if not networks:
            return self
        kept = ~(np.isin(self.rows, networks) | np.isin(self.columns, networks))
        return Losses(self.rows[kept], self.columns[kept], self.was[kept], self.now[kept])

    def listed(self, design: Design) -> Iterator[LostPair]:
        """Yield the first of them, in the order of the networks."""
        columns = (self.rows, self.columns, self.was, self.now)
        order = np.lexsort((self.columns, self.rows))[:MOST_LISTED]
        for row, column, was, now in zip(*(one[order].tolist() for one in columns), strict=True):
            source, destination = design.networks[row].id, design.networks[column].id
            yield LostPair(source_id=source, destination_id=destination, before=REACHES[was], during=REACHES[now])


_NO_PLACES: Final[Numbers] = np.empty(0, dtype=np.int64)
_NO_RANKS: Final[Ranks] = np.empty(0, dtype=np.uint8)
_NOTHING: Final = Losses(_NO_PLACES, _NO_PLACES, _NO_RANKS, _NO_RANKS)


@dataclass
class _Users:
    """Which pairs use each thing, from the layers of what walks note."""

    sorted_: list[tuple[NDArray[np.int32], NDArray[np.int64]]] = field(default_factory=list)

    @classmethod
    def of(cls, layers: Iterable[NDArray[np.int16] | NDArray[np.int32]], size: int) -> _Users:
        found = cls()
        for layer in layers:
            used = np.flatnonzero(layer >= 0).astype(np.int32)
            order = used[np.argsort(layer[used], kind="stable")]
            starts = np.searchsorted(layer[order], np.arange(size + 1))
            found.sorted_.append((order, starts))
        return found

    def of_any(self, places: Iterable[int]) -> list[Pairs]:
        """Return the pairs that use one of some things."""
        return [order[starts[one] : starts[one + 1]].astype(np.int64) for one in places for order, starts in self.sorted_]


class SweepBaseline:
    """The walks of one family before anything fails, ready to be asked what a failure changes."""

    def __init__(self, fabric: FamilyWalks) -> None:
        self._fabric = fabric
        self._design = fabric.plane.tables.design
        ways = [fabric.forward] if fabric.back is fabric.forward else [fabric.forward, fabric.back]
        self._users = [self._users_of(walked) for walked in ways]
        self._ways = ways
        self._buffer = np.zeros(len(fabric.ranks), dtype=np.int32)
        design = self._design
        by_id = (design.gateway_by_id, design.tunnel_by_id, design.uplink_by_id)  # in the order of the design's lists
        self._places = [dict(zip(ids, range(len(ids)), strict=True)) for ids in by_id]
        size = len(self._design.networks)
        self._worst, best = (np.full((size, size), NO_CELL, dtype=np.uint8) for _ in range(2))
        fabric.fill(self._worst, best)
        self._used_by_hand = {pair: uses(traced) for pair, traced in fabric.by_hand.items()}
        self._one_part_each = len(np.unique(fabric.plane.parts.network)) == len(fabric.plane.parts)

    def _users_of(self, walked: WalkOutcomes) -> tuple[_Users, _Users, _Users]:
        """What is refused counts as used: without it another way would be chosen."""
        design = self._design
        tunnels, uplinks = self._fabric.plane.codes.tunnels_and_uplinks(walked.refused)
        return (
            _Users.of(walked.gateways, len(design.gateways)),
            _Users.of([*walked.tunnels, tunnels], len(design.tunnels)),
            _Users.of([walked.uplinks, uplinks], len(design.uplinks)),
        )

    def _distinct(self, pairs: Pairs) -> Pairs:
        """Return each pair once: of equal ones the last that is written into the buffer is the one that finds itself there."""
        places = np.arange(len(pairs), dtype=np.int32)
        self._buffer[pairs] = places
        found: Pairs = pairs[self._buffer[pairs] == places]
        return found

    def losses(self, during: Conditions) -> Losses:
        """Return the pairs of networks that are worse off during a failure."""
        ids, places = self._new(during)
        touched = [np.concatenate(self._using(k, places)) for k in range(len(self._ways))]
        fabric, plane = self._fabric, self._fabric.plane
        by_hand = np.array([pair for pair, used in self._used_by_hand.items() if used is None or used & ids], dtype=np.int64)
        there = self._distinct(touched[0])
        answers = self._distinct(np.concatenate((touched[1], plane.turned(there)))) if len(touched) > 1 else there
        judged = self._distinct(np.concatenate((there, plane.turned(answers), by_hand)))
        if not len(judged):
            return _NOTHING
        saved = [_Saved(walked, pairs) for walked, pairs in zip(self._ways, (there, answers), strict=False)]
        ranks, hand = fabric.ranks[judged], dict(fabric.by_hand)
        with plane.changed(during, frozenset(ids), self._concerned(ids)):
            plane.walk(fabric.forward, there)
            if len(self._ways) > 1:
                fabric.answer(plane, plane.turned(answers))
            fabric.judge(plane, judged)
            found = self._worse(judged, ranks)
        fabric.ranks[judged], fabric.by_hand = ranks, hand
        for one in saved:
            one.restore()
        return found

    def _new(self, during: Conditions) -> tuple[set[str], tuple[list[int], list[int], list[int]]]:
        """Return what is down now and wasn't before: all ids, and places of gateways, tunnels and uplinks."""
        before = self._fabric.plane.conditions
        down = [
            during.gateways.keys() - before.gateways.keys(),
            during.tunnels.keys() - before.tunnels.keys(),
            during.uplinks.keys() - before.uplinks.keys(),
        ]
        gateways, tunnels, uplinks = ([places[id_] for id_ in ids] for places, ids in zip(self._places, down, strict=True))
        return set().union(*down), (gateways, tunnels, uplinks)

    def _using(self, way: int, places: tuple[list[int], list[int], list[int]]) -> list[Pairs]:
        nothing = np.empty(0, dtype=np.int64)
        found = [pairs for users, some in zip(self._users[way], places, strict=True) for pairs in users.of_any(some)]
        return [nothing, *found]

    def _concerned(self, ids: set[str]) -> set[str]:
        """Return the gateways whose decisions may change: those that fail, and those that what fails leads to or from."""
        concerned = ids & self._design.gateway_by_id.keys()
        concerned |= {self._design.uplink_by_id[id_].gateway_id for id_ in ids if id_ in self._design.uplink_by_id}
        for id_ in ids:
            if id_ in self._design.tunnel_by_id:
                concerned |= {self._design.tunnel_by_id[id_].end(side).gateway_id for side in SIDES}
        return concerned

    def _worse(self, judged: Pairs, before: Ranks) -> Losses:
        fabric = self._fabric
        parts = fabric.plane.parts
        if self._one_part_each:
            worse = judged[fabric.ranks[judged] > before]
            rows, columns = parts.network[worse // len(parts)], parts.network[worse % len(parts)]
            now = fabric.ranks[worse]
        else:
            worst, best = (np.full_like(self._worst, NO_CELL) for _ in range(2))
            fabric.fill(worst, best)
            rows, columns = np.nonzero(worst > self._worst)
            now = worst[rows, columns]
        return Losses(rows, columns, self._worst[rows, columns], now)


class _Saved:
    """Walks of some pairs, to be put back."""

    def __init__(self, walked: WalkOutcomes, pairs: Pairs) -> None:
        self._walked, self._pairs = walked, pairs
        self._kept = [(array, array[pairs]) for array in walked.arrays()]
        walked.forget(pairs)

    def restore(self) -> None:
        """Put everything back as it was; in layers that were added meanwhile there was nothing."""
        for array, values in self._kept:
            array[self._pairs] = values
        before = {id(array) for array, _ in self._kept}
        for layer in self._walked.arrays():
            if id(layer) not in before:
                layer[self._pairs] = NOTHING
