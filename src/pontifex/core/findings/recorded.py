"""A design that records what is read of it: what a check depends on is what it has read, and no list by hand.

A list is read as a whole; by its id, an object alone is read. The record holds in another state of the design where all
that was read is the very same there: states share whatever a change didn't touch.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date
from functools import cached_property
from typing import Any, Final, Self

from pontifex.core.model import Design

_Place = tuple[str, str | None]  # an attribute of the design, and a key in it; None for all of it
_FIELDS: Final = frozenset(Design.model_fields) - {"revision"}
# what looks up an object, or the objects that belong to one
_LOOKUPS: Final = frozenset(
    name
    for name, kept in vars(Design).items()
    if isinstance(kept, cached_property) and str(kept.func.__annotations__["return"]).startswith("dict[str,")
)


class Reads:
    """What was read of a design."""

    def __init__(self) -> None:
        self.found: dict[_Place, object] = {}

    def hold_in(self, design: Design) -> bool:
        """Whether all that was read is the very same in another state of the design."""
        return all(_is_same(_at(design, place), read) for place, read in self.found.items())


def _at(design: Design, place: _Place) -> object:
    name, key = place
    held = getattr(design, name)
    return held if key is None else held.get(key)


def _is_same(one: object, other: object) -> bool:
    """Whether two values are the very same, or hold the very same, one by one; plain values may be copies."""
    if one is other:
        return True
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(map(_is_same, one, other))
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(_is_same(value, other[key]) for key, value in one.items())
    return isinstance(one, str | int | date) and one == other


class _Lookup(Mapping[str, Any]):
    """A dictionary of the design that records what is looked up in it."""

    def __init__(self, name: str, items: dict[str, Any], found: dict[_Place, object]) -> None:
        self._name, self._items, self._found = name, items, found

    def __getitem__(self, key: str) -> Any:
        self._found[self._name, key] = held = self._items.get(key)
        if held is None:
            raise KeyError(key)
        return held

    def get(self, key: str, default: Any = None) -> Any:
        self._found[self._name, key] = held = self._items.get(key)
        return default if held is None else held

    def __iter__(self) -> Iterator[str]:
        self._found[self._name, None] = self._items
        return iter(self._items)

    def __len__(self) -> int:
        self._found[self._name, None] = self._items
        return len(self._items)


class _RecordedDesign(Design):
    """A design of which all reads are recorded. Its revision is 0: what is found doesn't depend on how often it was changed."""

    def __getattribute__(self, name: str) -> Any:
        if name in _FIELDS:
            own = object.__getattribute__(self, "__dict__")
            own["_reads"].found[name, None] = held = getattr(own["_design"], name)
            return held
        if name in _LOOKUPS:
            own = object.__getattribute__(self, "__dict__")
            if name not in own:
                own[name] = _Lookup(name, getattr(own["_design"], name), own["_reads"].found)
            return own[name]
        if name == "revision":
            return 0
        return object.__getattribute__(self, name)

    def with_valid(self, fields: Mapping[str, Any]) -> Self:
        """Return a changed design, of which nothing is recorded: all of this one has been read for it."""
        own = object.__getattribute__(self, "__dict__")
        changed: Self = own["_design"].with_valid({**self.by_field(), **fields})
        return changed


def recorded(design: Design, reads: Reads) -> Design:
    """Return a design as it is, and record what is read of it."""
    made = _RecordedDesign.__new__(_RecordedDesign)
    object.__setattr__(made, "__dict__", {"_design": design, "_reads": reads})
    return made
