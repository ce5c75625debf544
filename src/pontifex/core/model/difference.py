"""What differs between two states of a design: as operations, and as fields that a person can read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import chain, islice
from typing import Annotated

from pydantic import Field

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import ObjectType
from pontifex.core.model.design import Design, DesignObject
from pontifex.core.model.operations import Put, Remove, put
from pontifex.core.model.written import ABSENT, WrittenObject


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldChange:
    """One field of one object, before and after."""

    type: Annotated[ObjectType, Field(title="Type of the object")]
    id: Annotated[str, Field(title="Id of the object")]
    name: Annotated[str, Field(title="Name of the object")]
    field: Annotated[
        str, Field(title="Field", description="Its path and title; empty where the object is added or removed as a whole.")
    ]
    before: Annotated[str, Field(title="Before")]
    after: Annotated[str, Field(title="After")]


@dataclass(frozen=True, slots=True)
class ChangedObject:
    """One object that differs between two states; None where it isn't there."""

    type: ObjectType
    id: str
    before: DesignObject | None
    after: DesignObject | None


@dataclass(frozen=True, slots=True)
class Difference:
    """All objects that differ between two states, in canonical order."""

    before: Design
    after: Design
    objects: tuple[ChangedObject, ...]

    @property
    def forward(self) -> tuple[Put | Remove, ...]:
        """The operations that turn the first state into the second."""
        return tuple(_operation(changed_object.type, changed_object.id, changed_object.after) for changed_object in self.objects)

    @property
    def backward(self) -> tuple[Put | Remove, ...]:
        """The operations that turn the second state into the first: what undoes the change."""
        return tuple(_operation(changed_object.type, changed_object.id, changed_object.before) for changed_object in self.objects)

    def fields(self, most: int) -> tuple[FieldChange, ...]:
        """What changed, field by field, in words that a person can check before agreeing; `most` of them at most."""
        found = (_object_fields(changed_object, self.before, self.after) for changed_object in self.objects)
        return tuple(islice(chain.from_iterable(found), most))


def unlike(was: Mapping[str, object], now: Mapping[str, object]) -> set[str]:
    """Return the ids under which two states don't have the very same object."""
    if was is now:
        return set()
    return {id_ for id_, held in now.items() if was.get(id_) is not held} | (was.keys() - now.keys())


def difference(before: Design, after: Design) -> Difference:
    """Return what differs between two states of a design."""
    found: list[ChangedObject] = []
    for type_, new in after.by_type.items():
        old = before.by_type[type_]
        for id_ in sorted(unlike(old, new)):
            was, is_ = old.get(id_), new.get(id_)
            if was != is_:
                found.append(ChangedObject(type_, id_, was, is_))
    return Difference(before, after, tuple(found))


def _operation(type_: ObjectType, id_: str, wanted: DesignObject | None) -> Put | Remove:
    return Remove(type=type_, id=id_) if wanted is None else put(wanted)


def _object_fields(changed: ChangedObject, before: Design, after: Design) -> Iterator[FieldChange]:
    name = str(getattr(changed.after or changed.before, "name", changed.id))
    if changed.before is None or changed.after is None:
        was, is_ = _summary(changed.before, before), _summary(changed.after, after)
        yield FieldChange(type=changed.type, id=changed.id, name=name, field="", before=was, after=is_)
        return
    states = WrittenObject(changed.before, before), WrittenObject(changed.after, after)
    for field, left, right in _fields(changed.before, changed.after, states, "", ""):
        yield FieldChange(type=changed.type, id=changed.id, name=name, field=field, before=left, after=right)


def _fields(
    was: FrozenModel, is_: FrozenModel, states: tuple[WrittenObject, WrittenObject], path: str, title: str
) -> Iterator[tuple[str, str, str]]:
    """Yield title and both values of each field that differs, of an object or of one of its ends."""
    for field, info in type(was).model_fields.items():
        left, right = getattr(was, field), getattr(is_, field)
        if left == right:
            continue
        called = title + (info.title or field)
        if field in ("left", "right"):
            yield from _fields(left, right, states, f"{field}/", f"{called}: ")
        else:
            yield called, states[0].field(f"{path}{field}", left), states[1].field(f"{path}{field}", right)


def _summary(item: DesignObject | None, design: Design) -> str:
    """The object in one line: its name and its other plain fields."""
    if item is None:
        return ABSENT
    state = WrittenObject(item, design)
    fields = [(field, getattr(item, field)) for field in type(item).model_fields if field not in ("id", "left", "right")]
    return ", ".join(state.field(field, value) for field, value in fields if value not in (None, "", ()))
