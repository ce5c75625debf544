"""What objects of a design refer to, what hangs on them, and what a removal does to it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import TypeVar

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import KINDS, DesignMember, ObjectType, Reference, Removal, kind_of
from pontifex.core.model.design import DesignObject

V = TypeVar("V", bound=FrozenModel)
ObjectKey = tuple[ObjectType, str]  # type and id
Objects = dict[ObjectType, dict[str, DesignObject]]


@dataclass
class Removed:
    """What a removal with a cascade does: the objects that go, and the fields of others that it empties."""

    gone: list[ObjectKey]
    emptied: dict[ObjectKey, list[Reference]] = field(default_factory=dict)


def references(item: DesignObject) -> Iterator[tuple[str, ObjectType, str]]:
    """Yield the path of the field, the type and the id of each object that an object refers to."""
    if isinstance(item, DesignMember):
        yield from kind_of(item).named_by(item)


def misplaced(item: DesignObject) -> Iterator[tuple[str, ObjectType]]:
    """Yield the path of the field, and the type, of each member that an object names where none of its type can stand."""
    if isinstance(item, DesignMember):
        for reference in kind_of(item).refers:
            yield from reference.misplaced_in(item)


def parent_id(item: DesignObject) -> str:
    """Return the id of the object among whose children an object's name is unique; empty for the whole design."""
    parent = kind_of(item).parent if isinstance(item, DesignMember) else None
    return next((id_ for _, _, id_ in parent.named_by(item)), "") if parent else ""


def removed_with(objects: Objects, key: ObjectKey) -> Removed:
    """Return what goes with an object: itself first, then all that can't be without it, directly or not."""
    users = _users(objects)
    gone = {key: None}  # a dictionary keeps the order of finding
    emptied: dict[ObjectKey, list[Reference]] = defaultdict(list)
    waiting = [key]
    while waiting:
        for user, reference in users[waiting.pop()]:
            if reference.on_removal is Removal.EMPTIES:
                emptied[user].append(reference)
            elif user not in gone:
                gone[user] = None
                waiting.append(user)
    return Removed(list(gone), {user: found for user, found in emptied.items() if user not in gone})


def _users(objects: Objects) -> dict[ObjectKey, list[tuple[ObjectKey, Reference]]]:
    users: dict[ObjectKey, list[tuple[ObjectKey, Reference]]] = defaultdict(list)
    for kind in KINDS:
        for reference in kind.refers:
            for id_, item in objects[kind.name].items():
                for _, type_, used_id in reference.named_by(item):
                    users[type_, used_id].append(((kind.name, id_), reference))
    return users


def without(item: DesignObject, emptied: list[Reference]) -> DesignObject:
    """Return an object that no longer says what these references named."""
    for reference in emptied:
        item = _emptied(item, reference.field.split("/"))
    return item


def _emptied(item: V, path: list[str]) -> V:
    field_, *rest = path
    return item.with_valid({field_: _emptied(getattr(item, field_), rest) if rest else None})
