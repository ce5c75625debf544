"""What a gateway does with a packet: policy rules top down, then the longest prefix, then the metric.

The networks of a policy-based tunnel take part as routes for the sources that it names; they stay in force when the
tunnel is down, since a security policy drops what it can't protect (RFC 4301 section 4.4.1). A static route into a
route-based tunnel goes with its interface.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum

from pontifex.core.addressing import Address, Selector
from pontifex.core.model import SIDES, Design, Gateway, Mode, Network, OnFailure, PathType, Rule, Side, Tunnel, Uplink
from pontifex.core.routing.flow import Conditions, Flow
from pontifex.core.routing.translation import States, translated


class Kind(Enum):
    """Where a decision sends a packet."""

    DELIVER = "deliver"  # into a network of the gateway's site
    TUNNEL = "tunnel"
    UPLINK = "uplink"  # outside, unprotected
    NEIGHBOUR = "neighbour"  # to an address of which the design knows no more
    DROP = "drop"


@dataclass(frozen=True, slots=True)
class Decision:
    """Where a packet goes, and what decided it."""

    kind: Kind
    by: str  # the rule or route that decided, in words
    network: Network | None = None
    tunnel: Tunnel | None = None
    side: Side | None = None  # of the gateway, in the tunnel
    uplink: Uplink | None = None


def decide(design: Design, gateway: Gateway, flow: Flow, conditions: Conditions, states: States = ()) -> Decision:
    """Return what a gateway does with a flow; `states` are those of addresses that it shares among hosts."""
    passed: list[str] = []
    for rule in _rules(design, gateway):
        if not matches(rule, flow):
            continue
        found = _by_rule(design, gateway, rule, conditions)
        if found:
            return found
        if rule.on_failure is OnFailure.HOLD:
            return Decision(Kind.DROP, f"rule {rule.name} holds: none of its paths can be used")
        passed.append(f"rule {rule.name} falls through")
    decision = _by_route(design, gateway, flow, conditions, states)
    return Decision(
        decision.kind, "; ".join((*passed, decision.by)), decision.network, decision.tunnel, decision.side, decision.uplink
    )


def matches(rule: Rule, flow: Flow) -> bool:
    """Tell whether a rule is about a flow; an empty list is about all."""
    source = not rule.sources or any(one.holds(flow.source) for one in rule.sources)
    return source and (not rule.destinations or any(one.contains(flow.selector) for one in rule.destinations))


def _rules(design: Design, gateway: Gateway) -> list[Rule]:
    mine = [rule for rule in design.rules if rule.gateway_id == gateway.id]
    return sorted(mine, key=lambda rule: (rule.position, rule.id))


def _by_rule(design: Design, gateway: Gateway, rule: Rule, conditions: Conditions) -> Decision | None:
    for path in rule.paths:
        if path.type is PathType.TUNNEL and path.id not in conditions.tunnels:
            tunnel = design.tunnel_by_id[path.id]
            side = side_of(tunnel, gateway)
            if side:
                return Decision(Kind.TUNNEL, f"rule {rule.name}", tunnel=tunnel, side=side)
        if path.type is PathType.UPLINK and path.id not in conditions.uplinks:
            return Decision(Kind.UPLINK, f"rule {rule.name}", uplink=design.uplink_by_id[path.id])
    return None


def side_of(tunnel: Tunnel, gateway: Gateway) -> Side | None:
    """Return the side of a tunnel at which a gateway stands."""
    return next((side for side in SIDES if tunnel.end(side).gateway_id == gateway.id), None)


@dataclass(frozen=True, slots=True)
class _Candidate:
    length: int
    metric: int
    decision: Decision


def _by_route(design: Design, gateway: Gateway, flow: Flow, conditions: Conditions, states: States) -> Decision:
    candidates = [
        *_connected(design, gateway, flow),
        *_policies(design, gateway, flow, conditions, states),
        *_static(design, gateway, flow, conditions),
    ]
    if candidates:
        return min(candidates, key=lambda one: (-one.length, one.metric)).decision
    uplinks = [u for u in design.uplinks if u.gateway_id == gateway.id and u.id not in conditions.uplinks]
    if uplinks:
        first = min(uplinks, key=lambda one: (one.preference, one.id))
        return Decision(Kind.UPLINK, f"no route is narrower than the default one, by {first.name}", uplink=first)
    return Decision(Kind.DROP, "no route leads there, and no uplink is left")


def _connected(design: Design, gateway: Gateway, flow: Flow) -> Iterator[_Candidate]:
    for network in design.networks_of_site(gateway.site_id):
        if network.prefix.holds(flow.destination):
            yield _Candidate(network.prefix.length, -1, Decision(Kind.DELIVER, f"connected: {network.prefix}", network=network))


def _policies(design: Design, gateway: Gateway, flow: Flow, conditions: Conditions, states: States) -> Iterator[_Candidate]:
    """Yield the tunnels whose policy takes a flow, as it is after the gateway's own translations."""
    for tunnel in design.tunnels:
        side = side_of(tunnel, gateway)
        if side is None or tunnel.end(side).mode is Mode.ROUTE:
            continue
        end = tunnel.end(side)
        shown = translated(design, gateway.id, tunnel.id, flow, leaving=True, states=states)
        source = Selector(shown.source.family, shown.source.value, shown.source.value)
        if end.local_networks and not any(_about(one, source) for one in end.local_networks):
            continue
        for one in end.remote_networks:
            if _about(one, shown.selector):
                length = one.family.bits - (one.last - one.first + 1).bit_length() + 1
                why = conditions.tunnels.get(tunnel.id)
                if why:
                    decision = Decision(
                        Kind.DROP, f"the policy of {tunnel.name} for {one} takes it, and the tunnel is down: {why}"
                    )
                else:
                    decision = Decision(Kind.TUNNEL, f"policy of {tunnel.name}: {one}", tunnel=tunnel, side=side)
                yield _Candidate(length, 0, decision)


