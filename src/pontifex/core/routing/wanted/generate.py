"""The routes that tunnels and intents need at both ends, the fewest, and the change that makes a wanted pair work."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, AddressSet, Family, Prefix, Selector
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.kinds import DesignMember, Gateway, Network, Route, Tunnel
from pontifex.core.model import Design, new_route
from pontifex.core.routing.tables.chains import Crossing
from pontifex.core.routing.tables.first_hop import first_hop
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import Decision, DecisionKind, decide
from pontifex.core.routing.trace.flow import Conditions, Flow, answer_service
from pontifex.core.routing.wanted.intents import WantedFlow

_ALL_UP: Final = Conditions()


@dataclass(frozen=True, slots=True)
class Leg:
    """One step of one direction: at a gateway, or in a subnet's own table, what goes to a prefix must go into a tunnel."""

    gateway: Gateway
    flow: Flow  # one of what is to go there
    prefix: Prefix
    tunnel: Tunnel | None  # None in a subnet's own table, which leads to the gateway
    subnet: Network | None = None

    @property
    def place(self) -> tuple[str, str, str]:
        """Ids of the gateway, of the subnet, and of the tunnel; empty where there is none."""
        return self.gateway.id, self.subnet.id if self.subnet else "", self.tunnel.id if self.tunnel else ""


_ByPlace = dict[tuple[str, str, str], list[Leg]]


def routed(crossing: Crossing) -> bool:
    """Whether routes decide at the near end what goes into a tunnel."""
    end = crossing.near
    return end.goes_by_routes or not end.remote_networks


def directions(want: WantedFlow) -> tuple[WantedFlow, WantedFlow]:
    """Return something that is wanted, and the answer to it, whose port is anybody's guess."""
    answer = replace(
        want,
        source=want.target,
        begin=want.end,
        target=want.source,
        end=want.begin,
        service=answer_service(want.service),
    )
    return want, answer


def legs(tables: Tables, way: WantedFlow) -> Iterator[Leg]:
    """Yield the routes that lead from a network to addresses of another, tunnel by tunnel; none for a tunnel by policy."""
    design = tables.design
    first = True
    for crossing in tables.chains.chain(way.source.site_id, way.target.site_id):
        gateway = design.gateway_by_id[crossing.near.gateway_id]
        if first and way.source.own_table:
            yield Leg(gateway, way.flow, way.end, None, way.source)
        if routed(crossing):
            yield Leg(gateway, way.flow, way.end, crossing.tunnel)
        first = False


def there(tables: Tables, leg: Leg) -> bool:
    """Whether a route, or a rule, leads there already."""
    destination = Address(leg.prefix.family, leg.prefix.network)
    if leg.subnet:
        return first_hop(tables, leg.subnet, destination, _ALL_UP).kind in (DecisionKind.ROUTER, DecisionKind.TUNNEL)
    return decide(tables, leg.gateway, replace(leg.flow, destination=destination), _ALL_UP).kind is DecisionKind.TUNNEL


class State(Enum):
    """What there is of a route that is needed."""

    THERE = "there"
    MISSING = "missing"
    UNNEEDED = "unneeded"  # there, and no intent needs it


@dataclass(frozen=True, slots=True, kw_only=True)
class NeededRoute:
    """A route that intents need, or that none needs."""

    gateway_id: str
    subnet_id: Annotated[str | None, Field(title="Subnet in whose own table it belongs")]
    prefix: Prefix
    tunnel_id: str | None
    state: State
    route_id: Annotated[str | None, Field(title="The route, where it stands as one of its own")]


def needed_routes(tables: Tables, wanted: Iterable[WantedFlow]) -> tuple[NeededRoute, ...]:
    """Return the fewest routes that give all that is wanted, there and back, and those of the design that nothing needs.

    Prefixes that go into one tunnel are joined where that adds no address.
    """
    by_place: _ByPlace = defaultdict(list)
    for want in wanted:
        for way in directions(want):
            for leg in legs(tables, way):
                by_place[leg.place].append(leg)
    found = [
        _needed(tables, prefix, [leg for leg in some if prefix.contains(leg.prefix)])
        for _, some in sorted(by_place.items(), key=lambda item: item[0])
        for family in Family
        for prefix in AddressSet.of([leg.prefix for leg in some], family).prefixes()
    ]
    return (*found, *_unneeded(tables.design, by_place))


def _needed(tables: Tables, prefix: Prefix, some: list[Leg]) -> NeededRoute:
    """Return the route for a prefix that several legs of one place are joined in."""
    leg = some[0]
    tunnel_id = leg.tunnel.id if leg.tunnel else None
    own = next((one for one in _routes(tables, leg) if (one.prefix, one.tunnel_id) == (prefix, tunnel_id)), None)
    return NeededRoute(
        gateway_id=leg.gateway.id,
        subnet_id=leg.subnet.id if leg.subnet else None,
        prefix=prefix,
        tunnel_id=tunnel_id,
        state=State.THERE if own or all(there(tables, one) for one in some) else State.MISSING,
        route_id=own.id if own else None,
    )


def _routes(tables: Tables, leg: Leg) -> list[Route]:
    if leg.subnet:
        return tables.subnet_routes.get(leg.subnet.id, [])
    return [route for route in tables.routes_of.get(leg.gateway.id, ()) if route.network_id is None]


