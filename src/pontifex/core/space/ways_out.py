"""The cheapest way out of a set of collisions: which networks to move, so that no two collide any more.

Each collision needs one of its two networks moved: a vertex cover of least weight. Covers are found in the order of their
cost by a best-first search over partial ones, so that the first is the cheapest, the next ones are the alternatives, and
whatever was not looked at costs at least as much as the cheapest partial cover that is left.
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
from pontifex.core.space.meeting import Meeting, meetings
from pontifex.core.space.room import Room
from pontifex.core.space.translate import translate_both

_MOST_STATES: Final = 20_000  # partial covers that are looked at in one group of collisions
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
    """Return the cheapest way out of all collisions between networks that meet."""
    pairs = [one for one in meetings(design) if one.joined]
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

    for one, other in edges:
        root[root_of(one)] = root_of(other)
    groups: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for edge in edges:
        groups[root_of(edge[0])].append(edge)
    return sorted(sorted(group) for group in groups.values())


@dataclass(frozen=True, slots=True)
class _Partial:
    """Networks that move, and those that stay for sure."""

    moving: frozenset[str]
    staying: frozenset[str]


def cheapest(edges: Edges, weights: dict[str, float]) -> WayOut:
    """Return the sets of least weight that hold an end of every edge: the best, and what comes next."""
    names = tuple(sorted({name for edge in edges for name in edge}))
    order = _busiest_first(edges)
    tie = count()
    heap: list[tuple[float, int, _Partial]] = [(0.0, next(tie), _Partial(frozenset(), frozenset()))]
    ways: list[MoveSet] = []
    compared, bound = 0, 0.0
    while heap and compared < _MOST_STATES and len(ways) <= _ALTERNATIVES:
        bound, _, partial = heappop(heap)
        compared += 1
        open_edge = next((edge for edge in order if not partial.moving & set(edge)), None)
        if open_edge is None:
            if _is_minimal(partial.moving, edges):
                ways.append(MoveSet(network_ids=tuple(sorted(partial.moving)), total=round(bound, 2)))
            continue
        first, second = open_edge
        if first not in partial.staying:
            _push(heap, tie, weights, partial.moving | {first}, partial.staying)
        if second not in partial.staying:  # and the first one stays, so that no set is found twice
            _push(heap, tie, weights, partial.moving | {second}, partial.staying | {first})
    exact = bool(ways)
    best = ways[0] if ways else _greedy(edges, weights)
    return WayOut(
        network_ids=names,
        collisions=len(edges),
        best=best,
        alternatives=tuple(ways[1:]),
        exact=exact,
        compared=compared,
        bound=round(ways[-1].total if ways else bound, 2),
    )


def _push(
    heap: list[tuple[float, int, _Partial]],
    tie: count[int],
    weights: dict[str, float],
    moving: frozenset[str],
    staying: frozenset[str],
) -> None:
    if not moving & staying:
        heappush(heap, (sum(weights[name] for name in sorted(moving)), next(tie), _Partial(moving, staying)))


def _busiest_first(edges: Edges) -> list[tuple[str, str]]:
    """Order edges so that networks with many collisions are decided first: that leaves the least to search."""
    degree: dict[str, int] = defaultdict(int)
    for edge in edges:
        for name in edge:
            degree[name] += 1
    turned = [edge if degree[edge[0]] >= degree[edge[1]] else (edge[1], edge[0]) for edge in edges]
    return sorted(turned, key=lambda edge: (-degree[edge[0]], edge))


def _is_minimal(moving: frozenset[str], edges: Edges) -> bool:
    return all(any(name in edge and not (moving - {name}) & set(edge) for edge in edges) for name in moving)


def _greedy(edges: Edges, weights: dict[str, float]) -> MoveSet:
    """Return a good set where too many would have to be compared: again and again what settles most for its weight."""
    left, chosen = list(edges), set()
    while left:
        degree: dict[str, int] = defaultdict(int)
        for edge in left:
            for name in edge:
                degree[name] += 1
        name = max(sorted(degree), key=lambda one: degree[one] / weights[one])
        chosen.add(name)
        left = [edge for edge in left if name not in edge]
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
    for pair in pairs:
        other = pair.inner if pair.outer.id == id_ else pair.outer
        chain = pair.chain if pair.outer.id == id_ else tuple(reversed(pair.chain))
        remedy = translate_both(design, design.network_by_id[id_], design.network_by_id[other.id], chain)
        found += remedy.operations if remedy else ()
    return found
