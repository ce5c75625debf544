"""Findings about routes that nothing needs, or that lead nowhere, and tunnels into which none leads."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from functools import partial

from pontifex.core.addressing import AddressSet, Family, Prefix
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import SIDES, ObjectType, Route, Site, Tunnel
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Remove, new_route, put
from pontifex.core.reasons import named, paths
from pontifex.core.routing.tables.tables import Origin, TableEntry, Tables, route_entry
from pontifex.core.routing.wanted.generate import unneeded
from pontifex.core.routing.wanted.intents import IntentTraces


def unneeded_routes(tables: Tables, wanted: IntentTraces) -> Iterator[Remark]:
    """Yield routes that no intent needs."""
    for route in unneeded(tables, wanted.blocks):
        why = paths.RouteUnneeded(route.prefix, named(tables.design.tunnel_by_id[route.tunnel_id or ""]))
        yield remark(Code.ROUTE_UNNEEDED, (_route_place(route),), why, partial(_removed, route))


def idle_routes(tables: Tables) -> Iterator[Remark]:
    """Yield routes that lead nowhere, and those that a wider one makes superfluous."""
    design = tables.design
    alike: dict[tuple[str, Prefix], list[Route]] = defaultdict(list)
    for route in design.routes:
        if route.network_id is None:
            alike[route.gateway_id, route.prefix].append(route)
    for route in design.routes:
        gateway = design.gateway_by_id[route.gateway_id]
        entry = route_entry(tables, gateway, route)
        if entry.tunnel and entry.side is None:
            nowhere = paths.TunnelEndsElsewhere(named(gateway), route.prefix, named(entry.tunnel))
            yield remark(Code.ROUTE_BLACK_HOLE, (_route_place(route),), nowhere, partial(_removed, route))
        elif entry.uplink and entry.uplink.gateway_id != gateway.id:
            elsewhere = paths.UplinkElsewhere(named(gateway), route.prefix, named(entry.uplink))
            yield remark(Code.ROUTE_BLACK_HOLE, (_route_place(route),), elsewhere, partial(_removed, route))
        elif (
            entry.via
            and not entry.tunnel
            and not any(network.prefix.holds(entry.via) for network in design.networks_of_site(gateway.site_id))
        ):
            next_hop = paths.NextHopNowhere(named(gateway), route.prefix, entry.via)
            yield remark(Code.ROUTE_NEXT_HOP, (_route_place(route),), next_hop, partial(_removed, route))
        elif route.network_id is None:
            wider = _made_superfluous(tables, route, entry, alike[gateway.id, route.prefix])
            if wider:
                why = paths.RouteSuperfluous(named(gateway), str(wider.to), route.prefix)
                yield remark(Code.ROUTE_SUPERFLUOUS, (_route_place(route),), why, partial(_removed, route))


def unused_tunnels(design: Design) -> Iterator[Remark]:
    """Yield tunnels into which routes ought to lead, and none does."""
    led = {(route.gateway_id, route.tunnel_id) for route in design.routes}
    led |= {(rule.gateway_id, path.id) for rule in design.rules for path in rule.paths}
    for tunnel in design.tunnels:
        for side in SIDES:
            near, far_end = tunnel.facing(side)
            if not near.goes_by_routes or (near.gateway_id, tunnel.id) in led:
                continue
            far = design.site_of(far_end)
            why = paths.NothingLeadsInto(named(design.gateway_by_id[near.gateway_id]), named(tunnel))
            place = Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field=f"{side.value}/mode")
            yield remark(Code.ROUTE_NONE_INTO_TUNNEL, (place,), why, partial(_led_to, design, near.gateway_id, tunnel, far))


def _led_to(design: Design, gateway_id: str, tunnel: Tunnel, far: Site) -> Iterator[Remedy]:
    """Yield the fewest routes that lead from a gateway into a tunnel to the networks of its far site."""
    prefixes = [network.prefix for network in design.networks_of_site(far.id) if not network.zone]
    wanted = [prefix for family in Family for prefix in AddressSet.of(prefixes, family).prefixes()]
    taken = {route.id for route in design.routes}
    routes = [new_route(design, taken, gateway_id, prefix, tunnel.id, None) for prefix in wanted]
    title = f"Add {len(routes)} route{'s' if len(routes) > 1 else ''} to {far.name}'s networks"
    if routes:
        yield Remedy(title=title, operations=tuple(map(put, routes)))


def _made_superfluous(tables: Tables, route: Route, entry: TableEntry, same: list[Route]) -> TableEntry | None:
    """Return the way that would be taken without a route, where it is the same one; of two equal routes the later goes."""
    if any(other.id < route.id and _same_hop(route, other) for other in same):
        return entry
    if len(same) > 1:
        return None
    around = tables.of(tables.design.gateway_by_id[route.gateway_id]).by_prefix.holding_value(entry.to.family, entry.to.first)
    others = sorted((placed for placed in around if placed[1].length < entry.length), key=lambda placed: placed[0])
    if not others:
        return None
    next_ = others[0][1]
    alike = (next_.tunnel, next_.uplink, next_.via) == (entry.tunnel, entry.uplink, entry.via)
    return next_ if alike and next_.origin in (Origin.STATIC, Origin.LEARNT) else None


def _same_hop(one: Route, other: Route) -> bool:
    return (one.tunnel_id, one.uplink_id, one.via) == (other.tunnel_id, other.uplink_id, other.via)


def _removed(route: Route) -> Iterator[Remedy]:
    yield Remedy(title=f"Remove the route {route.prefix}", operations=(Remove(type=ObjectType.ROUTE, id=route.id),))


def _route_place(route: Route) -> Place:
    return Place(type=ObjectType.ROUTE, id=route.id, name=route.name or str(route.prefix), field="prefix")
