"""What differs between a cloud network as it is intended and as it is held: subnets, routes and rules."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import TypeVar

from pontifex.core.addressing import Prefix
from pontifex.core.clouds.changes import CloudChange, PutRoute, PutRule, PutSubnet, RemoveRoute, RemoveRule, RemoveSubnet
from pontifex.core.clouds.resources import MAIN_TABLE, CloudRoute, CloudSubnet, HeldRule, NetworkState

R = TypeVar("R", CloudSubnet, HeldRule)  # known by their ids


@dataclass(frozen=True, slots=True, kw_only=True)
class CloudDifference:
    """A resource that is otherwise than intended, or a route by a peering, which is told also where it is as intended."""

    key: str
    title: str
    intended: str
    held: str
    change: CloudChange
    peering: str | None = None  # that a route leads into

    @property
    def wanted(self) -> bool:
        """Whether the design intends it at all."""
        return bool(self.intended)

    @property
    def is_there(self) -> bool:
        """Whether the cloud holds it as intended."""
        return self.intended == self.held


def differences(intended: NetworkState, held: NetworkState, peering_ids: Mapping[str, str]) -> Iterator[CloudDifference]:
    """Yield what differs. Routes of both name peerings by what the design calls them; `peering_ids` are the cloud's ids."""
    yield from _subnets(intended, held)
    for table_id in dict.fromkeys(table.id for table in (*intended.tables, *held.tables)):
        yield from _routes(intended, held, table_id, peering_ids)
    yield from _rules(intended, held)


def _subnets(intended: NetworkState, held: NetworkState) -> Iterator[CloudDifference]:
    def change(id_: str, wanted: CloudSubnet | None) -> CloudChange:
        return PutSubnet(intended.id, wanted) if wanted else RemoveSubnet(intended.id, id_)

    yield from _by_id("subnet", intended.subnets, held.subnets, _subnet_words, change)


def _rules(intended: NetworkState, held: NetworkState) -> Iterator[CloudDifference]:
    def change(id_: str, wanted: HeldRule | None) -> CloudChange:
        return PutRule(intended.id, wanted) if wanted else RemoveRule(intended.id, id_)

    yield from _by_id("rule", intended.rules, held.rules, _rule_words, change)


def _by_id(
    what: str,
    intended: tuple[R, ...],
    held: tuple[R, ...],
    words: Callable[[R | None], str],
    change: Callable[[str, R | None], CloudChange],
) -> Iterator[CloudDifference]:
    """Yield what differs of resources that are known by their ids."""
    ours, theirs = ({subnet.id: subnet for subnet in some} for some in (intended, held))
    for id_ in sorted(ours.keys() | theirs.keys()):
        wanted, there = ours.get(id_), theirs.get(id_)
        if wanted != there:
            verb = "Remove" if wanted is None else "Add" if there is None else "Set"
            yield CloudDifference(
                key=f"{what}/{id_}",
                title=f"{verb} the {what} {id_}",
                intended=words(wanted),
                held=words(there),
                change=change(id_, wanted),
            )


def _subnet_words(subnet: CloudSubnet | None) -> str:
    return f"{subnet.prefix}, {_table_words(subnet.table)}" if subnet else ""


def _table_words(table_id: str) -> str:
    return "by the main table" if table_id == MAIN_TABLE else f"by the table {table_id}"


def _routes(
    intended: NetworkState, held: NetworkState, table_id: str, peering_ids: Mapping[str, str]
) -> Iterator[CloudDifference]:
    ours, theirs = ({route.prefix: route for route in state.table(table_id).routes} for state in (intended, held))
    where = "the main table" if table_id == MAIN_TABLE else f"the table {table_id}"
    for prefix in sorted(ours.keys() | theirs.keys()):
        wanted, there = ours.get(prefix), theirs.get(prefix)
        peering = (wanted or there or CloudRoute(prefix=prefix)).peering
        if wanted != there or peering:
            yield CloudDifference(
                key=f"route/{table_id}/{prefix}",
                title=f"Route {prefix} in {where}" if wanted else f"Take {prefix} out of {where}",
                intended=_route_words(wanted),
                held=_route_words(there),
                change=_route_change(intended.id, table_id, prefix, wanted, peering_ids),
                peering=peering,
            )


def _route_words(route: CloudRoute | None) -> str:
    return "" if route is None else f"by {route.peering}" if route.peering else "by the gateway"


def _route_change(
    network: str, table: str, prefix: Prefix, wanted: CloudRoute | None, peering_ids: Mapping[str, str]
) -> CloudChange:
    if wanted is None:
        return RemoveRoute(network, table, prefix)
    return PutRoute(network, table, prefix, peering_ids.get(wanted.peering, wanted.peering) if wanted.peering else None)


def _rule_words(rule: HeldRule | None) -> str:
    if rule is None:
        return ""
    far = ", ".join(map(str, rule.far)) or "anywhere"
    services = ", ".join(map(str, rule.services)) or "everything"
    word = "from" if rule.direction.value == "in" else "to"
    return f"{rule.level.value}, {rule.direction.value}: {services} {word} {far}, for {', '.join(map(str, rule.members))}"
