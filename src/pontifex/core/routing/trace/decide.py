"""What a gateway does with a packet: policies of tunnels, then policy rules top down, then the longest prefix, then the metric.

The networks of a policy-based tunnel take what they name before any route, rule or connected network, and stay in force
when the tunnel is down, since a security policy drops what it can't protect (RFC 4301 section 4.4.1). A static route into
a route-based tunnel goes with its interface. Where a gateway works so, some routes are asked before any rule.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import Enum

from pontifex.core.addressing import Selector
from pontifex.core.kinds import Gateway, Network, OnFailure, Path, PathType, Side, Tunnel, Uplink
from pontifex.core.kinds.dscp import dscp_name
from pontifex.core.routing.links.quality import exceeded, path_quality
from pontifex.core.routing.tables.tables import GatewayTable, Origin, ResolvedRule, TableEntry, Tables
from pontifex.core.routing.tables.translation import Translator
from pontifex.core.routing.trace.flow import Conditions, Flow


class DecisionKind(Enum):
    """Where a decision sends a packet."""

    DELIVER = "deliver"  # into a network of the gateway's site
    TUNNEL = "tunnel"
    UPLINK = "uplink"  # outside, unprotected
    ROUTER = "router"  # to another gateway of the site
    NEIGHBOUR = "neighbour"  # to an address of which the design knows no more
    HOLD = "hold"  # a rule keeps it back
    DROP = "drop"


class Cause(Enum):
    """What ends a way that doesn't arrive."""

    NOBODY = "nobody"  # no network holds the source
    ISOLATED = "isolated"
    NO_ROUTER = "no-router"  # the hosts send it to a router that the design doesn't know
    OWN_TABLE = "own-table"  # a cloud subnet's table doesn't lead there
    NO_ROUTE = "no-route"
    UPLINK = "uplink"  # it leaves by an uplink
    NOT_KNOWN = "not-known"  # whether the tunnel that it goes into comes up isn't known yet
    CARRIER = "carrier"  # a tunnel would carry its own packets
    SAME_WIRE = "same-wire"  # the host takes the destination for a neighbour on its own wire
    RULE = "rule"  # a rule holds it
    FORWARDING = "forwarding"
    DOWN = "down"  # a gateway, or the tunnel that a policy sends it into
    LOOP = "loop"
    NEXT_HOP = "next-hop"  # nobody answers at a route's next hop
    SELECTORS = "selectors"  # a tunnel's networks don't name it
    PEERING = "peering"  # a peering is not transitive
    FILTER = "filter"
    CLOUD_RULE = "cloud-rule"
    STATE = "state"  # a filter hasn't seen the connection begin
    TWIN = "twin"  # it ends in another network of the same addresses
    OUTSIDE = "outside"  # the answer isn't recognised
    NEIGHBOUR = "neighbour"


@dataclass(frozen=True, slots=True)
class EntryInWords:
    """What is said of an entry that decides. It is written when it is read: of most decisions only where they lead is asked."""

    entry: TableEntry
    down: str = ""  # why its tunnel is down

    def __str__(self) -> str:
        entry, tunnel = self.entry, self.entry.tunnel
        if entry.network:
            return f"connected: {entry.to}"
        if tunnel and entry.origin is Origin.POLICY:
            if self.down:
                return f"the policy of {tunnel.name} for {entry.to} takes it, and the tunnel is down: {self.down}"
            return f"policy of {tunnel.name}: {entry.to}"
        if tunnel and entry.origin is Origin.CONNECTED:
            return f"connected: {entry.to} in {tunnel.name}"
        if entry.uplink and entry.origin is Origin.DEFAULT:
            return f"no route is narrower than the default one, by {entry.uplink.name}"
        route = f"{'learnt route' if entry.origin is Origin.LEARNT else 'route'} {entry.to}"
        if entry.uplink:
            return f"{route} by {entry.uplink.name}"
        via = f" via {entry.via}" if entry.via else ""
        return f"{route}{via} into {tunnel.name}" if tunnel else f"{route}{via}"


