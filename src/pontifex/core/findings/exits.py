"""Findings about exits: what is to leave to the Internet by a gateway, and leaves elsewhere or not at all."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Finding, Place, finding, network_of
from pontifex.core.kinds import ObjectType
from pontifex.core.reasons import named, paths
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.wanted.exits import UnmetExit, unmet_exits


def exit_findings(tables: Tables, troubled: frozenset[str]) -> Iterator[Finding]:
    """Yield what doesn't leave by its exit, all tunnels taken for up, once for each network and exit.

    What is to go through a tunnel with troubles of its own, by id, waits until they are over.
    """
    told: set[tuple[str, str, str]] = set()
    for one in unmet_exits(tables, Conditions()):
        want = one.want
        key = want.intent.id, want.source.id, want.gateway.id
        way = tables.chains.chain(want.source.site_id, want.gateway.site_id)
        if key in told or troubled & {crossing.tunnel.id for crossing in way}:
            continue
        told.add(key)
        yield _finding(tables, one)


def _finding(tables: Tables, one: UnmetExit) -> Finding:
    want = one.want
    outcome = paths.LeavesBy(named(one.leaves_by)) if one.leaves_by else one.trace.verdict.reason
    where = Place(type=ObjectType.INTENT, id=want.intent.id, name=want.intent.name, field="destinations")
    why = paths.ExitNotMet(named(want.intent), network_of(tables.design, want.source), named(want.gateway), outcome)
    return finding(Code.ROUTE_OTHER_EXIT, (where,), why)
