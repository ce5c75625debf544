"""A design that records what is read of it: what a check depends on is what it has read, and no list by hand.

A list is read as a whole; by its id, an object alone is read. A record holds in another state of the design where nothing
of what was read has changed: states share whatever a change didn't touch, so that what is not the very same has changed.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Set
from dataclasses import dataclass, field
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


@dataclass(slots=True)
class _Reads:
    """What is read of a state of the design."""

    state: Design
    names: set[str] = field(default_factory=set)  # the attributes that anybody has read
    places: set[Place] = field(default_factory=set)  # what was read since the last record was begun


class Recorder:
    """A state of the design, and what each part of an analysis reads of it."""

    def __init__(self, state: Design) -> None:
        self._reads = _Reads(state)
        self._recorded = _RecordedDesign.__new__(_RecordedDesign)
        object.__setattr__(self._recorded, "__dict__", {"_reads": self._reads, "revision": 0})

    @property
    def state(self) -> Design:
        """The state itself, of which nothing is recorded."""
        return self._reads.state

    @property
    def names(self) -> Set[str]:
        """The attributes that any part has read."""
        return self._reads.names

    def record(self) -> tuple[Design, set[Place]]:
        """Begin a record: return the design as it is, and the places that are to be read of it."""
        self._reads.places = places = set[Place]()
        return self._recorded, places


class _Lookup(Mapping[str, Any]):
    """A dictionary of the design that records what is looked up in it."""

    __slots__ = ("_items", "_name", "_reads")

    def __init__(self, name: str, items: dict[str, Any], reads: _Reads) -> None:
        self._name, self._items, self._reads = name, items, reads

    def __getitem__(self, key: str) -> Any:
        self._reads.places.add((self._name, key))
        return self._items[key]

    def get(self, key: str, default: Any = None) -> Any:
        self._reads.places.add((self._name, key))
        return self._items.get(key, default)

    def __iter__(self) -> Iterator[str]:
        self._reads.places.add((self._name, None))
        return iter(self._items)

    def __len__(self) -> int:
        self._reads.places.add((self._name, None))
        return len(self._items)


class _RecordedDesign(Design, defer_build=True):
    """A design of which all reads are recorded. Its revision is 0: what is found doesn't depend on how often it was changed."""

    def by_field(self) -> dict[str, Any]:
        """Return the value of each field, all of which is read."""
        return {field: getattr(self, field) for field in Design.model_fields}

    def with_valid(self, fields: Mapping[str, Any]) -> Self:
        """Return a changed design, of which nothing is recorded: all of this one has been read for it."""
        changed: Self = vars(self)["_reads"].state.with_valid({**self.by_field(), **fields})
        return changed


class _Read:
    """An attribute of the design that is recorded when it is read; a dictionary records what is looked up in it by itself."""

    def __init__(self, name: str) -> None:
        self._name, self._looks_up, self._of = name, name in LOOKUPS, MADE_OF.get(name, (name,))
        self._places: frozenset[Place] = frozenset((made_of, None) for made_of in self._of)

    def __get__(self, recorded_design: _RecordedDesign, _kind: type[_RecordedDesign]) -> Any:
        own, name = vars(recorded_design), self._name
        reads: _Reads = own["_reads"]
        held = getattr(reads.state, name)
        if self._looks_up:
            reads.names.add(name)
            held = own[name] = _Lookup(name, held, reads)
        else:
            reads.names.update(self._of)
            reads.places |= self._places
        return held


for _name, _kept in vars(Design).items():
    if isinstance(_kept, cached_property):  # what is worked out of what is read is kept for no other record
        setattr(_RecordedDesign, _name, property(_kept.func))
for _name in _FIELDS | _WHOLE | LOOKUPS:
    setattr(_RecordedDesign, _name, _Read(_name))
