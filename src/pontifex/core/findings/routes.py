"""Findings about routes: what is wanted and doesn't arrive, or doesn't come back, with what would mend it; and idle routes."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from pontifex.core.addressing import Prefix, Selector
from pontifex.core.catalogue import Code
from pontifex.core.findings.cloud_remedies import let_by_cloud
from pontifex.core.findings.finding import MOST_NAMED, Finding, Place, finding, more_than_named, network_of
from pontifex.core.findings.idle_routes import idle_routes, unneeded_routes, unused_tunnels
from pontifex.core.kinds import (
    CloudRule,
    DesignMember,
    Filter,
    FilterDirection,
    Gateway,
    Intent,
    Network,
    ObjectType,
    Route,
    Tunnel,
)
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Operation, Remove, RenumberNetwork, apply_operations, put
from pontifex.core.reasons import named, paths
from pontifex.core.routing.all_flows.matrix import Reach
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import Cause
from pontifex.core.routing.trace.flow import Conditions
from pontifex.core.routing.trace.flow_path import End, FlowPath
from pontifex.core.routing.wanted.generate import mended
from pontifex.core.routing.wanted.intents import IntentTraces, UnmetWant, WantedFlow

_MOST_REMEDIED: Final = 20  # trying remedies takes its time; mending the first ones makes room for others
_ALL_UP: Final = Conditions()

# what ends the way there, and the way back
_THERE: Final = {
    Cause.ISOLATED: Code.ROUTE_ISOLATED,
    Cause.UPLINK: Code.ROUTE_LEAVES_UNPROTECTED,
    Cause.NO_ROUTE: Code.ROUTE_MISSING,
    Cause.OWN_TABLE: Code.ROUTE_MISSING,
    Cause.NO_ROUTER: Code.ROUTE_OTHER_ROUTER,
    Cause.FORWARDING: Code.ROUTE_FORWARDING_OFF,
    Cause.LOOP: Code.ROUTE_LOOP,
    Cause.NEXT_HOP: Code.ROUTE_NEXT_HOP,
    Cause.SELECTORS: Code.ROUTE_SELECTORS_REFUSE,
    Cause.PEERING: Code.ROUTE_NOT_TRANSITIVE,
    Cause.FILTER: Code.FILTER_BLOCKS,
    Cause.CLOUD_RULE: Code.CLOUD_RULE_BLOCKS,
    Cause.RULE: Code.ROUTE_HELD,
    Cause.NEIGHBOUR: Code.ROUTE_NOT_KNOWN,
}
_BACK: Final = {
    **_THERE,
    Cause.UPLINK: Code.ROUTE_NO_RETURN,
    Cause.NO_ROUTE: Code.ROUTE_NO_RETURN,
    Cause.OWN_TABLE: Code.ROUTE_NO_RETURN,
    Cause.STATE: Code.FILTER_ASYMMETRIC,
    Cause.CLOUD_RULE: Code.CLOUD_ANSWER_BLOCKED,
}


def route_findings(tables: Tables, troubled: frozenset[str] = frozenset()) -> Iterator[Finding]:
    """Yield what is to be said of the paths of a design, all tunnels taken for up: that they aren't is told elsewhere.

    What is to go through a tunnel with troubles of its own, by id, waits until they are over.
    """
    if tables.design.intents:
        wanted = IntentTraces(tables, _ALL_UP)
        yield from _unmet(tables.design, wanted, troubled)
        yield from unneeded_routes(tables, wanted)
    yield from idle_routes(tables)
    yield from unused_tunnels(tables.design)


def _unmet(design: Design, wanted: IntentTraces, troubled: frozenset[str]) -> Iterator[Finding]:
    """Group what isn't met by its cause and the place of it, so that one fault is told once."""
    groups: dict[tuple[Code, tuple[ObjectType, str], str], list[UnmetWant]] = defaultdict(list)
    unmet = [one for one in wanted.unmet() if not troubled & wanted.tunnels(one.want)]
    half = {(one.want.target.id, one.want.source.id, one.want.service) for one in unmet if one.reach is Reach.ONE_WAY}
    for one in unmet:
        code, place = _cause(one)
        told = one.reach is not Reach.ONE_WAY and (one.want.source.id, one.want.target.id, one.want.service) in half
        if code and not told:  # what begins there is lost where the answer to what begins here is
            groups[code, place, one.want.intent.id].append(one)
    for count, ((code, (type_, id_), _), some) in enumerate(groups.items()):
        first = some[0]
        flows = tuple(_wanted(design, one.want) for one in some[:MOST_NAMED])
        why = paths.WantNotMet(named(first.want.intent), flows, more_than_named(some), first.trace.verdict.reason)
        name = str(getattr(design.by_type[type_][id_], "name", "") or id_)
        where = (Place(type=type_, id=id_, name=name, field=_FIELDS[type_]), _intent_place(first.want.intent))
        yield finding(code, where, why, _remedies(design, code, some) if count < _MOST_REMEDIED else ())


