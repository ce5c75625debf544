"""Findings about exits: what is to leave to the Internet, and leaves elsewhere or not at all."""

from __future__ import annotations

from collections.abc import Iterator, Sequence, Set
from dataclasses import dataclass

from pontifex.core.addressing import Prefix
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, network_of, remark
from pontifex.core.kinds import ObjectType
from pontifex.core.model import Design
from pontifex.core.reasons import all_named, named, paths
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.wanted.exits import UnmetExit, unmet_exits


@dataclass(frozen=True, slots=True)
class WaitingExit:
    """What doesn't leave by its exit, and the tunnels that it is to go through: it waits until they have no troubles."""

    unmet: UnmetExit
    through: frozenset[str]


def waiting_exits(tables: Tables) -> Iterator[WaitingExit]:
    """Yield what doesn't leave by its exit, all tunnels taken for up."""
    for unmet_exit in unmet_exits(tables, Conditions()):
        ways = (tables.chains.chain(unmet_exit.want.source.site_id, gateway.site_id) for gateway in unmet_exit.want.exits)
        yield WaitingExit(unmet_exit, frozenset(crossing.tunnel.id for way in ways for crossing in way))


def exit_findings(design: Design, waiting: Sequence[WaitingExit], troubled: Set[str]) -> Iterator[Remark]:
    """Yield what doesn't leave by its exit and doesn't wait for a tunnel, once for each network, and each prefix outside."""
    told: set[tuple[str, str, Prefix | None]] = set()
    for waiting_exit in waiting:
        want = waiting_exit.unmet.want
        key = want.intent.id, want.source.id, want.towards
        if key not in told and waiting_exit.through.isdisjoint(troubled):
            told.add(key)
            yield _finding(design, waiting_exit.unmet)


def _finding(design: Design, unmet: UnmetExit) -> Remark:
    want = unmet.want
    outcome = paths.LeavesBy(named(unmet.leaves_by)) if unmet.leaves_by else unmet.trace.verdict.reason
    where = Place(type=ObjectType.INTENT, id=want.intent.id, name=want.intent.name, field="destinations")
    what = paths.OutsideDesign(want.towards) if want.towards else paths.TheInternet()
    by = paths.ByGateways(all_named(want.exits)) if want.exits else None
    why = paths.ExitNotMet(named(want.intent), network_of(design, want.source), what, by, outcome)
    return remark(Code.ROUTE_OTHER_EXIT if want.exits else Code.ROUTE_NOT_OUTSIDE, (where,), why)
