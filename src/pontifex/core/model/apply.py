"""Applying operations to a design: all of them, or none with the reason for each that is refused."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from pontifex.core.errors import NotAccepted
from pontifex.core.kinds import KINDS, DesignMember, ObjectType, Side, Tunnel, Uplink
from pontifex.core.model.design import Design, DesignObject, DesignSettings
from pontifex.core.model.operations import AnyOperation, Put, Remove, RenumberNetwork, Translate, put, target
from pontifex.core.model.references import ObjectKey, Objects, misplaced, parent_id, references, removed_with, without
from pontifex.core.model.renumber import Move
from pontifex.core.model.translating import reselected


@dataclass(frozen=True, slots=True)
class OperationProblem:
    """Why one operation can't be done: its position from 0, the field, and the reason."""

    index: int
    field: str  # path within the operation's object, "" for the operation as a whole
    reason: str


class ChangeRefused(NotAccepted):
    """A change that can't be applied; nothing of it was."""

    title = "The change was refused"

    def __init__(self, problems: Sequence[OperationProblem]) -> None:
        super().__init__("; ".join(problem.reason for problem in problems))
        self.problems = tuple(problems)


@dataclass
class _Applying:
    """Objects while operations are applied to them, and where each was put or removed, by position from 0."""

    objects: Objects
    put_at: dict[ObjectKey, int] = field(default_factory=dict)
    removed_at: dict[ObjectKey, int] = field(default_factory=dict)

    def put(self, index: int, operation: Put) -> None:
        """Add or replace an object."""
        type_, id_ = target(operation)
        self.objects[type_][id_] = operation.object
        self.put_at[type_, id_] = index

    def remove(self, index: int, operation: Remove) -> None:
        """Remove an object, with a cascade all that hangs on it."""
        key = (operation.type, operation.id)
        if not operation.cascade:
            gone = [key]
        else:
            removed = removed_with(self.objects, key)
            gone = removed.gone
            for (type_, id_), emptied in removed.emptied.items():
                self.objects[type_][id_] = without(self.objects[type_][id_], emptied)
                self.put_at[type_, id_] = index
        for type_, id_ in gone:
            del self.objects[type_][id_]
            self.put_at.pop((type_, id_), None)
            self.removed_at[type_, id_] = index


def apply_operations(design: Design, operations: Sequence[AnyOperation]) -> Design:
    """Return the design with all operations applied, at the next revision. Raise ChangeRefused with all problems."""
    applying = _Applying({type_: dict(items) for type_, items in design.by_type.items()})
    problems: list[OperationProblem] = []
    for index, operation in _spelt_out(design, operations):
        if not isinstance(operation, Remove):
            applying.put(index, operation)
        elif operation.type is ObjectType.SETTINGS or operation.id not in applying.objects[operation.type]:
            reason = f"there is no {operation.type.label} '{operation.id}' to remove"
            problems.append(OperationProblem(index, "id", reason))
        else:
            applying.remove(index, operation)
    problems += _reference_problems(applying)
    problems += _foreign_uplinks(applying)
    problems += _name_problems(design, applying)
    if problems:
        raise ChangeRefused(sorted(problems, key=lambda problem: (problem.index, problem.field)))
    return _rebuilt(design, applying.objects, {type_ for type_, _ in (*applying.put_at, *applying.removed_at)})


def _spelt_out(design: Design, operations: Sequence[AnyOperation]) -> list[tuple[int, Put | Remove]]:
    """Return the operations, each with its position, and each renumbering or translating as the puts that it stands for.

    Raise ChangeRefused. Both see what the operations before it have made of the design.
    """
    found: list[tuple[int, Put | Remove]] = []
    seen, current = 0, design
    for index, operation in enumerate(operations):
        if not isinstance(operation, RenumberNetwork | Translate):
            found.append((index, operation))
            continue
        if found[seen:]:
            current = apply_operations(current, [waiting for _, waiting in found[seen:]])
            seen = len(found)
        puts = (
            _renumbering(current, operation, index)
            if isinstance(operation, RenumberNetwork)
            else _translating(current, operation)
        )
        found += [(index, change) for change in puts]
    return found


def _translating(design: Design, operation: Translate) -> Iterator[Put]:
    yield put(operation.object)
    if operation.object.gateway_id in design.gateway_by_id:  # otherwise the put is refused
        yield from map(put, reselected(design, operation.object))


def _renumbering(design: Design, operation: RenumberNetwork, index: int) -> Iterator[Put]:
    network = design.network_by_id.get(operation.id)
    if network is None:
        raise ChangeRefused([OperationProblem(index, "id", f"there is no network '{operation.id}' to renumber")])
    if (network.prefix.family, network.prefix.length) != (operation.prefix.family, operation.prefix.length):
        reason = f"a network moves to a prefix of its own size; {network.prefix} can't become {operation.prefix}"
        raise ChangeRefused([OperationProblem(index, "prefix", reason)])
    yield from map(put, Move(design, network, operation.prefix).objects())