_FIELDS: Final = {
    ObjectType.GATEWAY: "name",
    ObjectType.NETWORK: "prefix",
    ObjectType.TUNNEL: "left/local_networks",
    ObjectType.RULE: "on_failure",
    ObjectType.INTENT: "name",
}


def _cause(one: UnmetWant) -> tuple[Code | None, tuple[ObjectType, str]]:
    """Return the code of what is wrong, None where it is told elsewhere, and the object at which it is."""
    forward, back = one.trace.forward, one.trace.back
    if one.reach is Reach.ASYMMETRIC:
        return Code.ROUTE_ASYMMETRIC, (ObjectType.INTENT, one.want.intent.id)
    way, codes = (back, _BACK) if forward.end is End.ARRIVES and back else (forward, _THERE)
    code = codes.get(way.cause) if way.cause else None
    return code, _place(way, one.want)


def _place(way: FlowPath, want: WantedFlow) -> tuple[ObjectType, str]:
    if way.last_rule_id:
        return ObjectType.RULE, way.last_rule_id
    if way.last_tunnel_id:
        return ObjectType.TUNNEL, way.last_tunnel_id
    if way.last_network_id:
        return ObjectType.NETWORK, way.last_network_id
    gateways = [hop.gateway_id for hop in way.hops if hop.gateway_id]
    return (ObjectType.GATEWAY, gateways[-1]) if gateways else (ObjectType.INTENT, want.intent.id)


def _intent_place(intent: Intent) -> Place:
    return Place(type=ObjectType.INTENT, id=intent.id, name=intent.name, field="destinations")


def _wanted(design: Design, want: WantedFlow) -> paths.Wanted:
    service = None if want.service.is_any else paths.ForService(want.service)
    return paths.Wanted(network_of(design, want.source), network_of(design, want.target), service)


def _remedies(design: Design, code: Code, some: list[UnmetWant]) -> tuple[Remedy, ...]:
    """Return what mends it: tried before it is offered, so that whatever else stands in the way is not passed over."""
    for operations in _changes(design, code, some):
        changed = apply_operations(design, operations)
        now = IntentTraces(Tables(changed), _ALL_UP)
        if all(_better(now, changed, one) for one in some):
            return (Remedy(title=_title(operations), operations=operations),)
    return ()


def _changes(design: Design, code: Code, some: list[UnmetWant]) -> Iterator[tuple[Operation, ...]]:
    """Yield changes that may mend it."""
    if code == Code.FILTER_BLOCKS:
        yield _allowed(design, some)
        return
    if code in (Code.CLOUD_RULE_BLOCKS, Code.CLOUD_ANSWER_BLOCKED):
        yield from let_by_cloud(design, some)
        return
    if code == Code.ROUTE_LOOP:
        yield from _cut(design, some[0])
    led = _led(design, some)
    if led:
        yield led


def _cut(design: Design, one: UnmetWant) -> Iterator[tuple[Operation, ...]]:
    """Yield the removals of each route that sends something round in circles."""
    way = one.trace.forward if one.trace.back is None else one.trace.back
    for hop in {hop.gateway_id: hop for hop in way.hops if hop.gateway_id}.values():
        routes = [
            route
            for route in design.routes
            if route.gateway_id == hop.gateway_id and route.tunnel_id == hop.tunnel_id and route.prefix.holds(way.destination)
        ]
        yield from ((Remove(type=ObjectType.ROUTE, id=route.id),) for route in routes)


