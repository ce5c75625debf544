"""The change that leads what is wanted there and back, as far as routes and networks decide it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace
from typing import Final, TypeVar

from pontifex.core.addressing import Address, Family, Prefix, Selector
from pontifex.core.addressing.dhcp_routes import DhcpRoute
from pontifex.core.kinds import DesignMember, Gateway, Tunnel
from pontifex.core.model import new_route
from pontifex.core.routing.tables.chains import Crossing
from pontifex.core.routing.tables.first_hop import first_hop
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import DecisionKind, decide
from pontifex.core.routing.trace.flow import Conditions, Flow
from pontifex.core.routing.wanted.blocks import WantedBlock, WantedFlow
from pontifex.core.routing.wanted.generate import RoutePlace, legs, there

_ALL_UP: Final = Conditions()
_Member = TypeVar("_Member", bound=DesignMember)


def mended(tables: Tables, wanted: Iterable[WantedFlow]) -> tuple[DesignMember, ...]:
    """Return the objects to put so that what is wanted goes there and comes back, as far as routes and networks decide it."""
    mending = _Mending(tables)
    for want in wanted:
        mending.lead(want.block)
        mending.lead(want.block.answer)
    return tuple(mending.changed.values())


class _Mending:
    """Objects that are changed one after the other, each as the one before has left it."""

    def __init__(self, tables: Tables) -> None:
        self._tables, self._design = tables, tables.design
        self.changed: dict[tuple[type, str], DesignMember] = {}
        self._taken = {route.id for route in tables.design.routes}
        self._led: dict[RoutePlace, list[Prefix]] = defaultdict(list)  # by the routes that are made

    def lead(self, way: WantedBlock) -> None:
        """Lead one source to one destination."""
        chain = self._tables.chains.chain(*way.sites)
        if chain and not way.sources[0].network.own_table:
            self._find_gateway(way, self._design.gateway_by_id[chain[0].near.gateway_id])
        for leg in legs(self._tables, way):
            if not self._is_led(leg.place, leg.prefix) and not there(self._tables, leg):
                self._route(leg.place, leg.prefix)
        for crossing in chain:
            for gateway_id in (crossing.near.gateway_id, crossing.far.gateway_id):
                gateway = self._now(self._design.gateway_by_id[gateway_id])
                if not gateway.forwarding:
                    self._put(gateway.changed(forwarding=True))
            tunnel = self._now(crossing.tunnel)
            named = _naming(tunnel, crossing, way.sources[0].prefix, way.destinations[0].prefix)
            if named is not tunnel:
                self._put(named)

    def _find_gateway(self, way: WantedBlock, gateway: Gateway) -> None:
        """Let the hosts of a network find the gateway of the first tunnel, where they use another router."""
        source, end = way.sources[0].network, way.destinations[0].prefix
        flow = way.at(0, 0).flow
        decision = first_hop(self._tables, source, flow.destination, _ALL_UP)
        is_router = decision.kind is DecisionKind.ROUTER
        if is_router and (decision.gateway is gateway or self._leads_to(decision.gateway, flow, gateway)):
            return
        inside = gateway.inside_address
        if inside and is_router and decision.gateway:
            place = decision.gateway.id, "", ""
            if not self._is_led(place, end):
                self._route(place, end, inside)
        elif inside and inside.family is Family.V4 and source.prefix.holds(inside):
            network = self._now(source)
            if not any(route.prefix.contains(end) for route in network.dhcp_routes[len(source.dhcp_routes) :]):
                self._put(network.changed(dhcp_routes=(*network.dhcp_routes, DhcpRoute(end, inside))))
        elif not any(self._now(router).default_router for router in self._tables.design.gateways_of_site(source.site_id)):
            self._put(gateway.changed(default_router=True))

    def _leads_to(self, router: Gateway | None, flow: Flow, gateway: Gateway) -> bool:
        """Whether a site's router passes on to the gateway of a tunnel."""
        return router is not None and decide(self._tables, router, flow, _ALL_UP).gateway is gateway

    def _is_led(self, place: RoutePlace, prefix: Prefix) -> bool:
        return any(led.contains(prefix) for led in self._led[place])

    def _route(self, place: RoutePlace, prefix: Prefix, via: Address | None = None) -> None:
        gateway_id, subnet_id, tunnel_id = place
        self._led[place].append(prefix)
        self._put(new_route(self._design, self._taken, gateway_id, prefix, tunnel_id or None, subnet_id or None, via))

    def _now(self, item: _Member) -> _Member:
        """Return an object as it is changed so far."""
        changed = self.changed.get((type(item), item.id), item)
        assert isinstance(changed, type(item))
        return changed

    def _put(self, item: DesignMember) -> None:
        self.changed[type(item), item.id] = item


def _naming(tunnel: Tunnel, crossing: Crossing, begin: Prefix, end: Prefix) -> Tunnel:
    """Return a tunnel whose two ends name what is to go through it, where they name anything."""
    sides = ((crossing.side, "local_networks", "remote_networks"), (crossing.side.other, "remote_networks", "local_networks"))
    for side, for_source, for_target in sides:
        for field, prefix in ((for_source, begin), (for_target, end)):
            named: tuple[Selector, ...] = getattr(tunnel.end(side), field)
            wanted = Selector.of(prefix)
            if named and not any(
                replace(selector, protocols=wanted.protocols, ports=wanted.ports).contains(wanted) for selector in named
            ):
                tunnel = tunnel.with_field(side, field, (*named, wanted))
    return tunnel
