"""The routes that tunnels and intents need at both ends, the fewest."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, AddressSet, Family, Prefix
from pontifex.core.kinds import Gateway, Network, Route, Tunnel
from pontifex.core.model import Design, new_route
from pontifex.core.routing.tables.chains import Crossing
from pontifex.core.routing.tables.first_hop import first_hop
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import DecisionKind, decide
from pontifex.core.routing.trace.flow import Conditions, Flow
from pontifex.core.routing.wanted.blocks import WantedBlock

_ALL_UP: Final = Conditions()


RoutePlace = tuple[str, str, str]  # ids of the gateway, of the subnet, and of the tunnel; empty where there is none


@dataclass(frozen=True, slots=True)
class Leg:
    """One step of one direction: at a gateway, or in a subnet's own table, what goes to a prefix must go into a tunnel."""

    gateway: Gateway
    way: WantedBlock  # what is to go there, of all its sources
    prefix: Prefix
    tunnel: Tunnel | None  # None in a subnet's own table, which leads to the gateway
    subnet: Network | None = None

    @property
    def place(self) -> RoutePlace:
        """Where its route belongs."""
        return self.gateway.id, self.subnet.id if self.subnet else "", self.tunnel.id if self.tunnel else ""


_ByPlace = dict[RoutePlace, list[Leg]]


def routed(crossing: Crossing) -> bool:
    """Whether routes decide at the near end what goes into a tunnel."""
    end = crossing.near
    return end.goes_by_routes or not end.remote_networks


def legs(tables: Tables, way: WantedBlock) -> Iterator[Leg]:
    """Yield the routes that lead from networks to addresses of others, tunnel by tunnel; none for a tunnel by policy."""
    chain = tables.chains.chain(*way.sites)
    if not chain:
        return
    gateways = [tables.design.gateway_by_id[crossing.near.gateway_id] for crossing in chain]
    own_tables = [part.network for part in way.sources if part.network.own_table]
    for destination in way.destinations:
        for subnet in own_tables:
            yield Leg(gateways[0], way, destination.prefix, None, subnet)
        for gateway, crossing in zip(gateways, chain, strict=True):
            if routed(crossing):
                yield Leg(gateway, way, destination.prefix, crossing.tunnel)


def there(tables: Tables, leg: Leg) -> bool:
    """Whether a route, or a rule, leads there already."""
    destination = Address(leg.prefix.family, leg.prefix.network)
    if leg.subnet:
        return first_hop(tables, leg.subnet, destination, _ALL_UP).kind in (DecisionKind.ROUTER, DecisionKind.TUNNEL)
    begins = (Address(part.prefix.family, part.prefix.network) for part in leg.way.sources)
    flows = (Flow(begin, destination, leg.way.service, leg.way.dscp) for begin in begins)
    return all(decide(tables, leg.gateway, flow, _ALL_UP).kind is DecisionKind.TUNNEL for flow in flows)


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


def needed_routes(tables: Tables, wanted: Iterable[WantedBlock]) -> tuple[NeededRoute, ...]:
    """Return the fewest routes that give all that is wanted, there and back, and those of the design that nothing needs.

    Prefixes that go into one tunnel are joined where that adds no address.
    """
    by_place = _legs_by_place(tables, wanted)
    found = [
        _needed(tables, prefix, [leg for leg in some if prefix.contains(leg.prefix)])
        for _, some in sorted(by_place.items(), key=lambda item: item[0])
        for family in Family
        for prefix in AddressSet.of([leg.prefix for leg in some], family).prefixes()
    ]
    return (*found, *map(_without_use, _unneeded(tables.design, by_place)))


def unneeded(tables: Tables, wanted: Iterable[WantedBlock]) -> Iterator[Route]:
    """Yield the routes into tunnels that nothing of what is wanted needs."""
    return _unneeded(tables.design, _legs_by_place(tables, wanted))


def _legs_by_place(tables: Tables, wanted: Iterable[WantedBlock]) -> _ByPlace:
    by_place: _ByPlace = defaultdict(list)
    for block in wanted:
        for way in (block, block.answer):
            for leg in legs(tables, way):
                by_place[leg.place].append(leg)
    return by_place


def _needed(tables: Tables, prefix: Prefix, some: list[Leg]) -> NeededRoute:
    """Return the route for a prefix that several legs of one place are joined in."""
    leg = some[0]
    tunnel_id = leg.tunnel.id if leg.tunnel else None
    own = next((route for route in _routes(tables, leg) if (route.prefix, route.tunnel_id) == (prefix, tunnel_id)), None)
    return NeededRoute(
        gateway_id=leg.gateway.id,
        subnet_id=leg.subnet.id if leg.subnet else None,
        prefix=prefix,
        tunnel_id=tunnel_id,
        state=State.THERE if own or all(there(tables, leg) for leg in some) else State.MISSING,
        route_id=own.id if own else None,
    )


def _routes(tables: Tables, leg: Leg) -> list[Route]:
    if leg.subnet:
        return tables.subnet_routes.get(leg.subnet.id, [])
    return [route for route in tables.routes_of.get(leg.gateway.id, ()) if route.network_id is None]


def _unneeded(design: Design, by_place: _ByPlace) -> Iterator[Route]:
    used: dict[tuple[str, str], set[Prefix]] = defaultdict(set)  # by whichever tunnel: a spare route is needed, too
    for (gateway_id, subnet_id, _), some in by_place.items():
        used[gateway_id, subnet_id].update(leg.prefix for leg in some)
    for route in design.routes if by_place else ():
        if route.tunnel_id is None or route.prefix.length == 0:
            continue  # the default route is for whatever nobody thought of
        if not any(route.prefix.overlaps(prefix) for prefix in used[route.gateway_id, route.network_id or ""]):
            yield route


def _without_use(route: Route) -> NeededRoute:
    return NeededRoute(
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
    for needed_route in needed:
        if needed_route.state is State.MISSING:
            yield new_route(
                design, taken, needed_route.gateway_id, needed_route.prefix, needed_route.tunnel_id, needed_route.subnet_id
            )