def _about(selector: Selector, asked: Selector) -> bool:
    """Tell whether a selector names the addresses asked for, whatever the protocol where none is asked for."""
    within = selector.family is asked.family and selector.first <= asked.first and asked.last <= selector.last
    protocols = asked.protocols[0] <= selector.protocols[1] and selector.protocols[0] <= asked.protocols[1]
    return within and protocols and asked.ports[0] <= selector.ports[1] and selector.ports[0] <= asked.ports[1]


def _static(design: Design, gateway: Gateway, flow: Flow, conditions: Conditions) -> Iterator[_Candidate]:
    for route in design.routes:
        if route.gateway_id != gateway.id or not route.prefix.holds(flow.destination):
            continue
        by = f"route {route.prefix}"
        if route.tunnel_id:
            tunnel = design.tunnel_by_id[route.tunnel_id]
            side = side_of(tunnel, gateway)
            if side and tunnel.id not in conditions.tunnels:
                decision = Decision(Kind.TUNNEL, f"{by} into {tunnel.name}", tunnel=tunnel, side=side)
                yield _Candidate(route.prefix.length, route.metric, decision)
        elif route.uplink_id:
            if route.uplink_id not in conditions.uplinks:
                uplink = design.uplink_by_id[route.uplink_id]
                yield _Candidate(
                    route.prefix.length, route.metric, Decision(Kind.UPLINK, f"{by} by {uplink.name}", uplink=uplink)
                )
        elif route.via:
            yield _Candidate(route.prefix.length, route.metric, _by_address(design, gateway, route.via, by))


def _by_address(design: Design, gateway: Gateway, via: Address, by: str) -> Decision:
    if any(network.prefix.holds(via) for network in design.networks_of_site(gateway.site_id)):
        return Decision(Kind.NEIGHBOUR, f"{by} via {via}")
    return Decision(Kind.DROP, f"{by} via {via}, which is in no network of the site: the route can't be used")
