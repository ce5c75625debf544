"""What a host does with a packet before any gateway sees it: its own network, routes by DHCP, a subnet's own table."""

from __future__ import annotations

from dataclasses import replace

from pontifex.core.addressing import Address
from pontifex.core.kinds import Network, Route, SiteKind
from pontifex.core.routing.tables.tables import Tables, route_entry
from pontifex.core.routing.trace.decide import Cause, Decision, DecisionKind, outcome
from pontifex.core.routing.trace.flow import Conditions


def first_hop(tables: Tables, network: Network, destination: Address, conditions: Conditions) -> Decision:
    """Return where a host of a network sends a packet; ROUTER to the gateway that decides next, with `by` where it is unusual."""
    if network.prefix.holds(destination):
        beyond = next((candidate for candidate in tables.within.get(network.id, ()) if candidate.prefix.holds(destination)), None)
        if beyond and not tables.owner(destination, network.site_id):  # a gateway answers on every wire that it is on
            words = f"{network.prefix} holds {destination}, so the host looks for it on its own wire; it is in {beyond.name}"
            return Decision(DecisionKind.DROP, words, cause=Cause.SAME_WIRE)
        return Decision(DecisionKind.DELIVER, "the same network", network=network)
    beside = [candidate for candidate in routed_by_site(tables, network) if candidate.prefix.holds(destination)]
    if beside:
        narrowest = max(beside, key=lambda candidate: candidate.prefix.length)
        return Decision(DecisionKind.DELIVER, f"within the cloud: {narrowest.prefix}", network=narrowest)
    if network.own_table:
        return _by_own_table(tables, network, destination, conditions)
    told = [route for route in network.dhcp_routes if route.prefix.holds(destination)]
    if told:
        return as_told(tables, network, max(told, key=lambda route: route.prefix.length).via)
    return usual_router(tables, network, conditions, destination)


def routed_by_site(tables: Tables, network: Network) -> tuple[Network, ...]:
    """Return the networks that hosts reach without any gateway: a cloud routes between its own networks by itself."""
    if tables.design.site_by_id[network.site_id].kind is not SiteKind.CLOUD and not network.own_table:
        return ()
    return tuple(candidate for candidate in tables.design.networks_of_site(network.site_id) if not candidate.zone)


def usual_router(tables: Tables, network: Network, conditions: Conditions, destination: Address | None = None) -> Decision:
    """Return what hosts do with whatever they know no route for."""
    gateways = tables.design.gateways_of_site(network.site_id)
    routers = [gateway for gateway in gateways if gateway.default_router]
    if not gateways:
        return Decision(DecisionKind.DROP, "there is no gateway", cause=Cause.NO_ROUTER)
    if not routers:
        to = f": whether that one leads to {destination} is not known" if destination else ""
        return Decision(
            DecisionKind.NEIGHBOUR, f"the hosts use another router, of which the design knows nothing{to}", cause=Cause.NO_ROUTER
        )
    return Decision(
        DecisionKind.ROUTER, "", gateway=min(routers, key=lambda router: (router.id in conditions.gateways, router.id))
    )


def as_told(tables: Tables, network: Network, via: Address) -> Decision:
    """Return what hosts do with what DHCP has told them a router for."""
    if not network.prefix.holds(via):
        words = f"DHCP names {via} as the router, which is not in {network.prefix}"
        return Decision(DecisionKind.DROP, words, cause=Cause.NEXT_HOP)
    router = tables.at_address(network.site_id, via)
    if router is None:
        return Decision(DecisionKind.NEIGHBOUR, f"a route by DHCP via {via}")
    return Decision(DecisionKind.ROUTER, f"a route by DHCP via {via}", gateway=router)


def _by_own_table(tables: Tables, network: Network, destination: Address, conditions: Conditions) -> Decision:
    """A cloud subnet's own table: beside the site's networks hosts send only where its routes lead."""
    for route, decision in own_routes(tables, network, conditions):
        if route.prefix.holds(destination):
            return decision
    words = f"the own route table of {network.name} has no route to {destination}"
    return Decision(DecisionKind.DROP, words, cause=Cause.OWN_TABLE)


def own_routes(tables: Tables, network: Network, conditions: Conditions) -> list[tuple[Route, Decision]]:
    """Return the routes of a subnet's own table that can be used now, in their order, each with what it leads to."""
    usable = []
    for route in sorted(
        tables.subnet_routes.get(network.id, ()), key=lambda candidate: (-candidate.prefix.length, candidate.metric, candidate.id)
    ):
        gateway = tables.design.gateway_by_id[route.gateway_id]
        by = f"{network.name}'s own table: {route.prefix}"
        if route.via is None and route.tunnel_id is None and route.uplink_id is None:
            usable.append((route, Decision(DecisionKind.ROUTER, by, gateway=gateway)))
            continue
        found = outcome(tables, gateway, route_entry(tables, gateway, route), conditions)
        if found:
            usable.append((route, replace(found, told=f"{by}, {found.by}", gateway=found.gateway or gateway)))
    return usable
