"""Findings about routes: what is wanted and doesn't arrive, or doesn't come back, with what would mend it; and idle routes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence, Set
from dataclasses import dataclass
from functools import partial
from itertools import islice
from typing import Final

from pontifex.core.findings.finding import MOST_NAMED, Place, Remark, more_than_named, network_of, remark
from pontifex.core.findings.idle_routes import idle_routes, unused_tunnels
from pontifex.core.findings.route_remedies import RouteRemedies
from pontifex.core.findings.unmet_causes import UnmetCause, unmet_cause
from pontifex.core.kinds import Intent, ObjectType
from pontifex.core.model import Design
from pontifex.core.reasons import named, paths
from pontifex.core.routing.all_flows.matrix import Reach
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.wanted.blocks import WantedFlow
from pontifex.core.routing.wanted.intents import IntentTraces, UnmetWants


@dataclass(frozen=True, slots=True)
class WaitingWants:
    """What is wanted and not met, and the tunnels that it is to go through: it waits until they have no troubles of their own."""

    unmet: UnmetWants
    through: frozenset[str]


def waiting_wants(wanted: IntentTraces) -> Iterator[WaitingWants]:
    """Yield what isn't met, all tunnels taken for up: that they aren't is told elsewhere."""
    for wants in wanted.unmet():
        yield WaitingWants(wants, frozenset(wanted.tunnels(wants.block)))


def standing_wants(tables: Tables) -> IntentTraces:
    """Return what is wanted of a design's paths, all tunnels taken for up."""
    return IntentTraces(tables, Conditions())


def idle_findings(tables: Tables) -> Iterator[Remark]:
    """Yield routes that nothing is led by, and tunnels that nothing is led into."""
    yield from idle_routes(tables)
    yield from unused_tunnels(tables.design)


def unmet_findings(design: Design, waiting: Sequence[WaitingWants], troubled: Set[str]) -> Iterator[Remark]:
    """Yield what isn't met and doesn't wait for a tunnel, grouped by its cause and the place of it: one fault is told once."""
    groups: dict[tuple[UnmetCause, str], list[UnmetWants]] = defaultdict(list)
    for wants in _told([held_up.unmet for held_up in waiting if held_up.through.isdisjoint(troubled)]):
        cause = unmet_cause(wants)
        if cause:
            groups[cause, wants.block.intent.id].append(wants)
    remedies = RouteRemedies(design)
    for (cause, _), some in groups.items():
        first = some[0]
        flows = islice((want for unmet_wants in some for want in unmet_wants.flows()), MOST_NAMED)
        more = more_than_named([cell for unmet_wants in some for cell in unmet_wants.cells])
        wanted_flows = tuple(_wanted(design, want) for want in flows)
        why = paths.WantNotMet(named(first.block.intent), wanted_flows, more, first.trace.verdict.reason)
        name = str(getattr(design.by_type[cause.type][cause.id], "name", "") or cause.id)
        place = Place(type=cause.type, id=cause.id, name=name, field=_FIELDS[cause.type])
        yield remark(cause.code, (place, _intent_place(first.block.intent)), why, partial(remedies.of, cause.code, some))


def _told(unmet: Sequence[UnmetWants]) -> Iterator[UnmetWants]:
    """Yield what isn't met, once: what begins there is lost where the answer to what begins here is."""
    half = {
        (want.destination.id, want.source.id, want.service)
        for wants in unmet
        if wants.reach is Reach.ONE_WAY
        for want in wants.flows()
    }
    for unmet_wants in unmet:
        if unmet_wants.reach is Reach.ONE_WAY or not half:
            yield unmet_wants
            continue
        told = [
            cell
            for cell, want in zip(unmet_wants.cells, unmet_wants.flows(), strict=True)
            if (want.source.id, want.destination.id, want.service) not in half
        ]
        if told:
            yield unmet_wants.only(tuple(told))


_FIELDS: Final = {
    ObjectType.GATEWAY: "name",
    ObjectType.NETWORK: "prefix",
    ObjectType.TUNNEL: "left/local_networks",
    ObjectType.RULE: "on_failure",
    ObjectType.INTENT: "name",
}


def _intent_place(intent: Intent) -> Place:
    return Place(type=ObjectType.INTENT, id=intent.id, name=intent.name, field="destinations")


def _wanted(design: Design, want: WantedFlow) -> paths.Wanted:
    service = None if want.service.is_any else paths.ForService(want.service)
    return paths.Wanted(network_of(design, want.source), network_of(design, want.destination), service)
