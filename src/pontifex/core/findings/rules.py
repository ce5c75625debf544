"""Findings about policy rules: what never matches, what is taken from whom, what leaks, and what never holds."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Final

from pontifex.core.addressing import Address, Service
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import Gateway, NameResolution, Network, ObjectType, OnFailure, Path, PathType, Rule
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Remove, put
from pontifex.core.reasons import all_named, named, paths
from pontifex.core.routing.rules.algebra import boxes_of
from pontifex.core.routing.rules.rules import RuleList, leaves_by_uplink, passes_on
from pontifex.core.routing.tables.first_hop import first_hop
from pontifex.core.routing.tables.tables import ResolvedRule, Tables
from pontifex.core.routing.trace.decide import Decision, DecisionKind, decide
from pontifex.core.routing.trace.flow import Conditions, Flow
from pontifex.core.routing.trace.flow_path import End
from pontifex.core.routing.trace.trace import trace

_DNS_PORT: Final = 53  # RFC 1035 section 4.2
_MOST_POINTS: Final = 64  # of a rule's traffic that are tried when its tunnels are down


def rule_findings(tables: Tables) -> Iterator[Remark]:
    """Yield what is to be said of the rules of each gateway."""
    design = tables.design
    ruled = {rule.gateway_id for rule in design.rules}
    for gateway in design.gateways:
        if gateway.id in ruled:
            listed = RuleList.of(tables, gateway)
            yield from _order(listed)
            for clause in listed.clauses:
                yield from _rule(tables, gateway, clause)
    yield from _names_beside(tables)


def _order(listed: RuleList) -> Iterator[Remark]:
    """Yield what the order of the rules makes of them."""
    for shadow in listed.shadows():
        above = tuple(paths.QuotedRule(named(rule)) for rule in shadow.by)
        if shadow.whole:
            removed = partial(_removed, shadow.rule)
            yield remark(Code.POLICY_NEVER_MATCHES, (_place(shadow.rule),), paths.TakesAll(above), removed)
        else:
            yield remark(Code.POLICY_SHADOWED, (_place(shadow.rule),), paths.TakesPart(above))
    for rule, below in listed.redundant():
        same = paths.DoesTheSame(named(below))
        yield remark(Code.POLICY_REDUNDANT, (_place(rule),), same, partial(_removed, rule))
    for rule, other in listed.tied():
        why = paths.SameOrder(named(rule), named(other), rule.position)
        yield remark(Code.POLICY_CONFLICTING, (_place(rule, "position"), _place(other, "position")), why)


def _rule(tables: Tables, gateway: Gateway, clause: ResolvedRule) -> Iterator[Remark]:
    rule = clause.rule
    elsewhere = [path.id for path in rule.paths if not _is_here(tables, gateway, path.type, path.id)]
    if elsewhere:
        no_end = paths.PathElsewhere(named(rule), tuple(elsewhere), named(gateway))
        yield remark(Code.POLICY_PATH_ELSEWHERE, (_place(rule, "paths"),), no_end)
    yield from _names(tables, gateway, rule)
    yield from _class(tables.design, rule)
    region = rule.region.casefold()
    if region and all(site.region.casefold() != region for site in tables.design.sites):
        yield remark(Code.POLICY_REGION_UNKNOWN, (_place(rule, "region"),), paths.RegionUnknown(named(rule), rule.region))
    if rule.on_failure is OnFailure.HOLD and leaves_by_uplink(rule):
        uplinks = tuple(tables.design.uplink_by_id[path.id] for path in rule.paths if path.type is PathType.UPLINK)
        why = paths.NeverHolds(named(rule), all_named(uplinks))
        yield remark(Code.POLICY_NEVER_HOLDS, (_place(rule, "paths"),), why, partial(_tunnels_alone, rule))
    leak = _leak(tables, gateway, clause)
    if leak:
        yield remark(Code.POLICY_LEAK_ON_FAILURE, (_place(rule, "on_failure"),), leak, partial(_held, rule))


def _through_tunnels(rule: Rule) -> tuple[Path, ...]:
    return tuple(path for path in rule.paths if path.type is PathType.TUNNEL)


def _tunnels_alone(rule: Rule) -> Iterator[Remedy]:
    yield Remedy(title="Take the uplinks out of the rule", operations=(put(rule.changed(paths=_through_tunnels(rule))),))


def _held(rule: Rule) -> Iterator[Remedy]:
    held = rule.changed(on_failure=OnFailure.HOLD, paths=_through_tunnels(rule))
    yield Remedy(title="Hold it instead", operations=(put(held),))


def _is_here(tables: Tables, gateway: Gateway, type_: PathType, id_: str) -> bool:
    if type_ is PathType.UPLINK:
        return tables.design.uplink_by_id[id_].gateway_id == gateway.id
    return tables.of(gateway).side_of(tables.design.tunnel_by_id[id_]) is not None


_RESOLVED: Final = {
    NameResolution.AT_START: paths.Resolved.AT_START,
    NameResolution.BY_ANSWERS: paths.Resolved.BY_ANSWERS,
}


def _names(tables: Tables, gateway: Gateway, rule: Rule) -> Iterator[Remark]:
    for name in rule.destination_names:
        hosts = tables.design.hosts_named(name)
        known = paths.HereItIs(tuple(host.address for host in hosts)) if hosts else paths.NoHostOfName()
        why = paths.RuleNames(named(rule), name, named(gateway), _RESOLVED[rule.name_resolution], known)
        yield remark(Code.POLICY_NAME, (_place(rule, "destination_names"),), why)


def _class(design: Design, rule: Rule) -> Iterator[Remark]:
    """Find classes that a rule waits for, and that nobody marks."""
    marked = {intent.dscp for intent in design.intents} | {other.marks for other in design.rules}
    lone = [name for name in rule.dscp if parse_dscp(name) and name not in marked]
    if lone:
        yield remark(Code.POLICY_CLASS_UNMARKED, (_place(rule, "dscp"),), paths.ClassUnmarked(named(rule), tuple(lone)))


def _leak(tables: Tables, gateway: Gateway, clause: ResolvedRule) -> paths.LeaksOnFailure | None:
    """Return how traffic that a rule sends into tunnels leaves unprotected when they are down; None when it doesn't."""
    rule = clause.rule
    tunnels = {path.id: "taken down" for path in rule.paths if path.type is PathType.TUNNEL}
    if not tunnels or passes_on(rule):
        return None
    down = Conditions(tunnels=tunnels)
    for flow in _points(tables, gateway, clause):
        decision = decide(tables, gateway, flow, down)
        if decision.kind is DecisionKind.UPLINK and decision.uplink:
            led = tuple(tables.design.tunnel_by_id[id_] for id_ in tunnels)
            return paths.LeaksOnFailure(all_named(led), named(rule), named(decision.uplink), decision.by)
    return None