def _unneeded(design: Design, by_place: _ByPlace) -> Iterator[NeededRoute]:
    used: dict[tuple[str, str], set[Prefix]] = defaultdict(set)  # by whichever tunnel: a spare route is needed, too
    for (gateway_id, subnet_id, _), some in by_place.items():
        used[gateway_id, subnet_id].update(leg.prefix for leg in some)
    for route in design.routes if by_place else ():
        if route.tunnel_id is None or route.prefix.length == 0:
            continue  # the default route is for whatever nobody thought of
        if not any(route.prefix.overlaps(prefix) for prefix in used[route.gateway_id, route.network_id or ""]):
            yield NeededRoute(
                gateway_id=route.gateway_id,
                subnet_id=route.network_id,
                prefix=route.prefix,
                tunnel_id=route.tunnel_id,
                state=State.UNNEEDED,
                route_id=route.id,
            )


def missing_routes(design: Design, needed: Iterable[NeededRoute]) -> Iterator[Route]:
    """Yield the routes to add for those that are missing."""
    taken = {route.id for route in design.routes}
    for one in needed:
        if one.state is State.MISSING:
            yield new_route(design, taken, one.gateway_id, one.prefix, one.tunnel_id, one.subnet_id)


def mended(tables: Tables, want: WantedFlow) -> tuple[DesignMember, ...]:
    """Return the objects to put so that something wanted goes there and comes back, as far as routes and networks decide it."""
    design = tables.design
    changed: dict[tuple[type, str], DesignMember] = {}
    taken = {route.id for route in design.routes}
    for way in directions(want):
        for one in _first_step(tables, way, changed):
            changed[type(one), one.id] = one
        for leg in legs(tables, way):
            if not there(tables, leg):
                gateway_id, subnet_id, tunnel_id = leg.place
                route = new_route(design, taken, gateway_id, leg.prefix, tunnel_id or None, subnet_id or None)
                changed[Route, route.id] = route
        for crossing in tables.chains.chain(way.source.site_id, way.target.site_id):
            gateway_ids = (crossing.near.gateway_id, crossing.far.gateway_id)
            for gateway_id in gateway_ids:
                gateway = design.gateway_by_id[gateway_id]
                if not gateway.forwarding:
                    changed[Gateway, gateway.id] = gateway.changed(forwarding=True)
            tunnel = changed.get((Tunnel, crossing.tunnel.id), crossing.tunnel)
            assert isinstance(tunnel, Tunnel)
            named = _naming(tunnel, crossing, way.begin, way.end)
            if named is not tunnel:
                changed[Tunnel, tunnel.id] = named
    return tuple(changed.values())


def _naming(tunnel: Tunnel, crossing: Crossing, begin: Prefix, end: Prefix) -> Tunnel:
    """Return a tunnel whose two ends name what is to go through it, where they name anything."""
    sides = ((crossing.side, "local_networks", "remote_networks"), (crossing.side.other, "remote_networks", "local_networks"))
    for side, for_source, for_target in sides:
        for field, prefix in ((for_source, begin), (for_target, end)):
            named: tuple[Selector, ...] = getattr(tunnel.end(side), field)
            wanted = Selector.of(prefix)
            if named and not any(replace(one, protocols=wanted.protocols, ports=wanted.ports).contains(wanted) for one in named):
                tunnel = tunnel.with_field(side, field, (*named, wanted))
    return tunnel


def _leads_to(tables: Tables, router: Gateway | None, flow: Flow, gateway: Gateway) -> bool:
    """Whether a site's router passes on to the gateway of a tunnel."""
    return router is not None and decide(tables, router, flow, _ALL_UP).gateway is gateway


def _first_step(tables: Tables, way: WantedFlow, changed: dict[tuple[type, str], DesignMember]) -> Iterator[DesignMember]:
    """Yield what lets the hosts of a network find the gateway of the first tunnel, where they use another router."""
    source, end = way.source, way.end
    design = tables.design
    chain = tables.chains.chain(source.site_id, way.target.site_id)
    if not chain or source.own_table:
        return
    gateway = design.gateway_by_id[chain[0].near.gateway_id]
    decision: Decision = first_hop(tables, source, way.flow.destination, _ALL_UP)
    if decision.kind is DecisionKind.ROUTER and (
        decision.gateway is gateway or _leads_to(tables, decision.gateway, way.flow, gateway)
    ):
        return
    inside = gateway.inside_address
    if inside and decision.kind is DecisionKind.ROUTER and decision.gateway:
        taken = {route.id for route in design.routes} | {id_ for kind, id_ in changed if kind is Route}
        route = new_route(design, taken, decision.gateway.id, end, None, None, inside)
        yield route
    elif inside and inside.family is Family.V4 and source.prefix.holds(inside):
        network = changed.get((Network, source.id), source)
        assert isinstance(network, Network)
        yield network.changed(dhcp_routes=(*network.dhcp_routes, DhcpRoute(end, inside)))
    elif not any(one.default_router for one in tables.gateways_of.get(source.site_id, ())):
        yield gateway.changed(default_router=True)
