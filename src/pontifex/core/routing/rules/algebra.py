"""Sets of traffic as boxes over five measures, with exact set algebra: what rules match, and what is left of it.

A box is a range in each of: source address, destination address, protocol, destination port, class. A set is a list of
boxes of one family, which may share traffic unless said otherwise.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Family, Selector
from pontifex.core.kinds.dscp import dscp_name
from pontifex.core.routing.tables.tables import ResolvedRule

Range = tuple[int, int]
Bounds = tuple[Range, Range, Range, Range, Range]
_ANY_CLASS: Final = (0, 63)


@dataclass(frozen=True, slots=True)
class Box:
    """Traffic between ranges of addresses of one family, of some protocols, ports and classes."""

    family: Family
    bounds: Bounds

    def __str__(self) -> str:
        source, destination, protocols, ports, classes = self.bounds
        words = f"{Selector(self.family, *source)} to {Selector(self.family, *destination, protocols, ports)}"
        if classes == _ANY_CLASS:
            return words
        low, high = map(dscp_name, classes)
        return f"{words}, class {low}" if low == high else f"{words}, classes {low} to {high}"

    def common(self, other: Box) -> Box | None:
        """Return what both hold; None where that is nothing."""
        if self.family is not other.family:
            return None
        found = []
        for (low, high), (other_low, other_high) in zip(self.bounds, other.bounds, strict=True):
            first, last = max(low, other_low), min(high, other_high)
            if first > last:
                return None
            found.append((first, last))
        return Box(self.family, (found[0], found[1], found[2], found[3], found[4]))

    def without(self, hole: Box) -> list[Box]:
        """Return what is left when another box is taken out: at most two slabs along each measure, which share nothing."""
        inner = self.common(hole)
        if inner is None:
            return [self]
        left: list[Box] = []
        bounds = list(self.bounds)
        for k, (low, high) in enumerate(inner.bounds):
            for first, last in ((bounds[k][0], low - 1), (high + 1, bounds[k][1])):
                if first <= last:
                    slab = [*bounds[:k], (first, last), *bounds[k + 1 :]]
                    left.append(Box(self.family, (slab[0], slab[1], slab[2], slab[3], slab[4])))
            bounds[k] = (low, high)
        return left


def boxes_of(clause: ResolvedRule) -> list[Box]:
    """Return what a rule matches."""
    found = []
    for family in Family:
        everything = Selector(family, 0, family.last)
        sources = [everything] if clause.sources is None else [Selector.of(p) for p in clause.sources if p.family is family]
        destinations = [everything] if clause.destinations is None else [d for d in clause.destinations if d.family is family]
        classes = [_ANY_CLASS] if clause.classes is None else [(value, value) for value in sorted(clause.classes)]
        found += [
            Box(family, ((s.first, s.last), (d.first, d.last), d.protocols, d.ports, of_class))
            for s in sources
            for d in destinations
            for of_class in classes
        ]
    return found


def common(some: Iterable[Box], others: Sequence[Box]) -> list[Box]:
    """Return what two sets share."""
    return [both for box in some for other in others if (both := box.common(other))]


def without(some: Iterable[Box], taken: Iterable[Box]) -> list[Box]:
    """Return what the first set holds and the second doesn't."""
    left = list(some)
    for hole in taken:
        left = [part for box in left for part in box.without(hole)]
        if not left:
            break
    return left


def holds(some: Sequence[Box], others: Iterable[Box]) -> bool:
    """Whether the first set holds all of the second."""
    return not without(others, some)


class Boxes:
    """Many sets side by side, to find at once which of them share traffic with another."""

    def __init__(self, sets: Sequence[Sequence[Box]]) -> None:
        flat = [(place, box) for place, boxes in enumerate(sets) for box in boxes]
        self._of: dict[Family, tuple[NDArray[np.int64], NDArray[Any], NDArray[Any]]] = {}
        for family in Family:
            mine = [(place, box) for place, box in flat if box.family is family]
            places = np.array([place for place, _ in mine], dtype=np.int64)
            kind = np.int64 if family is Family.V4 else object
            bounds = np.array([box.bounds for _, box in mine], dtype=kind).reshape(len(mine), 5, 2)
            self._of[family] = places, bounds[:, :, 0], bounds[:, :, 1]

    def meeting(self, boxes: Iterable[Box], within: range) -> list[int]:
        """Return the places of those of some sets, in their order, that share traffic with one."""
        found: set[int] = set()
        for box in boxes:
            places, low, high = self._of[box.family]
            first, last = np.searchsorted(places, (within.start, within.stop))  # the boxes come set by set
            bounds = np.array(box.bounds, dtype=low.dtype)
            some = slice(int(first), int(last))
            meets = ((low[some] <= bounds[:, 1]) & (high[some] >= bounds[:, 0])).all(axis=1)
            found.update(places[some][meets.astype(np.bool_)].tolist())
        return sorted(found)