@dataclass(frozen=True, slots=True)
class Decision:
    """Where a packet goes, and what decided it."""

    kind: DecisionKind
    told: str | EntryInWords  # the rule or route that decided
    network: Network | None = None
    tunnel: Tunnel | None = None
    side: Side | None = None  # of the gateway, in the tunnel
    uplink: Uplink | None = None
    gateway: Gateway | None = None  # ROUTER
    dscp: int | None = None  # what a rule has marked it as
    cause: Cause | None = None  # DROP, where it is not for want of a route
    rule_id: str | None = None  # HOLD

    @property
    def by(self) -> str:
        """The rule or route that decided, in words."""
        return str(self.told)


def decide(
    tables: Tables,
    gateway: Gateway,
    flow: Flow,
    conditions: Conditions,
    translator: Translator | None = None,
    own: bool = False,
) -> Decision:
    """Return what a gateway does with a flow that `translator` translates; rules aren't asked for what is its `own`."""
    table = tables.of(gateway)
    ways = _ways(table, flow, translator or Translator(table.translations))
    entries = [entry for entry in ways if entry.origin is not Origin.POLICY]
    bypassed = own and _goes_around(tables, table, entries, flow)
    policies = [] if bypassed else [entry for entry in ways if entry.origin is Origin.POLICY]
    before = [entry for entry in entries if table.outranks(entry)]
    found = _by_route(tables, table, [*policies, *before], conditions)
    if found:
        return found
    passed: list[str] = []
    marked: int | None = None
    for clause in () if own else table.clauses:
        if not matches(clause, flow):
            continue
        if clause.marks is not None:
            marked = clause.marks
            flow = replace(flow, dscp=marked)
        chosen = by_rule(tables, gateway, clause, conditions)
        if isinstance(chosen, Decision):
            return _after(passed, chosen, marked)
        passed.append(chosen)
    found = _by_route(tables, table, entries, conditions)
    return _after(passed, found or Decision(DecisionKind.DROP, "no route leads there, and no uplink is left"), marked)


def _goes_around(tables: Tables, table: GatewayTable, entries: Iterable[TableEntry], flow: Flow) -> bool:
    """Whether a route by an uplink leads to a peer alone: it is the BYPASS entry of RFC 4301 section 4.4.1."""
    alone = any(entry.uplink and entry.length == flow.destination.family.bits for entry in entries)
    return alone and any(tables.design.peer_outside(*tunnel) == flow.destination for tunnel in table.tunnels)


def _after(passed: list[str], decision: Decision, marked: int | None) -> Decision:
    if not passed and marked is None:
        return decision
    return replace(decision, told="; ".join((*passed, decision.by)), dscp=marked)


def matches(clause: ResolvedRule, flow: Flow) -> bool:
    """Whether a rule is about a flow; what it doesn't limit is about all."""
    if clause.classes is not None and flow.dscp not in clause.classes:
        return False
    source = clause.sources is None or any(prefix.holds(flow.source) for prefix in clause.sources)
    return source and (
        clause.destinations is None or any(destination.contains(flow.selector) for destination in clause.destinations)
    )


def by_rule(tables: Tables, gateway: Gateway, clause: ResolvedRule, conditions: Conditions) -> Decision | str:
    """Return what a rule decides, or in words why it leaves that to what comes after it."""
    rule = clause.rule
    why: list[str] = []
    for path in rule.paths:
        refusal = unusable(tables, gateway, path, conditions)
        if not refusal:
            by = "; ".join((*why, f"rule {rule.name}"))
            if path.type is PathType.UPLINK:
                return Decision(DecisionKind.UPLINK, by, uplink=tables.design.uplink_by_id[path.id])
            tunnel = tables.design.tunnel_by_id[path.id]
            return Decision(DecisionKind.TUNNEL, by, tunnel=tunnel, side=tables.of(gateway).side_of(tunnel))
        why.append(refusal)
    reasons = f": {'; '.join(why)}" if why else ""
    if rule.on_failure is OnFailure.HOLD:
        return Decision(DecisionKind.HOLD, f"rule {rule.name} holds{reasons}", rule_id=rule.id)
    if rule.paths:
        return f"rule {rule.name} falls through{reasons}"
    return f"rule {rule.name} marks it {dscp_name(clause.marks)}" if clause.marks is not None else f"rule {rule.name} passes on"


