"""Changes that lead what is wanted where it is wanted: each is tried before it is offered."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property
from typing import Final

from pontifex.core.addressing import Prefix, Selector, Service
from pontifex.core.catalogue import Code
from pontifex.core.findings.cloud_remedies import let_by_cloud
from pontifex.core.findings.unmet_causes import unmet_cause
from pontifex.core.kinds import CloudRule, Filter, FilterDirection, Gateway, Network, ObjectType, Route, Tunnel
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Operation, Remove, RenumberNetwork, apply_operations, put
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.wanted.blocks import WantedFlow
from pontifex.core.routing.wanted.intents import IntentTraces, UnmetWants
from pontifex.core.routing.wanted.mending import mended

_ALL_UP: Final = Conditions()
_Ends = frozenset[tuple[str, Prefix]]  # the two that something is wanted between
_Change = tuple[Operation, ...]


class RouteRemedies:
    """What mends what isn't met: one change for all that is wanted between the same networks, each state traced once."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self._led: dict[frozenset[_Ends], tuple[frozenset[Service], _Change]] = {}
        self._states: dict[_Change, IntentTraces] = {}

    @cached_property
    def _tables(self) -> Tables:
        return Tables(self._design)

    def of(self, code: Code, some: list[UnmetWants]) -> Iterator[Remedy]:
        """Yield what mends it: tried before it is offered, so that whatever else stands in the way is not passed over."""
        for change in self._changes(code, some):
            now = self._after(change)
            if all(_fares_better(now, wants, code) for wants in some):
                yield Remedy(title=_title(change), operations=change)
                return

    def _after(self, change: _Change) -> IntentTraces:
        if change not in self._states:
            self._states[change] = IntentTraces(Tables(apply_operations(self._design, change)), _ALL_UP)
        return self._states[change]

    def _changes(self, code: Code, some: list[UnmetWants]) -> Iterator[_Change]:
        """Yield changes that may mend it."""
        if code == Code.FILTER_BLOCKS:
            yield _allowed(self._design, some)
            return
        if code in (Code.CLOUD_RULE_BLOCKS, Code.CLOUD_ANSWER_BLOCKED):
            yield from let_by_cloud(self._design, some)
            return
        if code == Code.ROUTE_LOOP:
            yield from _cut(self._design, some[0])
        yield from filter(None, self._leading([want for wants in some for want in wants.flows()]))

    def _leading(self, wanted: list[WantedFlow]) -> Iterator[_Change]:
        """Yield what leads all of it there and back: first what leads something else between the same networks, either way."""
        ends = frozenset(frozenset(((flow.source.id, flow.begin), (flow.destination.id, flow.end))) for flow in wanted)
        services = frozenset(flow.service for flow in wanted)
        if ends in self._led:
            known, change = self._led[ends]
            yield change
            if known == services:
                return
        self._led[ends] = services, tuple(put(item) for item in mended(self._tables, _covering(wanted)))
        yield self._led[ends][1]


def _fares_better(now: IntentTraces, before: UnmetWants, code: Code) -> bool:
    """Whether what was wanted and not met is no worse now, and has another cause than a code's where it isn't met yet."""
    still = now.unmet_of(before.block.as_in(now.design), before.cells)
    causes = ((wants.reach, unmet_cause(wants)) for wants in still)
    return all(reach.rank <= before.reach.rank and (cause is None or cause.code is not code) for reach, cause in causes)


def _cut(design: Design, unmet: UnmetWants) -> Iterator[_Change]:
    """Yield the removals of each route that sends something round in circles."""
    way = unmet.trace.forward if unmet.trace.back is None else unmet.trace.back
    for hop in {hop.gateway_id: hop for hop in way.hops if hop.gateway_id}.values():
        routes = [
            route
            for route in design.routes
            if route.gateway_id == hop.gateway_id and route.tunnel_id == hop.tunnel_id and route.prefix.holds(way.destination)
        ]
        yield from ((Remove(type=ObjectType.ROUTE, id=route.id),) for route in routes)


def _covering(wanted: list[WantedFlow]) -> Iterator[WantedFlow]:
    """Yield wants in which each source and each destination stands once at least: what leads these leads all others as well."""
    begins: set[tuple[str, Prefix]] = set()
    ends: set[tuple[str, Prefix]] = set()
    for both_new in (True, False):  # those that bring a source and a destination at once come first
        for want in wanted:
            begin, end = (want.source.id, want.begin), (want.destination.id, want.end)
            if (begin not in begins and end not in ends) if both_new else (begin not in begins or end not in ends):
                begins.add(begin)
                ends.add(end)
                yield want


def _allowed(design: Design, some: list[UnmetWants]) -> _Change:
    """Return filters that let it through, at the gateways that don't."""
    found: dict[str, Filter] = {}
    ids = {known.id for known in design.filters}
    for hops, want in ((unmet.trace.forward.hops, want) for unmet in some for want in unmet.flows()):
        came = any(hop.tunnel_id for hop in hops)
        direction = FilterDirection.OUT if not came else FilterDirection.THROUGH
        if came and _ends_at(design, hops[-1].gateway_id, want):
            direction = FilterDirection.IN
        destination = replace(Selector.of(want.end), protocols=want.service.protocols, ports=want.service.ports)
        stem = f"{hops[-1].gateway_id[:24]}-{want.intent.id[:26]}-{direction.value}"
        id_ = next(name for k in range(1, 1000) if (name := stem if k == 1 else f"{stem}-{k}") not in ids)
        known = found.get(id_) or Filter(
            id=id_, name=want.intent.name, gateway_id=hops[-1].gateway_id, direction=direction, sources=(), destinations=()
        )
        found[id_] = known.changed(
            sources=tuple(dict.fromkeys((*known.sources, want.begin))),
            destinations=tuple(dict.fromkeys((*known.destinations, destination))),
        )
    taken = {(known.gateway_id, known.name) for known in design.filters}
    return tuple(
        put(
            replaced.changed(name=f"{replaced.name} {replaced.direction.value}")
            if (replaced.gateway_id, replaced.name) in taken
            else replaced
        )
        for replaced in found.values()
    )


def _ends_at(design: Design, gateway_id: str, want: WantedFlow) -> bool:
    return design.gateway_by_id[gateway_id].site_id == want.destination.site_id


_WORDS: Final = {
    Route: "route",
    Network: "network's DHCP routes",
    Gateway: "gateway",
    Tunnel: "tunnel's networks",
    Filter: "filter",
    CloudRule: "cloud rule",
}


def _title(operations: _Change) -> str:
    """Return what a change does, in a few words."""
    if any(isinstance(operation, Remove) for operation in operations):
        return "Remove the route that sends it round in circles"
    counts = Counter(type(operation.object) for operation in operations if not isinstance(operation, Remove | RenumberNetwork))
    words = [
        f"{count} {_WORDS[kind]}{'s' if count > 1 and kind in (Route, Gateway, Filter, CloudRule) else ''}"
        for kind, count in counts.items()
    ]
    verb = "Add" if counts.keys() <= {Route, Filter, CloudRule} else "Set"
    return f"{verb} {' and '.join(words)}"