def _points(tables: Tables, gateway: Gateway, clause: ResolvedRule) -> Iterator[Flow]:
    """Yield flows of a rule's traffic: from the first of each range, and of what routes cut out of its destinations."""
    entries = tables.of(gateway).entries
    count = 0
    for box in boxes_of(clause):
        (first_source, _), (first, last), protocols, ports, (class_, _) = box.bounds
        inside = [network.prefix.network for network in tables.of(gateway).networks if network.prefix.family is box.family]
        source = first_source or min(inside, default=0)
        starts = {entry.to.first for entry in entries if entry.to.family is box.family and first <= entry.to.first <= last}
        for destination in sorted({first, last, *starts}):
            count += 1
            if count > _MOST_POINTS:
                return
            yield Flow(Address(box.family, source), Address(box.family, destination), Service(protocols, ports), class_)


def _names_beside(tables: Tables) -> Iterator[Remark]:
    """Find networks all of whose traffic a rule sends into a tunnel, and whose names are asked beside it."""
    for network in tables.design.networks:
        for resolver in network.resolvers:
            tunnel_rule = _all_into_tunnel(tables, network)
            if tunnel_rule is None:
                continue
            if _asked(tables, network, resolver).kind is not DecisionKind.TUNNEL:
                why = paths.AskedBeside(named(tunnel_rule), named(network), resolver)
                place = Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="resolvers")
                beyond = partial(_resolvers_beyond, tables, network, tunnel_rule)
                yield remark(Code.DNS_BESIDE_TUNNEL, (place, _place(tunnel_rule)), why, beyond)


def _asked(tables: Tables, network: Network, resolver: Address) -> Decision:
    """Return where questions to a resolver go from a network."""
    first = first_hop(tables, network, resolver, Conditions())
    if first.kind is not DecisionKind.ROUTER or first.gateway is None:
        return first
    return decide(tables, first.gateway, Flow(Address(network.prefix.family, network.prefix.network), resolver), Conditions())


def _all_into_tunnel(tables: Tables, network: Network) -> Rule | None:
    for gateway in tables.design.gateways_of_site(network.site_id):
        for clause in tables.of(gateway).clauses:
            about = clause.sources is not None and any(source.contains(network.prefix) for source in clause.sources)
            everything = clause.destinations is None or any(destination.is_all for destination in clause.destinations)
            if about and everything and any(path.type is PathType.TUNNEL for path in clause.rule.paths):
                return clause.rule
    return None


def _resolvers_beyond(tables: Tables, network: Network, rule: Rule) -> Iterator[Remedy]:
    """Ask a resolver of the design that answers through the rule's tunnel."""
    known = dict.fromkeys(host.address for host in tables.design.hosts if _DNS_PORT in host.ports)
    through = {path.id for path in rule.paths}
    for resolver in known:
        flow = Flow(Address(network.prefix.family, network.prefix.network), resolver, Service((17, 17), (_DNS_PORT, _DNS_PORT)))
        found = trace(tables, flow, Conditions(), network)
        if found.back and found.back.end is End.ARRIVES and through & set(found.forward.tunnels):
            changed = network.changed(resolvers=(resolver,))
            yield Remedy(title=f"Ask {resolver}, beyond the tunnel", operations=(put(changed),))


def _removed(rule: Rule) -> Iterator[Remedy]:
    yield Remedy(title=f"Remove “{rule.name}”", operations=(Remove(type=ObjectType.RULE, id=rule.id),))


def _place(rule: Rule, field: str = "position") -> Place:
    return Place(type=ObjectType.RULE, id=rule.id, name=rule.name, field=field)
