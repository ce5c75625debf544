"""Applying operations to a design: all of them, or none with the reason for each that is refused."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any

from pontifex.core.model.design import LISTED_TYPES, Design, DesignObject, DesignSettings, ObjectType
from pontifex.core.model.holdings import Claim, Host, Translation
from pontifex.core.model.intents import Filter, Intent
from pontifex.core.model.members import Member
from pontifex.core.model.objects import Gateway, Network, Uplink
from pontifex.core.model.operations import AnyOperation, Put, Remove, RenumberNetwork, Translate, put, target
from pontifex.core.model.paths import Path, Profile, Route, Rule
from pontifex.core.model.renumber import Move
from pontifex.core.model.translating import reselected
from pontifex.core.model.tunnel import SIDES, Side, Tunnel


@dataclass(frozen=True, slots=True)
class OperationProblem:
    """Why one operation can't be done: its position from 0, the field, and the reason."""

    index: int
    field: str  # path within the operation's object, "" for the operation as a whole
    reason: str


class ChangeRefused(Exception):
    """A change that can't be applied; nothing of it was."""

    def __init__(self, problems: Sequence[OperationProblem]) -> None:
        super().__init__("; ".join(problem.reason for problem in problems))
        self.problems = tuple(problems)


Objects = dict[ObjectType, dict[str, DesignObject]]


def apply_operations(design: Design, operations: Sequence[AnyOperation]) -> Design:
    """Return the design with all operations applied, at the next revision. Raise ChangeRefused with all problems."""
    objects: Objects = {type_: dict(items) for type_, items in design.by_type.items()}
    put_at: dict[tuple[ObjectType, str], int] = {}
    removed_at: dict[tuple[ObjectType, str], int] = {}
    problems: list[OperationProblem] = []
    for index, operation in _spelt_out(design, operations):
        type_, id_ = target(operation)
        if not isinstance(operation, Remove):
            objects[type_][id_] = operation.object
            put_at[type_, id_] = index
        elif type_ is ObjectType.SETTINGS or id_ not in objects[type_]:
            problems.append(OperationProblem(index, "id", f"there is no {type_.value} '{id_}' to remove"))
        else:
            for gone_type, gone_id in _with_dependants(objects, type_, id_) if operation.cascade else [(type_, id_)]:
                del objects[gone_type][gone_id]
                removed_at[gone_type, gone_id] = index
    problems += _reference_problems(objects, put_at, removed_at)
    problems += _foreign_uplinks(objects, put_at)
    problems += _name_problems(objects, put_at)
    if problems:
        raise ChangeRefused(sorted(problems, key=lambda problem: (problem.index, problem.field)))
    return _rebuilt(design, objects, {type_ for type_, _ in (*put_at, *removed_at)})


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
            current = apply_operations(current, [one for _, one in found[seen:]])
            seen = len(found)
        puts = (
            _renumbering(current, operation, index)
            if isinstance(operation, RenumberNetwork)
            else _translating(current, operation)
        )
        found += [(index, one) for one in puts]
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


def touched_objects(design: Design, operations: Sequence[AnyOperation]) -> frozenset[tuple[ObjectType, str]]:
    """Return types and ids of all objects that operations would put or remove, with what a cascade takes along."""
    objects: Objects = {type_: dict(items) for type_, items in design.by_type.items()}
    touched: set[tuple[ObjectType, str]] = set()
    for _, operation in _spelt_out(design, operations):
        touched.add(target(operation))
        if isinstance(operation, Remove) and operation.cascade:
            touched.update(_with_dependants(objects, operation.type, operation.id))
    return frozenset(touched)


def _rebuilt(design: Design, objects: Objects, touched: set[ObjectType]) -> Design:
    (settings,) = objects[ObjectType.SETTINGS].values()
    assert isinstance(settings, DesignSettings)
    lists: dict[str, Any] = {type_.list_name: getattr(design, type_.list_name) for type_ in LISTED_TYPES}
    for type_ in touched - {ObjectType.SETTINGS}:
        lists[type_.list_name] = tuple(objects[type_][id_] for id_ in sorted(objects[type_]))
    return Design.of(
        id=design.id,
        revision=design.revision + 1,
        key_salt=design.key_salt,
        **settings.__dict__,
        **lists,
    )


_OF_SITE = (("site_id", ObjectType.SITE),)
_OF_GATEWAY = (("gateway_id", ObjectType.GATEWAY),)
_REFERENCES: dict[type, tuple[tuple[str, ObjectType], ...]] = {
    Network: _OF_SITE,
    Gateway: _OF_SITE,
    Uplink: _OF_GATEWAY,
    Host: (("network_id", ObjectType.NETWORK),),
    Claim: _OF_SITE,
    Translation: (*_OF_GATEWAY, ("tunnel_id", ObjectType.TUNNEL)),
    Route: (*_OF_GATEWAY, ("tunnel_id", ObjectType.TUNNEL), ("uplink_id", ObjectType.UPLINK), ("network_id", ObjectType.NETWORK)),
    Rule: _OF_GATEWAY,
    Filter: _OF_GATEWAY,
    Profile: (*_OF_GATEWAY, ("pool_id", ObjectType.NETWORK)),
}

