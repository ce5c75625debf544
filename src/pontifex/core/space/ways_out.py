"""The cheapest way out of a set of collisions: which networks to move, so that no two collide any more.

Each collision needs one of its two networks moved: a vertex cover of least weight. Covers are found in the order of their
cost by a best-first search over partial ones, so that the first is the cheapest, the next ones are the alternatives, and
whatever was not looked at costs at least as much as the cheapest partial cover that is left. Of networks that all collide
with each other at most one stays: what the others weigh is a bound from below that steers the search.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heappop, heappush
from itertools import count
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.model import Design, Operation, RenumberNetwork, apply_operations, put
from pontifex.core.space.cost import PARTNER, MoveCost, move_costs
from pontifex.core.space.meeting import JoinedSites, Meeting, all_meetings
from pontifex.core.space.room import Room
from pontifex.core.space.translate import translate_both

_MOST_STATES: Final = 20_000  # partial covers that are looked at in one group of collisions
_MOST_STEPS: Final = 400_000  # the same times the networks of the group
_ALTERNATIVES: Final = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveSet:
    """A set of networks whose moving leaves no collision."""

    network_ids: Annotated[tuple[str, ...], Field(title="Networks to move")]
    total: Annotated[float, Field(title="Points in all")]


@dataclass(frozen=True, slots=True, kw_only=True)
class WayOut:
    """What was found for one group of networks that collide with each other."""

    network_ids: Annotated[tuple[str, ...], Field(title="Networks of the group")]
    collisions: int
    best: MoveSet
    alternatives: Annotated[tuple[MoveSet, ...], Field(title="The next best", description="Cheapest first.")]
    exact: Annotated[bool, Field(title="Proven to be the cheapest")]
    compared: Annotated[int, Field(title="Partial sets that were compared")]
    bound: Annotated[float, Field(title="No other set costs less than this")]


@dataclass(frozen=True, slots=True, kw_only=True)
class WaysOut:
    """The cheapest way out of all collisions of a design."""

    revision: int
    groups: tuple[WayOut, ...]
    costs: Annotated[tuple[MoveCost, ...], Field(title="What each network costs to move")]
    total: Annotated[float, Field(title="Points in all")]
    operations: Annotated[tuple[Operation, ...], Field(title="The change that does it")]
    words: Annotated[tuple[str, ...], Field(title="What it does, one by one")]


Edges = Sequence[tuple[str, str]]


def ways_out(design: Design) -> WaysOut:
    """Return the cheapest way out of all collisions between networks that meet. Raise TooLarge."""
    pairs = [meeting for meeting in all_meetings(design) if meeting.joined]
    edges = [(pair.outer.id, pair.inner.id) for pair in pairs]
    costs = move_costs(design, {id_ for edge in edges for id_ in edge})
    weights = {id_: cost.total for id_, cost in costs.items()}
    groups = tuple(cheapest(group, weights) for group in grouped(edges))
    operations, words = _carried_out(design, pairs, {id_ for group in groups for id_ in group.best.network_ids})
    return WaysOut(
        revision=design.revision,
        groups=groups,
        costs=tuple(costs.values()),
        total=round(sum(group.best.total for group in groups), 2),
        operations=tuple(operations),
        words=tuple(words),
    )


def grouped(edges: Edges) -> list[list[tuple[str, str]]]:
    """Return collisions in groups that have no network in common."""
    root: dict[str, str] = {}

    def root_of(name: str) -> str:
        while root.setdefault(name, name) != name:
            root[name] = name = root[root[name]]
        return name

    for text, other in edges:
        root[root_of(text)] = root_of(other)
    groups: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for edge in edges:
        groups[root_of(edge[0])].append(edge)
    return sorted(sorted(group) for group in groups.values())


class _Search:
    """The search for the covers of one group, in the order of their weight."""

    def __init__(self, edges: Edges, weights: dict[str, float]) -> None:
        self.near: dict[str, set[str]] = defaultdict(set)
        for text, other in edges:
            self.near[text].add(other)
            self.near[other].add(text)
        self._weights = weights
        self._cliques = _cliques(self.near)
        self._tie = count()
        self._heap: list[tuple[float, int, frozenset[str], frozenset[str]]] = []  # bound, …, moving, staying
        self._push(frozenset(), frozenset())

    def next(self) -> tuple[float, frozenset[str], bool] | None:
        """Look at the partial cover of the least bound; return the bound, what moves in it, and whether it covers all."""
        if not self._heap:
            return None
        bound, _, moving, staying = heappop(self._heap)
        open_ = self.near.keys() - moving - staying
        busiest = max(sorted(open_), key=lambda name: len(self.near[name] & open_), default="")
        if not busiest or not self.near[busiest] & open_:
            return bound, moving, True
        self._push(moving | {busiest}, staying)
        self._push(moving | self.near[busiest], staying | {busiest})
        return bound, moving, False

    def _push(self, moving: frozenset[str], staying: frozenset[str]) -> None:
        if not moving & staying:
            heappush(self._heap, (self._bound(moving, staying), next(self._tie), moving, staying))

    def _bound(self, moving: frozenset[str], staying: frozenset[str]) -> float:
        """Return what a cover weighs at least that moves some and leaves others."""
        bound = sum(self._weights[name] for name in sorted(moving))
        for clique in self._cliques:
            open_ = [self._weights[name] for name in clique if name not in moving and name not in staying]
            if len(open_) > 1:
                bound += sum(open_) - max(open_)
        return bound


def _cliques(near: dict[str, set[str]]) -> list[list[str]]:
    """Return disjoint sets of networks that all collide with each other, the busiest networks first."""
    left = set(near)
    found: list[list[str]] = []
    for name in sorted(near, key=lambda site: (-len(near[site]), site)):
        if name in left:
            clique = [name]
            for other in sorted(near[name] & left, key=lambda site: (-len(near[site]), site)):
                if all(other in near[member] for member in clique):
                    clique.append(other)
            left -= set(clique)
            found.append(clique)
    return found


def cheapest(edges: Edges, weights: dict[str, float]) -> WayOut:
    """Return the sets of least weight that hold an end of every edge: the best, and what comes next."""
    names = tuple(sorted({name for edge in edges for name in edge}))
    search = _Search(edges, weights)
    most = min(_MOST_STATES, _MOST_STEPS // len(names))
    ways: list[MoveSet] = []
    compared, bound = 0, 0.0
    while compared < most and len(ways) <= _ALTERNATIVES:
        looked_at = search.next()
        if looked_at is None:
            break
        bound, moving, covers = looked_at
        compared += 1
        if covers and _is_minimal(moving, search.near):
            ways.append(MoveSet(network_ids=tuple(sorted(moving)), total=round(bound, 2)))
    best = ways[0] if ways else _greedy(edges, weights)
    return WayOut(
        network_ids=names,
        collisions=len(edges),
        best=best,
        alternatives=tuple(ways[1:]),
        exact=bool(ways),
        compared=compared,
        bound=round(ways[-1].total if ways else bound, 2),
    )


def _is_minimal(moving: frozenset[str], near: dict[str, set[str]]) -> bool:
    """Whether each of what moves has a collision with something that stays."""
    return all(near[name] - moving for name in moving)


def _greedy(edges: Edges, weights: dict[str, float]) -> MoveSet:
    """Return a good set where too many would have to be compared: again and again what settles most for its weight."""
    left: dict[str, set[str]] = defaultdict(set)
    for text, other in edges:
        left[text].add(other)
        left[other].add(text)
    chosen: set[str] = set()
    while any(left.values()):
        name = max(sorted(left), key=lambda site: len(left[site]) / weights[site])
        chosen.add(name)
        for other in left.pop(name):
            left[other].discard(name)
    return MoveSet(network_ids=tuple(sorted(chosen)), total=round(sum(weights[name] for name in sorted(chosen)), 2))


def _carried_out(design: Design, pairs: Sequence[Meeting], moving: set[str]) -> tuple[list[Operation], list[str]]:
    """Return the moves, one after the other so that none takes another's room; a partner's network is translated instead."""
    operations: list[Operation] = []
    words: list[str] = []
    current = design
    space = design.settings_with_space
    if space:
        operations.append(put(space))
        words.append(f"supernets: {', '.join(map(str, space.supernets))}, since none are given yet")
        current = apply_operations(design, operations)
    for id_ in sorted(moving):
        network = current.network_by_id[id_]
        name = f"{design.site_by_id[network.site_id].name}'s {network.name}"
        partner = move_costs(current, [id_])[id_].total >= PARTNER
        offers = () if partner else Room(current).offers(network.site_id, network.prefix.family, network.prefix.length, most=1)
        if offers:
            step: list[Operation] = [RenumberNetwork(id=id_, prefix=offers[0].prefix)]
            words.append(f"{name}: {network.prefix} becomes {offers[0].prefix}")
        else:
            step = _translations(current, [pair for pair in pairs if id_ in (pair.outer.id, pair.inner.id)], id_)
            words.append(f"{name}: stays at {network.prefix}, and is translated" if step else f"{name}: no room was found")
        current = apply_operations(current, step) if step else current
        operations += step
    return operations, words


def _translations(design: Design, pairs: Sequence[Meeting], id_: str) -> list[Operation]:
    found: list[Operation] = []
    joined, room = JoinedSites(design), Room(design)
    for pair in pairs:
        other = pair.inner if pair.outer.id == id_ else pair.outer
        chain = pair.chain if pair.outer.id == id_ else tuple(reversed(pair.chain))
        remedy = translate_both(joined, room, design.network_by_id[id_], design.network_by_id[other.id], chain)
        found += remedy.operations if remedy else ()
    return found