def _better(now: IntentTraces, design: Design, one: UnmetWant) -> bool:
    """Whether something that is wanted fares better now, and has at least another cause if it doesn't arrive yet."""
    want = _as_in(design, one.want)
    if now.is_met(want):
        return True
    reach, traced = now.reach(want)
    return reach.rank <= one.reach.rank and _cause(UnmetWant(want, reach, traced))[0] != _cause(one)[0]


def _as_in(design: Design, want: WantedFlow) -> WantedFlow:
    """Return something that is wanted, with its networks as another state of the design has them."""
    return replace(want, source=design.network_by_id[want.source.id], target=design.network_by_id[want.target.id])


def _led(design: Design, some: list[UnmetWant]) -> tuple[Operation, ...]:
    """Return the change that leads all of it there and back."""
    changed, tables = design, Tables(design)
    found: dict[tuple[type, str], DesignMember] = {}
    for one in _covering(some):
        objects = mended(tables, _as_in(changed, one.want))
        if objects:
            found |= {(type(item), item.id): item for item in objects}
            changed = apply_operations(changed, [put(item) for item in objects])
            tables = Tables(changed)
    return tuple(put(item) for item in found.values())


def _covering(some: list[UnmetWant]) -> Iterator[UnmetWant]:
    """Yield wants in which each source and each destination stands once at least: what leads these leads all others as well."""
    begins: set[tuple[str, Prefix]] = set()
    ends: set[tuple[str, Prefix]] = set()
    for one in some:
        begin, end = (one.want.source.id, one.want.begin), (one.want.target.id, one.want.end)
        if begin not in begins and end not in ends:
            begins.add(begin)
            ends.add(end)
            yield one
    for one in some:
        begin, end = (one.want.source.id, one.want.begin), (one.want.target.id, one.want.end)
        if begin not in begins or end not in ends:
            begins.add(begin)
            ends.add(end)
            yield one


def _allowed(design: Design, some: list[UnmetWant]) -> tuple[Operation, ...]:
    """Return filters that let it through, at the gateways that don't."""
    found: dict[str, Filter] = {}
    ids = {one.id for one in design.filters}
    for one in some:
        hops = one.trace.forward.hops
        came = any(hop.tunnel_id for hop in hops)
        direction = FilterDirection.OUT if not came else FilterDirection.THROUGH
        if came and _ends_at(design, hops[-1].gateway_id, one.want):
            direction = FilterDirection.IN
        target = replace(Selector.of(one.want.end), protocols=one.want.service.protocols, ports=one.want.service.ports)
        stem = f"{hops[-1].gateway_id[:24]}-{one.want.intent.id[:26]}-{direction.value}"
        id_ = next(name for k in range(1, 1000) if (name := stem if k == 1 else f"{stem}-{k}") not in ids)
        fields = {"gateway_id": hops[-1].gateway_id, "name": one.want.intent.name, "direction": direction}
        known = found.get(id_) or Filter(id=id_, **fields, sources=(), destinations=())
        found[id_] = known.changed(
            sources=tuple(dict.fromkeys((*known.sources, one.want.begin))),
            destinations=tuple(dict.fromkeys((*known.destinations, target))),
        )
    taken = {(one.gateway_id, one.name) for one in design.filters}
    return tuple(
        put(one.changed(name=f"{one.name} {one.direction.value}") if (one.gateway_id, one.name) in taken else one)
        for one in found.values()
    )


def _ends_at(design: Design, gateway_id: str, want: WantedFlow) -> bool:
    return design.gateway_by_id[gateway_id].site_id == want.target.site_id


_WORDS: Final = {
    Route: "route",
    Network: "network's DHCP routes",
    Gateway: "gateway",
    Tunnel: "tunnel's networks",
    Filter: "filter",
    CloudRule: "cloud rule",
}


def _title(operations: tuple[Operation, ...]) -> str:
    """Return what a change does, in a few words."""
    if any(isinstance(one, Remove) for one in operations):
        return "Remove the route that sends it round in circles"
    counts = Counter(type(one.object) for one in operations if not isinstance(one, Remove | RenumberNetwork))
    words = [
        f"{count} {_WORDS[kind]}{'s' if count > 1 and kind in (Route, Gateway, Filter, CloudRule) else ''}"
        for kind, count in counts.items()
    ]
    verb = "Add" if counts.keys() <= {Route, Filter, CloudRule} else "Set"
    return f"{verb} {' and '.join(words)}"
