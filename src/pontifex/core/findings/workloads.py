"""Findings about what hangs on exits: a setting that didn't take, ports that meet, and access that is cut; and old lists."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from functools import partial
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.exits.outside import OutsideFate
from pontifex.core.exits.workloads import ExitTable, SeenVerdict, clashing_ports, exit_table
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.findings.hosts import published_elsewhere
from pontifex.core.kinds import Exit, Host, HostClass, MemberType, ObjectType
from pontifex.core.model import Design
from pontifex.core.reasons import Reason, named, paths
from pontifex.core.routing import Tables
from pontifex.core.routing.all_flows.matrix import Reach

_OLD_AFTER: Final = timedelta(days=90)


def workload_findings(tables: Tables) -> Iterator[Remark]:
    """Yield what is to be said of exits and of what hangs on them."""
    for exit_ in tables.design.exits:
        table = exit_table(tables, exit_)
        yield from _not_taken(tables.design, exit_, table)
        yield from _cut(tables.design, exit_, table)
        yield from _ports(tables.design, exit_)


def _host_place(host: Host, field: str) -> Place:
    return Place(type=ObjectType.HOST, id=host.id, name=host.name, field=field)


def _not_taken(design: Design, exit_: Exit, table: ExitTable) -> Iterator[Remark]:
    """Find workloads that the outside has seen by another address than they are to leave by, or though they are held."""
    for workload in table.workloads:
        if not workload.host_id or not workload.seen:
            continue
        host = named(design.host_by_id[workload.host_id])
        if workload.verdict is SeenVerdict.OTHERWISE and workload.outside.address:
            why: Reason = paths.SeenOtherwise(host, named(exit_), workload.outside.address, workload.seen)
        elif workload.outside.fate is OutsideFate.HELD:
            why = paths.SeenThoughHeld(host, named(exit_), workload.seen)
        else:
            continue
        yield remark(Code.EXIT_NOT_TAKEN, (_host_place(design.host_by_id[workload.host_id], "seen_outside"),), why)


def _cut(design: Design, exit_: Exit, table: ExitTable) -> Iterator[Remark]:
    """Find published ports that aren't reached from where they must be; of each host the first one is told."""
    told: set[str] = set()
    for access in table.access:
        if access.host_id in told or access.reach in (Reach.REACHES, Reach.ASYMMETRIC, Reach.UNKNOWN):
            continue
        told.add(access.host_id)
        host = design.host_by_id[access.host_id]
        exit_place = Place(type=ObjectType.EXIT, id=exit_.id, name=exit_.name, field="reached_from")
        why = paths.PortNotReached(access.source, access.port, named(host), access.at, access.why.reason)
        yield remark(Code.EXIT_ACCESS_CUT, (_host_place(host, "ports"), exit_place), why)


def _ports(design: Design, exit_: Exit) -> Iterator[Remark]:
    """Find ports that meet at the exit. Containers of one network are told there."""
    used = {port for member in exit_.shared_by for port in design.host_by_id[member.id].ports}
    for first, second, port in clashing_ports(design, exit_):
        in_one_network = first.network_id == second.network_id
        if in_one_network and first.host_class is second.host_class is HostClass.CONTAINER:
            continue
        why = paths.PortsMeet(named(first), named(second), named(exit_), port)
        where = (_host_place(second, "ports"), _host_place(first, "ports"))
        yield remark(Code.EXIT_PORT_TWICE, where, why, partial(published_elsewhere, second, port, used))


def prefix_list_findings(design: Design, today: date) -> Iterator[Remark]:
    """Yield lists of prefixes that nobody has dated, or that were true long ago, where a rule names them."""
    members = (member for rule in design.rules for member in rule.destination_members)
    named_lists = {member.id for member in members if member.type is MemberType.PREFIX_LIST}
    for prefix_list in design.prefix_lists:
        if prefix_list.id not in named_lists or (prefix_list.as_of and today - prefix_list.as_of <= _OLD_AFTER):
            continue
        why = (
            paths.ListIsOld(named(prefix_list), prefix_list.as_of) if prefix_list.as_of else paths.ListUndated(named(prefix_list))
        )
        place = Place(type=ObjectType.PREFIX_LIST, id=prefix_list.id, name=prefix_list.name, field="as_of")
        yield remark(Code.POLICY_LIST_OLD, (place,), why)