def touched_objects(design: Design, operations: Sequence[AnyOperation]) -> frozenset[ObjectKey]:
    """Return types and ids of all objects that operations would put or remove, with what a cascade takes along."""
    objects: Objects = {type_: dict(items) for type_, items in design.by_type.items()}
    touched: set[ObjectKey] = set()
    for _, operation in _spelt_out(design, operations):
        touched.add(target(operation))
        if isinstance(operation, Remove) and operation.cascade:
            removed = removed_with(objects, (operation.type, operation.id))
            touched.update(removed.gone, removed.emptied)
    return frozenset(touched)


def _rebuilt(design: Design, objects: Objects, touched: set[ObjectType]) -> Design:
    (settings,) = objects[ObjectType.SETTINGS].values()
    assert isinstance(settings, DesignSettings)
    lists: dict[str, Any] = {
        kind.members: (
            tuple(objects[kind.name][id_] for id_ in sorted(objects[kind.name]))
            if kind.name in touched
            else getattr(design, kind.members)
        )
        for kind in KINDS
    }
    return design.with_valid({"revision": design.revision + 1} | settings.by_field() | lists)


def _reference_problems(applying: _Applying) -> Iterator[OperationProblem]:
    objects = applying.objects
    for (type_, id_), index in applying.put_at.items():
        item = objects[type_].get(id_)  # it may be removed again in the same change
        for path, used_type in misplaced(item) if item else ():
            yield OperationProblem(index, path, f"a {used_type.label} can't stand here")
    everything = ((kind.name, id_) for kind in KINDS for id_ in objects[kind.name])
    for type_, id_ in everything if applying.removed_at else applying.put_at:
        for path, used_type, used_id in references(objects[type_][id_]):
            if used_id not in objects[used_type]:
                yield _missing(applying, (type_, id_), path, (used_type, used_id))


def _missing(applying: _Applying, user: ObjectKey, path: str, used: ObjectKey) -> OperationProblem:
    if user in applying.put_at:
        return OperationProblem(applying.put_at[user], path, f"there is no {used[0].label} '{used[1]}'")
    name = getattr(applying.objects[user[0]][user[1]], "name", user[1])
    reason = f"{user[0].label} '{name}' still needs {used[0].label} '{used[1]}'"
    return OperationProblem(applying.removed_at[used], "id", reason)


def _foreign_uplinks(applying: _Applying) -> Iterator[OperationProblem]:
    """An end's uplink must belong to the end's gateway, whichever of the two was put."""
    put_at, objects = applying.put_at, applying.objects
    for tunnel in _with_their_uplinks(applying):
        for end, side in ((tunnel.left, Side.LEFT), (tunnel.right, Side.RIGHT)):
            uplink = objects[ObjectType.UPLINK].get(end.uplink_id or "")
            if not isinstance(uplink, Uplink) or uplink.gateway_id == end.gateway_id:
                continue
            if (index := put_at.get((ObjectType.TUNNEL, tunnel.id))) is not None:
                reason = f"uplink '{uplink.name}' belongs to gateway '{uplink.gateway_id}', not to '{end.gateway_id}'"
                yield OperationProblem(index, f"{side.value}/uplink_id", reason)
            elif (index := put_at.get((ObjectType.UPLINK, uplink.id))) is not None:
                reason = f"tunnel '{tunnel.name}' uses this uplink at gateway '{end.gateway_id}'"
                yield OperationProblem(index, "gateway_id", reason)


def _with_their_uplinks(applying: _Applying) -> Iterator[Tunnel]:
    """Yield the tunnels that were put, or all where an uplink was."""
    tunnels = applying.objects[ObjectType.TUNNEL]
    uplinks_put = any(type_ is ObjectType.UPLINK for type_, _ in applying.put_at)
    for id_ in tunnels if uplinks_put else [id_ for type_, id_ in applying.put_at if type_ is ObjectType.TUNNEL]:
        tunnel = tunnels[id_]
        assert isinstance(tunnel, Tunnel)
        yield tunnel


def _name_problems(before: Design, applying: _Applying) -> Iterator[OperationProblem]:
    """Names are unique among siblings, letter case and runs of blanks aside: people and pasted rows refer to them."""
    put_at = applying.put_at
    for kind in KINDS:
        items, stood = applying.objects[kind.name], before.by_type[kind.name]
        named = [id_ for type_, id_ in put_at if type_ is kind.name and _is_named_anew(items[id_], stood.get(id_))]
        if not named:
            continue
        # what stood there before comes first, so that the newcomer is the one that is refused
        anew = set(named)
        seen = {_name_key(item): item for id_, item in reversed(items.items()) if id_ not in anew}
        for id_ in sorted(named, key=lambda id_: put_at[kind.name, id_]):
            key = _name_key(items[id_])
            other = seen.setdefault(key, items[id_])
            if key[1] and other is not items[id_]:
                name = getattr(other, "name", "")
                yield OperationProblem(put_at[kind.name, id_], "name", f"another {kind.name.label} is called '{name}' already")


def _is_named_anew(item: DesignObject, before: DesignObject | None) -> bool:
    return before is None or _name_key(item) != _name_key(before)


def _name_key(item: DesignObject) -> tuple[str, str]:
    """Return what siblings must not share."""
    assert isinstance(item, DesignMember)
    return parent_id(item), _folded(item.name)


@lru_cache(maxsize=100_000)
def _folded(name: str) -> str:
    return " ".join(name.casefold().split())
