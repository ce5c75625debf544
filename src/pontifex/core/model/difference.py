"""What differs between two states of a design: as operations, and as fields that a person can read."""

from __future__ import annotations

from collections.abc import Iterator
from enum import Enum
from typing import Any

from pydantic import Field

from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.ipsec.proposal import Proposal
from pontifex.core.model.design import LISTED_TYPES, Design, DesignObject, ObjectType
from pontifex.core.model.operations import Put, Remove, put
from pontifex.core.value import Value

_ALL_TYPES = (ObjectType.SETTINGS, *LISTED_TYPES)
_ABSENT = "—"


class FieldChange(Value):
    """One field of one object, before and after."""

    type: ObjectType = Field(title="Type of the object")
    id: str = Field(title="Id of the object")
    name: str = Field(title="Name of the object")
    field: str = Field(title="Field", description="Its path and title; empty where the object is added or removed as a whole.")
    before: str = Field(title="Before")
    after: str = Field(title="After")


def changed_objects(before: Design, after: Design) -> Iterator[tuple[ObjectType, str, DesignObject | None, DesignObject | None]]:
    """Yield type, id and both states of each object that differs, in canonical order."""
    for type_ in _ALL_TYPES:
        old, new = before.by_type[type_], after.by_type[type_]
        for id_ in sorted(old.keys() | new.keys()):
            was, is_ = old.get(id_), new.get(id_)
            if was is not is_ and was != is_:
                yield type_, id_, was, is_


def operations_between(before: Design, after: Design) -> tuple[Put | Remove, ...]:
    """Return the operations that turn one state into the other; with the states swapped, those that undo it."""
    return tuple(Remove(type=type_, id=id_) if is_ is None else put(is_) for type_, id_, _, is_ in changed_objects(before, after))


def field_changes(before: Design, after: Design) -> tuple[FieldChange, ...]:
    """Return what changed, field by field, in words that a person can check before agreeing."""
    changes: list[FieldChange] = []
    for type_, id_, was, is_ in changed_objects(before, after):
        name = str(getattr(is_ or was, "name", id_))
        if was is None or is_ is None:
            texts = (_ABSENT, _summary(is_)) if was is None else (_summary(was), _ABSENT)
            changes.append(FieldChange(type=type_, id=id_, name=name, field="", before=texts[0], after=texts[1]))
            continue
        for field, left, right in _fields(was, is_, ""):
            changes.append(FieldChange(type=type_, id=id_, name=name, field=field, before=left, after=right))
    return tuple(changes)


def _fields(was: Value, is_: Value, path: str) -> Iterator[tuple[str, str, str]]:
    for field, info in type(was).model_fields.items():
        left, right = getattr(was, field), getattr(is_, field)
        if left == right:
            continue
        title = path + (info.title or field)
        if field in ("left", "right"):
            yield from _fields(left, right, title + ": ")
        else:
            yield title, written(left), written(right)


def _summary(item: DesignObject | None) -> str:
    """The object in one line: its name and its other plain fields."""
    if item is None:
        return _ABSENT
    fields = [getattr(item, field) for field in type(item).model_fields if field not in ("id", "left", "right")]
    return ", ".join(written(field) for field in fields if field not in (None, "", ()))


def written(value: Any) -> str:
    """Write a field's value for a person; a key shows as its fingerprint."""
    if value in (None, (), ""):
        return _ABSENT
    if isinstance(value, tuple):
        return "; ".join(written(part) for part in value)
    if isinstance(value, Proposal):
        return value.label
    if isinstance(value, KeyFacts):
        return f"key {value.fingerprint} ({value.length} characters)"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value.value if isinstance(value, Enum) else value)