def unusable(tables: Tables, gateway: Gateway, path: Path, conditions: Conditions) -> str:
    """Return why a gateway can't take a path of a rule now; empty when it can."""
    if path.type is PathType.UPLINK:
        uplink = tables.design.uplink_by_id[path.id]
        name, down = uplink.name, conditions.uplinks.get(path.id)
        if uplink.gateway_id != gateway.id:
            return f"{name} is another gateway's"
    else:
        tunnel = tables.design.tunnel_by_id[path.id]
        name, down = tunnel.name, conditions.tunnels.get(path.id)
        if tables.of(gateway).side_of(tunnel) is None:
            return f"{name} doesn't end here"
    if down:
        return f"{name} is down"
    limit = exceeded(path, path_quality(tables.design, path, conditions.quality))
    return f"{name} has {limit}" if limit else ""


def _ways(table: GatewayTable, flow: Flow, translator: Translator) -> list[TableEntry]:
    """Return the ways that a gateway knows for a flow, in their order; tunnels' networks as it translates the flow for them."""
    if not table.translations:
        holding = sorted(table.by_prefix.holding(flow.destination), key=lambda placed: placed[0])
        return [entry for _, entry in holding if entry.origin is not Origin.POLICY or _taken(entry, translator.leaving(flow))]
    found = []
    for entry in table.entries:
        if entry.origin is Origin.POLICY and entry.tunnel:
            if _taken(entry, translator.into_tunnel(entry.tunnel.id, flow)):
                found.append(entry)
        elif about(entry.to, flow.selector):
            found.append(entry)
    return found


def _taken(entry: TableEntry, flow: Flow) -> bool:
    """Whether a tunnel's networks name a flow."""
    named = not entry.sources or any(about(source, flow.from_selector) for source in entry.sources)
    return named and about(entry.to, flow.selector)


def about(selector: Selector, asked: Selector) -> bool:
    """Whether a selector names the addresses asked for, whatever the protocol where none is asked for."""
    within = selector.family is asked.family and selector.first <= asked.first and asked.last <= selector.last
    return within and selector.is_about(asked.protocols, asked.ports)


def _by_route(tables: Tables, table: GatewayTable, entries: list[TableEntry], conditions: Conditions) -> Decision | None:
    for entry in entries:
        decision = outcome(tables, table.gateway, entry, conditions)
        if decision:
            return decision
    return None


def outcome(tables: Tables, gateway: Gateway, entry: TableEntry, conditions: Conditions) -> Decision | None:
    """Return what a way leads to now; None where it is gone with its tunnel or uplink, or leads nowhere at all."""
    if entry.network:
        return Decision(DecisionKind.DELIVER, EntryInWords(entry), network=entry.network)
    if entry.tunnel:
        return _into_tunnel(entry, entry.tunnel, conditions)
    if entry.uplink:
        if entry.uplink.id in conditions.uplinks or entry.uplink.gateway_id != gateway.id:
            return None
        return Decision(DecisionKind.UPLINK, EntryInWords(entry), uplink=entry.uplink)
    assert entry.via
    router = tables.at_address(gateway.site_id, entry.via)
    if router and router.id != gateway.id:
        return Decision(DecisionKind.ROUTER, EntryInWords(entry), gateway=router)
    if any(network.prefix.holds(entry.via) for network in tables.design.networks_of_site(gateway.site_id)):
        return Decision(DecisionKind.NEIGHBOUR, EntryInWords(entry))
    return None  # nobody is at its next hop, so that no device takes the route up


def _into_tunnel(entry: TableEntry, tunnel: Tunnel, conditions: Conditions) -> Decision | None:
    down = conditions.tunnels.get(tunnel.id)
    if down and entry.origin is Origin.POLICY:
        return Decision(DecisionKind.DROP, EntryInWords(entry, down), cause=Cause.DOWN)
    if down or (entry.side is None and entry.origin is not Origin.POLICY):
        return None
    return Decision(DecisionKind.TUNNEL, EntryInWords(entry), tunnel=tunnel, side=entry.side)
