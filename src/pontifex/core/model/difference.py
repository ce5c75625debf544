"""What differs between two states of a design: as operations, and as fields that a person can read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum
from itertools import chain, islice
from typing import Annotated, Any

from pydantic import Field

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.ipsec.proposal import Proposal
from pontifex.core.kinds import AuthMethod, Member, ObjectType, Path, SuffixResolver, Technology
from pontifex.core.model.design import Design, DesignObject
from pontifex.core.model.operations import Put, Remove, put

ABSENT = "—"


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

    objects: tuple[ChangedObject, ...]

    @property
    def forward(self) -> tuple[Put | Remove, ...]:
        """The operations that turn the first state into the second."""
        return tuple(_operation(one.type, one.id, one.after) for one in self.objects)

    @property
    def backward(self) -> tuple[Put | Remove, ...]:
        """The operations that turn the second state into the first: what undoes the change."""
        return tuple(_operation(one.type, one.id, one.before) for one in self.objects)

    def fields(self, most: int) -> tuple[FieldChange, ...]:
        """What changed, field by field, in words that a person can check before agreeing; `most` of them at most."""
        return tuple(islice(chain.from_iterable(map(_object_fields, self.objects)), most))


def difference(before: Design, after: Design) -> Difference:
    """Return what differs between two states of a design."""
    found: list[ChangedObject] = []
    for type_, new in after.by_type.items():
        old = before.by_type[type_]
        suspects = {id_ for id_, item in new.items() if old.get(id_) is not item} | (old.keys() - new.keys())
        for id_ in sorted(suspects):
            was, is_ = old.get(id_), new.get(id_)
            if was != is_:
                found.append(ChangedObject(type_, id_, was, is_))
    return Difference(tuple(found))


def _operation(type_: ObjectType, id_: str, wanted: DesignObject | None) -> Put | Remove:
    return Remove(type=type_, id=id_) if wanted is None else put(wanted)


def _object_fields(one: ChangedObject) -> Iterator[FieldChange]:
    name = str(getattr(one.after or one.before, "name", one.id))
    if one.before is None or one.after is None:
        yield FieldChange(type=one.type, id=one.id, name=name, field="", before=_summary(one.before), after=_summary(one.after))
        return
    for field, left, right in _fields(one.before, one.after, ""):
        yield FieldChange(type=one.type, id=one.id, name=name, field=field, before=left, after=right)


def _fields(was: FrozenModel, is_: FrozenModel, path: str) -> Iterator[tuple[str, str, str]]:
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
        return ABSENT
    fields = [getattr(item, field) for field in type(item).model_fields if field not in ("id", "left", "right")]
    return ", ".join(written(field) for field in fields if field not in (None, "", ()))


def _of_two_words(value: Path | Member | SuffixResolver) -> str:
    if isinstance(value, SuffixResolver):
        return f"{value.suffix} by {value.resolver}"
    limits = _limits(value) if isinstance(value, Path) else ()
    return " ".join((f"{value.type.value} {value.id}", *limits))


def _limits(path: Path) -> Iterator[str]:
    for limit, word, unit in (
        (path.most_delay_ms, "delay", "ms"),
        (path.most_jitter_ms, "jitter", "ms"),
        (path.most_loss_percent, "loss", "%"),
    ):
        if limit is not None:
            yield f"{word} up to {limit:g} {unit}"


def written(value: Any) -> str:
    """Write a field's value for a person; a key shows as its fingerprint."""
    if value is None or value in ((), ""):
        return ABSENT
    if isinstance(value, tuple):
        return "; ".join(written(part) for part in value)
    if isinstance(value, Proposal):
        return value.label
    if isinstance(value, KeyFacts):
        return f"key {value.fingerprint} ({value.length} characters)"
    if isinstance(value, Technology | AuthMethod):
        return value.label
    if isinstance(value, Path | Member | SuffixResolver):
        return _of_two_words(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value.value if isinstance(value, Enum) else value)
