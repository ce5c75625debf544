"""Findings about what hangs on exits: a setting that didn't take, ports that meet, and access that is cut; and old lists."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.exits.outside import OutsideFate
from pontifex.core.exits.workloads import ExitTable, SeenVerdict, clashing_ports, exit_table
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.kinds import Exit, Host, HostClass, ObjectType
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, put
from pontifex.core.reasons import named, paths
from pontifex.core.routing import Tables
from pontifex.core.routing.all_flows.matrix import Reach

_OLD_AFTER: Final = timedelta(days=90)


def workload_findings(tables: Tables) -> Iterator[Finding]:
    """Yield what is to be said of exits and of what hangs on them."""
    for exit_ in tables.design.exits:
        table = exit_table(tables, exit_)
        yield from _not_taken(tables.design, exit_, table)
        yield from _cut(tables.design, exit_, table)
        yield from _ports(tables.design, exit_)


def _host_place(host: Host, field: str) -> Place:
    return Place(type=ObjectType.HOST, id=host.id, name=host.name, field=field)


def _not_taken(design: Design, exit_: Exit, table: ExitTable) -> Iterator[Finding]:
    """Find workloads that the outside has seen by another address than they are to leave by."""
    for one in table.workloads:
        if one.verdict is SeenVerdict.OTHERWISE and one.host_id and one.seen and one.outside.address:
            host = design.host_by_id[one.host_id]
            why = paths.SeenOtherwise(named(host), named(exit_), one.outside.address, one.seen)
            yield finding(Code.EXIT_NOT_TAKEN, (_host_place(host, "seen_outside"),), why)
        elif one.seen and one.host_id and one.outside.fate is OutsideFate.HELD:
            host = design.host_by_id[one.host_id]
            yield finding(
                Code.EXIT_NOT_TAKEN,
                (_host_place(host, "seen_outside"),),
                paths.SeenThoughHeld(named(host), named(exit_), one.seen),
            )


def _cut(design: Design, exit_: Exit, table: ExitTable) -> Iterator[Finding]:
    """Find published ports that aren't reached from where they must be."""
    for one in table.access:
        if one.reach in (Reach.REACHES, Reach.ASYMMETRIC, Reach.UNKNOWN):
            continue
        host = design.host_by_id[one.host_id]
        place = Place(type=ObjectType.EXIT, id=exit_.id, name=exit_.name, field="reached_from")
        why = paths.PortNotReached(one.source, one.port, named(host), one.at, one.why.reason)
        yield finding(Code.EXIT_ACCESS_CUT, (place, _host_place(host, "ports")), why)


def _ports(design: Design, exit_: Exit) -> Iterator[Finding]:
    """Find ports that meet at the exit. Containers of one network are told there."""
    used = {port for one in exit_.shared_by for port in design.host_by_id[one.id].ports}
    for first, second, port in clashing_ports(design, exit_):
        in_one_network = first.network_id == second.network_id
        if in_one_network and first.host_class is second.host_class is HostClass.CONTAINER:
            continue
        free = next(one for one in range(port + 1, port + 65_536) if one % 65_536 and one % 65_536 not in used) % 65_536
        used.add(free)
        moved = second.changed(ports=tuple(free if one == port else one for one in second.ports))
        remedy = Remedy(title=f"Publish {second.name} on {free}", operations=(put(moved),))
        why = paths.PortsMeet(named(first), named(second), named(exit_), port)
        yield finding(Code.EXIT_PORT_TWICE, (_host_place(second, "ports"), _host_place(first, "ports")), why, (remedy,))


def prefix_list_findings(design: Design, today: date) -> Iterator[Finding]:
    """Yield lists of prefixes that nobody has dated, or that were true long ago, where a rule names them."""
    for one in design.prefix_lists:
        rules = tuple(rule for rule in design.rules for member in rule.destination_members if member.id == one.id)
        if not rules or (one.as_of and today - one.as_of <= _OLD_AFTER):
            continue
        why = paths.ListIsOld(named(one), one.as_of) if one.as_of else paths.ListUndated(named(one))
        place = Place(type=ObjectType.PREFIX_LIST, id=one.id, name=one.name, field="as_of")
        yield finding(Code.POLICY_LIST_OLD, (place,), why)
