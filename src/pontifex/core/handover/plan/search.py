"""The order of entries: first the rules of the trade, then a search where a state between would break something.

States are searched best first: fewest broken so far, then furthest on, then as the rules of the trade have it. Where that
makes no headway, as between two ends that take one value each, it goes on from the furthest state with the least outage.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from heapq import heappop, heappush
from typing import Final

from pontifex.core.handover.plan.entry import Entry

_MOST_TRIED: Final = 48  # states that are judged without getting further, in plans too large for all their orders
_ALL_ORDERS: Final = 9  # entries of which every order is looked at where one breaks something


@dataclass(frozen=True, slots=True)
class Made:
    """Which entries are made, the last one with those before it; None is the beginning."""

    entry: Entry
    before: Made | None
    key: int  # a bit for the place of each

    def __iter__(self) -> Iterator[Entry]:
        """Yield the entries in the order in which they are made."""
        found: list[Entry] = []
        made: Made | None = self
        while made:
            found.append(made.entry)
            made = made.before
        return reversed(found)


Broken = Callable[[Made], int]  # how much is broken in a state


@dataclass(frozen=True, slots=True)
class Order:
    """Entries in their order."""

    entries: tuple[Entry, ...]
    is_least: bool  # whether no other order breaks less


@dataclass(order=True, slots=True)
class _Branch:
    """A state, and the first of the entries that weren't tried from it yet. Those of one cost come the furthest first."""

    cost: int
    behind: int  # entries still to be made in the states that it leads to
    number: int  # the newer first
    made: Made | None = field(compare=False)
    place: int = field(compare=False)  # among the candidates; NEW for a state whose turn hasn't come yet
    is_broken: bool = field(compare=False, default=False)


_NEW: Final = -1


class Search:
    """One search."""

    def __init__(self, entries: Sequence[Entry], broken: Broken) -> None:
        self._ranked = sorted(entries, key=lambda entry: entry.rank)
        self._broken = broken
        self._needs = {entry.place: sum(1 << place for place in entry.after) for entry in entries}
        self._branches: list[_Branch] = []
        self._costs: dict[int, int] = {}  # of states, by their keys
        self._count = 0

    def order(self) -> Order:
        """Return the order that breaks least; of those that break nothing the first one by the rules of the trade."""
        looks_at_all = len(self._ranked) <= _ALL_ORDERS
        self._push(_Branch(0, len(self._ranked), 0, None, _NEW))
        closed: set[int] = set()
        furthest, known, is_least = len(self._ranked), 0, True
        while True:
            branch = heappop(self._branches)
            if branch.place == _NEW:
                key = branch.made.key if branch.made else 0
                if key in closed:
                    continue
                closed.add(key)
                if not branch.behind:
                    return Order(tuple(branch.made or ()), is_least or not branch.cost)
                if branch.behind < furthest:
                    furthest, known = branch.behind, len(self._costs)
                self._push(_Branch(branch.cost, branch.behind - 1, 0, branch.made, 0, branch.is_broken))
                continue
            made = self._next(branch)
            if made and made.key not in closed:
                broken = self._cost(made, branch.behind)
                self._push(_Branch(branch.cost + broken, branch.behind, 0, made, _NEW, bool(broken)))
            if not looks_at_all and len(self._costs) - known > _MOST_TRIED:
                self._go_on()
                is_least, known = False, len(self._costs)

    def _push(self, branch: _Branch) -> None:
        self._count -= 1
        branch.number = self._count
        heappush(self._branches, branch)

    def _cost(self, made: Made, behind: int) -> int:
        """Return how much is broken in a state; the last one is as it is meant to be."""
        if behind and made.key not in self._costs:
            self._costs[made.key] = self._broken(made)
        return self._costs.get(made.key, 0)

    def _next(self, branch: _Branch) -> Made | None:
        """Return the state that the next entry leads to, and leave those behind it for later; None where there is none."""
        made = branch.made
        key = made.key if made else 0
        for place, entry in self._candidates(branch):
            bit = 1 << entry.place
            if not key & bit and self._needs[entry.place] & ~key == 0:
                heappush(self._branches, replace(branch, place=place + 1))
                return Made(entry, made, key | bit)
        return None

    def _candidates(self, branch: _Branch) -> Iterator[tuple[int, Entry]]:
        """Yield the entries from a place on: by rank; where something is broken those first that may mend it."""
        last = branch.made.entry.key if branch.made and branch.is_broken else None
        size = len(self._ranked)
        for place in range(branch.place, 2 * size if last else size):
            entry = self._ranked[place % size]
            if last is None or (entry.key == last) is (place < size):
                yield place, entry

    def _go_on(self) -> None:
        """Leave all but the state that is furthest on, of those the best."""
        furthest = min(branch.behind for branch in self._branches if branch.place == _NEW)
        self._branches = [
            min(candidate for candidate in self._branches if candidate.behind == furthest and candidate.place == _NEW)
        ]
