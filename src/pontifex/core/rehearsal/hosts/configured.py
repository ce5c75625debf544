"""What one gateway has been configured with for the packets of hosts. Building it is the only place that sees the design."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum, IntEnum

from pontifex.core.addressing import Address, Prefix, Region, Selector
from pontifex.core.kinds import (
    Filter,
    Gateway,
    Network,
    OnFailure,
    Outranking,
    Role,
    RouteOrigin,
    Rule,
    Side,
    Translation,
    Tunnel,
    TunnelEnd,
)
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design
from pontifex.core.routing.links.quality import exceeded, path_quality


class Into(Enum):
    """Where a gateway sends a packet."""

    LAN = "lan"
    TUNNEL = "tunnel"
    UPLINK = "uplink"


class Preference(IntEnum):
    """Of ways to one prefix the lowest is taken (RFC 1812 section 5.2.4.3)."""

    CONNECTED = 0
    STATIC = 1
    LEARNT = 2


@dataclass(frozen=True, slots=True)
class OwnRoute:
    """A way to a prefix."""

    to: Prefix
    into: Into
    preference: Preference
    metric: int = 0


@dataclass(frozen=True, slots=True)
class OwnRule:
    """A policy rule, about the tunnel or about nothing but marking. Empty sources, destinations and classes stand for all."""

    sources: tuple[Prefix, ...]
    destinations: tuple[Selector, ...]
    classes: tuple[int, ...]
    marks: int | None
    by_tunnel: bool  # it leads into the tunnel, whose quality is good enough for it
    holds: bool


@dataclass(frozen=True, slots=True)
class OwnHosts:
    """What the hosts of a network have been told: who their router is, and for what."""

    prefix: Prefix
    resolvers: tuple[Address, ...]
    router: Address | None  # of the gateway, as the hosts know it
    is_default: bool  # they send to it whatever they know nothing else for
    told: tuple[tuple[Prefix, bool], ...]  # routes by DHCP, and whether each leads to the gateway


@dataclass(frozen=True, slots=True)
class OwnForwarding:
    """What one gateway forwards by."""

    name: str
    forwards: bool
    keeps_state: bool
    outranking: Outranking
    addresses: frozenset[Address]  # its own
    hosts: tuple[OwnHosts, ...]  # of its site's networks
    inside_tunnel: Address | None  # from which it answers what comes by the tunnel
    by_networks: bool  # the tunnel's networks take what they name, before any route (RFC 4301 section 4.4.1)
    calls_on_traffic: bool
    local: Region
    remote: Region
    routes: tuple[OwnRoute, ...]
    rules: tuple[OwnRule, ...]
    filters: tuple[Filter, ...]
    translations: tuple[Translation, ...]


def own_forwarding(design: Design, tunnel: Tunnel, side: Side) -> OwnForwarding:
    """Return what the gateway of a side has; `design` has this tunnel alone."""
    end = tunnel.end(side)
    gateway = design.gateway_by_id[end.gateway_id]
    networks = [network for network in design.networks_of_site(gateway.site_id) if not network.zone]
    rules = sorted((rule for rule in design.rules if rule.gateway_id == gateway.id), key=lambda rule: (rule.position, rule.id))
    return OwnForwarding(
        name=gateway.name,
        forwards=gateway.forwarding,
        keeps_state=gateway.keeps_state,
        outranking=gateway.outranking,
        addresses=frozenset(_addresses(design, tunnel, side, networks)),
        hosts=tuple(_hosts(gateway, network) for network in networks),
        inside_tunnel=_inside_tunnel(gateway, end, networks),
        by_networks=not end.goes_by_routes,
        calls_on_traffic=end.role is Role.ON_TRAFFIC,
        local=end.local_networks,
        remote=end.remote_networks,
        routes=tuple(_routes(design, tunnel, side, networks)),
        rules=tuple(_rule(design, rule) for rule in rules),
        filters=tuple(candidate for candidate in design.filters if candidate.gateway_id == gateway.id),
        translations=tuple(translation for translation in design.translations if translation.gateway_id == gateway.id),
    )


def _addresses(design: Design, tunnel: Tunnel, side: Side, networks: list[Network]) -> Iterator[Address]:
    """Yield the gateway's own addresses: inside, outside where no NAT has that one, in the tunnel, and as the hosts' router."""
    end = tunnel.end(side)
    gateway, uplink = design.gateway_by_id[end.gateway_id], design.uplink_of(end)
    if gateway.inside_address:
        yield gateway.inside_address
    if uplink and uplink.address and not uplink.behind_nat:
        yield uplink.address
    if end.inner_address:
        yield end.inner_address.address
    if gateway.default_router:
        yield from (network.gateway_address for network in networks if network.gateway_address)


def _inside_tunnel(gateway: Gateway, end: TunnelEnd, networks: list[Network]) -> Address | None:
    """Return the address from which a gateway answers what comes by the tunnel: one that the tunnel's networks name."""
    inner = end.inner_address.address if end.inner_address else None
    own = [address for address in (inner, gateway.inside_address, *(network.gateway_address for network in networks)) if address]
    named = (address for address in own if any(selector.holds(address) for selector in end.local_networks))
    return next(named, own[0] if own else None)


def _hosts(gateway: Gateway, network: Network) -> OwnHosts:
    router = gateway.inside_address
    if router is None or not network.prefix.holds(router):
        router = network.gateway_address if gateway.default_router else None
    return OwnHosts(
        prefix=network.prefix,
        resolvers=network.resolvers,
        router=router,
        is_default=gateway.default_router,
        told=tuple((route.prefix, _is_at(gateway, network, route.via)) for route in network.dhcp_routes),
    )


def _is_at(gateway: Gateway, network: Network, via: Address) -> bool:
    """Whether hosts find a gateway at an address of their network."""
    if not network.prefix.holds(via):
        return False
    named = gateway.default_router and not gateway.inside_address and network.gateway_address == via
    return gateway.inside_address == via or named


def _routes(design: Design, tunnel: Tunnel, side: Side, networks: list[Network]) -> Iterator[OwnRoute]:
    end = tunnel.end(side)
    for network in networks:
        yield OwnRoute(network.prefix, Into.LAN, Preference.CONNECTED)
    if end.inner_address:
        yield OwnRoute(end.inner_address.prefix, Into.TUNNEL, Preference.CONNECTED)
    for route in design.routes:
        if route.gateway_id == end.gateway_id and route.network_id is None:
            preference = Preference.STATIC if route.origin is RouteOrigin.STATIC else Preference.LEARNT
            yield OwnRoute(route.prefix, Into.TUNNEL, preference, route.metric)


def _rule(design: Design, rule: Rule) -> OwnRule:
    return OwnRule(
        sources=rule.sources,
        destinations=rule.destinations,
        classes=tuple(map(parse_dscp, rule.dscp)),
        marks=parse_dscp(rule.marks) if rule.marks else None,
        by_tunnel=any(not exceeded(path, path_quality(design, path, {})) for path in rule.paths),
        holds=rule.on_failure is OnFailure.HOLD,
    )
