"""A design that records what is read of it: what a check depends on is what it has read, and no list by hand.

A list is read as a whole; by its id, an object alone is read. The record holds in another state of the design where nothing
of what was read has changed: states share whatever a change didn't touch, so that what is not the very same has changed.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Set
from datetime import date
from functools import cached_property
from operator import is_
from typing import Any, Final, Self

from pontifex.core.model import Design
from pontifex.core.model.design import MADE_OF

_FIELDS: Final = frozenset(Design.model_fields) - {"revision"}
# what looks up an object, or the objects that belong to one
LOOKUPS: Final = frozenset(
    name
    for name, kept in vars(Design).items()
    if isinstance(kept, cached_property) and str(kept.func.__annotations__["return"]).startswith("Mapping[str,")
)
# what is made of lists, and read as a whole; the address space reads networks only where there are no supernets
_WHOLE: Final = MADE_OF.keys() - LOOKUPS - {"address_space"}

Place = tuple[str, str | None]  # an attribute of the design, and a key in it; None for all of it


class Reads:
    """What was read of a design."""

    __slots__ = ("places",)

    def __init__(self) -> None:
        self.places: set[Place] = set()

    @property
    def names(self) -> set[str]:
        """The attributes that something was read of."""
        return {name for name, _ in self.places}

    def hold(self, changed: frozenset[Place]) -> bool:
        """Whether nothing that was read is among what has changed since."""
        return self.places.isdisjoint(changed)


def changed_places(before: Design, after: Design, read: Set[str]) -> frozenset[Place]:
    """Return all that is not the very same in two states of a design, of the names that anybody has `read`."""
    changed: set[Place] = {(name, None) for name in _FIELDS & read if not _is_same(getattr(before, name), getattr(after, name))}
    after.take_lookups(before)
    for name in LOOKUPS & read:
        was, now = getattr(before, name), getattr(after, name)
        if was is now:
            continue
        keys = {key for key, held in now.items() if not _is_same(was.get(key), held)} | (was.keys() - now.keys())
        changed |= {(name, key) for key in keys} | ({(name, None)} if keys else set())
    return frozenset(changed)


def _is_same(one: object, other: object) -> bool:
    """Whether two values are the very same, or hold the very same, one by one; plain values may be copies."""
    if one is other:
        return True
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and (all(map(is_, one, other)) or all(map(_is_same, one, other)))
    return isinstance(one, str | int | date) and one == other


class _Lookup(Mapping[str, Any]):
    """A dictionary of the design that records what is looked up in it."""

    __slots__ = ("_items", "_name", "_places")

    def __init__(self, name: str, items: dict[str, Any], places: set[Place]) -> None:
        self._name, self._items, self._places = name, items, places

    def __getitem__(self, key: str) -> Any:
        self._places.add((self._name, key))
        held = self._items.get(key)
        if held is None:
            raise KeyError(key)
        return held

    def get(self, key: str, default: Any = None) -> Any:
        self._places.add((self._name, key))
        held = self._items.get(key)
        return default if held is None else held

    def __iter__(self) -> Iterator[str]:
        self._places.add((self._name, None))
        return iter(self._items)

    def __len__(self) -> int:
        self._places.add((self._name, None))
        return len(self._items)


class _RecordedDesign(Design, defer_build=True):
    """A design of which all reads are recorded. Its revision is 0: what is found doesn't depend on how often it was changed."""

    def by_field(self) -> dict[str, Any]:
        """Return the value of each field, all of which is read."""
        return {field: getattr(self, field) for field in Design.model_fields}

    def with_valid(self, fields: Mapping[str, Any]) -> Self:
        """Return a changed design, of which nothing is recorded: all of this one has been read for it."""
        changed: Self = vars(self)["_design"].with_valid({**self.by_field(), **fields})
        return changed


class _Read:
    """An attribute that is read of the design, and recorded, when it is asked for first; from then on it is in place."""

    def __init__(self, name: str) -> None:
        self._name, self._looks_up = name, name in LOOKUPS
        self._places: frozenset[Place] = frozenset((made_of, None) for made_of in MADE_OF.get(name, (name,)))

    def __get__(self, recorded_design: _RecordedDesign, _kind: type[_RecordedDesign]) -> Any:
        own, name = vars(recorded_design), self._name
        held, places = getattr(own["_design"], name), own["_reads"].places
        if self._looks_up:
            held = _Lookup(name, held, places)
        else:
            places |= self._places
        own[name] = held
        return held


for _name in _FIELDS | _WHOLE | LOOKUPS:
    setattr(_RecordedDesign, _name, _Read(_name))


def recorded(design: Design, reads: Reads) -> Design:
    """Return a design as it is, and record what is read of it."""
    made = _RecordedDesign.__new__(_RecordedDesign)
    object.__setattr__(made, "__dict__", {"_design": design, "_reads": reads, "revision": 0})
    return made