_REFERENCE_LISTS: dict[type, tuple[str, ...]] = {  # each member has a type and an id
    Rule: ("paths", "source_members", "destination_members"),
    Intent: ("sources", "destinations"),
}


def references(item: DesignObject) -> Iterator[tuple[str, ObjectType, str]]:
    """Yield the field, the type and the id of each object that an object refers to."""
    if isinstance(item, Tunnel):
        for side in SIDES:
            end = item.end(side)
            yield f"{side.value}/gateway_id", ObjectType.GATEWAY, end.gateway_id
            if end.uplink_id:
                yield f"{side.value}/uplink_id", ObjectType.UPLINK, end.uplink_id
    for field, type_ in _REFERENCES.get(type(item), ()):
        if id_ := getattr(item, field):
            yield field, type_, id_
    for field in _REFERENCE_LISTS.get(type(item), ()):
        one: Path | Member
        for k, one in enumerate(getattr(item, field)):
            yield f"{field}/{k}", ObjectType(one.type.value), one.id


def _with_dependants(objects: Objects, type_: ObjectType, id_: str) -> list[tuple[ObjectType, str]]:
    """Return an object and all that hangs on it, directly or not."""
    users: dict[tuple[ObjectType, str], list[tuple[ObjectType, str]]] = defaultdict(list)
    for user_type in LISTED_TYPES:
        for user_id, item in objects[user_type].items():
            for _, used_type, used_id in references(item):
                users[used_type, used_id].append((user_type, user_id))
    found = {(type_, id_): None}  # a dictionary keeps the order of finding
    waiting = [(type_, id_)]
    while waiting:
        for user in users[waiting.pop()]:
            if user not in found:
                found[user] = None
                waiting.append(user)
    return list(found)


def _reference_problems(
    objects: Objects, put_at: dict[tuple[ObjectType, str], int], removed_at: dict[tuple[ObjectType, str], int]
) -> Iterator[OperationProblem]:
    for type_ in LISTED_TYPES if removed_at else {type_ for type_, _ in put_at}:
        for id_, item in objects[type_].items():
            if not removed_at and (type_, id_) not in put_at:
                continue
            for field, used_type, used_id in references(item):
                if used_id not in objects.get(used_type, {}):
                    yield _missing(item, (type_, id_), field, (used_type, used_id), put_at, removed_at)


def _missing(
    item: DesignObject,
    user: tuple[ObjectType, str],
    field: str,
    used: tuple[ObjectType, str],
    put_at: dict[tuple[ObjectType, str], int],
    removed_at: dict[tuple[ObjectType, str], int],
) -> OperationProblem:
    if user in put_at:
        return OperationProblem(put_at[user], field, f"there is no {used[0].value} '{used[1]}'")
    return OperationProblem(
        removed_at[used], "id", f"{user[0].value} '{getattr(item, 'name', user[1])}' still needs {used[0].value} '{used[1]}'"
    )


def _foreign_uplinks(objects: Objects, put_at: dict[tuple[ObjectType, str], int]) -> Iterator[OperationProblem]:
    """An end's uplink must belong to the end's gateway, whichever of the two was put."""
    if not {type_ for type_, _ in put_at} & {ObjectType.TUNNEL, ObjectType.UPLINK}:
        return
    for tunnel, side in product(objects[ObjectType.TUNNEL].values(), Side):
        assert isinstance(tunnel, Tunnel)
        end = tunnel.end(side)
        uplink = objects[ObjectType.UPLINK].get(end.uplink_id or "")
        if not isinstance(uplink, Uplink) or uplink.gateway_id == end.gateway_id:
            continue
        if (index := put_at.get((ObjectType.TUNNEL, tunnel.id))) is not None:
            reason = f"uplink '{uplink.name}' belongs to gateway '{uplink.gateway_id}', not to '{end.gateway_id}'"
            yield OperationProblem(index, f"{side.value}/uplink_id", reason)
        elif (index := put_at.get((ObjectType.UPLINK, uplink.id))) is not None:
            reason = f"tunnel '{tunnel.name}' uses this uplink at gateway '{end.gateway_id}'"
            yield OperationProblem(index, "gateway_id", reason)


def _name_problems(objects: Objects, put_at: dict[tuple[ObjectType, str], int]) -> Iterator[OperationProblem]:
    """Names are unique among siblings, letter case and runs of blanks aside: people and pasted rows refer to them."""
    for type_ in {type_ for type_, _ in put_at if type_ is not ObjectType.SETTINGS}:
        seen: dict[tuple[str, str], str] = {}
        items = objects[type_]
        # what stood there before comes first, so that the newcomer is the one that is refused
        for id_ in sorted(items, key=lambda id_: put_at.get((type_, id_), -1)):
            name = getattr(items[id_], "name", "")
            key = (sibling_group(items[id_]), " ".join(name.casefold().split()))
            if name and key in seen and (type_, id_) in put_at:
                reason = f"another {type_.value} is called '{getattr(items[seen[key]], 'name', '')}' already"
                yield OperationProblem(put_at[type_, id_], "name", reason)
            seen.setdefault(key, id_)


def sibling_group(item: DesignObject) -> str:
    """The id of the object among whose children a name must be unique; empty for the whole design."""
    fields = _REFERENCES.get(type(item), ())
    return str(getattr(item, fields[0][0])) if fields and not isinstance(item, Profile) else ""
