"""What each gateway decides by, ready to be asked: its rules, its routes in their order, its tunnels and filters."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date
from enum import IntEnum
from functools import cached_property
from typing import Final, NamedTuple, TypeVar

import numpy as np

from pontifex.core.addressing import Address, AddressSet, Family, Prefix, Selector
from pontifex.core.addressing.prefix_map import PrefixMap
from pontifex.core.addressing.selector import ANY_PORT
from pontifex.core.ipsec.overhead import Overhead
from pontifex.core.kinds import (
    SIDES,
    Filter,
    Gateway,
    Network,
    NetworkRole,
    Outranking,
    Route,
    RouteOrigin,
    Rule,
    Side,
    SiteKind,
    Translation,
    Tunnel,
    Uplink,
)
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.matching import TunnelEnds
from pontifex.core.matching.inner import tunnel_overhead
from pontifex.core.model import Design
from pontifex.core.routing.tables.chains import Chains
from pontifex.core.routing.tables.cloud_rules import CloudRules

DEFAULT_LENGTH: Final = -1  # of the way out by an uplink where no route says anything else

_Value = TypeVar("_Value")

_EVERYTHING: Final = tuple(Selector(family, 0, family.last) for family in Family)


class Origin(IntEnum):
    """Where an entry comes from. Of entries for one length the lowest origin is taken."""

    CONNECTED = 0
    POLICY = 1  # the networks of a policy-based tunnel
    STATIC = 2
    LEARNT = 3
    DEFAULT = 4


class TableEntry(NamedTuple):
    """One way that a gateway knows to some addresses."""

    to: Selector
    length: int  # of its prefix, in bits; the longest decides
    origin: Origin
    metric: int
    network: Network | None = None  # CONNECTED
    tunnel: Tunnel | None = None
    side: Side | None = None  # of the gateway, in the tunnel
    uplink: Uplink | None = None
    via: Address | None = None
    sources: tuple[Selector, ...] = ()  # POLICY: what the gateway's end names on its own side; empty for all

    @property
    def rank(self) -> tuple[int, int, int]:
        """Sort key: what is asked first comes first."""
        return -self.length, self.origin, self.metric


@dataclass(frozen=True, slots=True)
class ResolvedRule:
    """A rule with all that it names as addresses. None stands for all, an empty list for nothing that is known."""

    rule: Rule
    sources: tuple[Prefix, ...] | None
    destinations: tuple[Selector, ...] | None
    classes: frozenset[int] | None
    marks: int | None


class GatewayTable:
    """What one gateway decides by."""

    def __init__(self, tables: Tables, gateway: Gateway) -> None:
        self._tables = tables
        self.gateway = gateway
        design = tables.design
        self.site = design.site_by_id[gateway.site_id]
        self.networks = tuple(network for network in design.networks_of_site(gateway.site_id) if not network.zone)
        self.tunnels: tuple[tuple[Tunnel, Side], ...] = design.ends_of_gateway(gateway.id)
        self.translations: tuple[Translation, ...] = tuple(tables.translations_of.get(gateway.id, ()))
        self.filters: tuple[Filter, ...] = tuple(tables.filters_of.get(gateway.id, ()))
        rules = sorted(tables.rules_of.get(gateway.id, ()), key=lambda rule: (rule.position, rule.id))
        self.clauses = tuple(clause_of(design, rule) for rule in rules)

    @cached_property
    def entries(self) -> tuple[TableEntry, ...]:
        """All ways of the gateway, those first that are asked first."""
        found = [*self._connected(), *self._policies(), *self._routes(), *self._defaults()]
        return tuple(sorted(found, key=lambda policy: policy.rank))

    @cached_property
    def by_prefix(self) -> PrefixMap[tuple[int, TableEntry]]:
        """The entries with their places in the order, under the prefixes that they are for."""
        return under_prefixes((entry.to, (place, entry)) for place, entry in enumerate(self.entries))

    def side_of(self, tunnel: Tunnel) -> Side | None:
        """Return the side of a tunnel at which the gateway stands."""
        return next((side for side in SIDES if tunnel.end(side).gateway_id == self.gateway.id), None)

    def outranks(self, entry: TableEntry) -> bool:
        """Whether an entry is asked before any rule."""
        if self.gateway.outranking is Outranking.CONNECTED:
            return entry.origin is Origin.CONNECTED
        return self.gateway.outranking is Outranking.SPECIFIC and entry.length > 0

    def _connected(self) -> Iterator[TableEntry]:
        for network in self.networks:
            yield TableEntry(Selector.of(network.prefix), network.prefix.length, Origin.CONNECTED, 0, network=network)
        for tunnel, side in self.tunnels:
            inner = tunnel.end(side).inner_address
            if inner:
                yield TableEntry(Selector.of(inner.prefix), inner.prefix.length, Origin.CONNECTED, 0, tunnel=tunnel, side=side)

    def _policies(self) -> Iterator[TableEntry]:
        for tunnel, side in self.tunnels:
            end = tunnel.end(side)
            if end.goes_by_routes:
                continue
            for network in end.remote_networks:
                length = network.family.bits - (network.last - network.first + 1).bit_length() + 1
                yield TableEntry(network, length, Origin.POLICY, 0, tunnel=tunnel, side=side, sources=end.local_networks)

    def _routes(self) -> Iterator[TableEntry]:
        for route in self._tables.routes_of.get(self.gateway.id, ()):
            if route.network_id is None:
                yield route_entry(self._tables, self.gateway, route)

    def _defaults(self) -> Iterator[TableEntry]:
        for uplink in self._tables.uplinks_of.get(self.gateway.id, ()):
            for everything in _EVERYTHING:
                yield TableEntry(everything, DEFAULT_LENGTH, Origin.DEFAULT, uplink.preference, uplink=uplink)


def prefixes_of(selector: Selector) -> Iterable[Prefix]:
    """Return the prefixes that make up the addresses of a selector."""
    whole = selector.prefix
    if whole:
        return (whole,)
    ranges = np.array([selector.first], dtype=object), np.array([selector.last], dtype=object)
    return AddressSet.of_ranges(selector.family, *ranges).prefixes()


def under_prefixes(items: Iterable[tuple[Selector, _Value]]) -> PrefixMap[_Value]:
    """Return values under the prefixes that make up the addresses of selectors."""
    return PrefixMap(_blocks(items))


def _blocks(items: Iterable[tuple[Selector, _Value]]) -> Iterator[tuple[Family, int, int, _Value]]:
    for selector, value in items:
        length = selector.length
        if length is not None:  # as nearly all are: most gateways name prefixes
            yield selector.family, length, selector.first, value
            continue
        for prefix in prefixes_of(selector):
            yield prefix.family, prefix.length, prefix.network, value


def route_entry(tables: Tables, gateway: Gateway, route: Route) -> TableEntry:
    """Return a route as an entry. One into a tunnel that doesn't end at the gateway has no side, and can't be used.

    A next hop that is an inner address of a tunnel leads into that tunnel.
    """
    design = tables.design
    tunnel = design.tunnel_by_id[route.tunnel_id] if route.tunnel_id else None
    side = next((side for side in SIDES if tunnel and tunnel.end(side).gateway_id == gateway.id), None)
    if route.via:
        tunnel, side = tables.by_inner_address(gateway, route.via)
    return TableEntry(
        Selector.of(route.prefix),
        route.prefix.length,
        Origin.STATIC if route.origin is RouteOrigin.STATIC else Origin.LEARNT,
        route.metric,
        tunnel=tunnel,
        side=side,
        uplink=design.uplink_by_id[route.uplink_id] if route.uplink_id else None,
        via=route.via,
    )


def clause_of(design: Design, rule: Rule) -> ResolvedRule:
    """Return a rule with its members, names and region as addresses."""
    sources = [*rule.sources, *(prefix for member in rule.source_members for prefix in design.member_prefixes(member))]
    destinations = [
        *rule.destinations,
        *(Selector.of(prefix) for member in rule.destination_members for prefix in design.member_prefixes(member)),
        *(Selector.of(Prefix.of_address(host.address)) for name in rule.destination_names for host in design.hosts_named(name)),
        *(Selector.of(network.prefix) for network in _in_region(design, rule.region)),
    ]
    limited = rule.destinations or rule.destination_members or rule.destination_names or rule.region
    return ResolvedRule(
        rule,
        tuple(sources) if rule.sources or rule.source_members else None,
        tuple(destinations) if limited else None,
        frozenset(map(parse_dscp, rule.dscp)) if rule.dscp else None,
        parse_dscp(rule.marks) if rule.marks else None,
    )


def _in_region(design: Design, region: str) -> Iterator[Network]:
    for site in design.sites if region else ():
        if site.region.casefold() == region.casefold():
            yield from (network for network in design.networks_of_site(site.id) if not network.zone)


class Tables:
    """The tables of all gateways of a design, each made when it is first asked for."""

    def __init__(self, design: Design) -> None:
        self.design = design
        self.rules_of = _by_gateway(design.rules)
        self.routes_of = _by_gateway(design.routes)
        self.filters_of = _by_gateway(design.filters)
        self.translations_of = _by_gateway(design.translations)
        self.uplinks_of = _by_gateway(design.uplinks)
        self.subnet_routes: dict[str, list[Route]] = defaultdict(list)
        for route in design.routes:
            if route.network_id:
                self.subnet_routes[route.network_id].append(route)
        self.bounds: dict[Family, list[int]] = {}  # where decisions may change, once they are asked for
        self._made: dict[str, GatewayTable] = {}
        self._inner_mtus: dict[str, int | None] = {}
        self._overheads: dict[str, Overhead | None] = {}

    def of(self, gateway: Gateway) -> GatewayTable:
        """Return the table of a gateway."""
        found = self._made.get(gateway.id)
        if found is None:
            found = self._made[gateway.id] = GatewayTable(self, gateway)
        return found

    @cached_property
    def chains(self) -> Chains:
        """The tunnels that lead from site to site."""
        return Chains(self.design)

    @cached_property
    def cloud_rules(self) -> CloudRules:
        """What clouds let into and out of their subnets and hosts."""
        return CloudRules(self.design)

    @cached_property
    def within(self) -> dict[str, tuple[Network, ...]]:
        """The networks that lie within each network of their site, and stand on wires of their own.

        Hosts look for their addresses on their own wire, where nobody answers. Pools aside: the gateway answers for those; so
        does a cloud, which has no wires.
        """
        found: dict[str, list[Network]] = defaultdict(list)
        for site in self.design.sites:
            if site.kind is SiteKind.CLOUD:
                continue
            around: list[Network] = []
            for network in sorted(self.design.networks_of_site(site.id), key=lambda candidate: (candidate.prefix, candidate.id)):
                while around and not around[-1].prefix.contains(network.prefix):
                    around.pop()
                for outer in around:
                    if network.role is not NetworkRole.POOL and outer.prefix != network.prefix:
                        found[outer.id].append(network)
                around.append(network)
        return {id_: tuple(inner) for id_, inner in found.items()}

    @cached_property
    def ports_matter(self) -> bool:
        """Whether a rule or a tunnel asks for ports: then answers may go another way than requests would."""
        ends = [tunnel.end(side) for tunnel in self.design.tunnels for side in SIDES]
        named = [selector for end in ends for selector in (*end.local_networks, *end.remote_networks)]
        named += [destination for rule in self.design.rules for destination in rule.destinations]
        return any(selector.ports != ANY_PORT for selector in named)

    def narrowest(self, meant: Network, address: Address) -> Network:
        """Return the narrowest network at a network's site that holds an address; of twins the one that is meant."""
        holding = [
            network
            for network in self.design.network_map.holding(address)
            if network.site_id == meant.site_id and not network.zone
        ]
        return max(holding, key=lambda candidate: (candidate.prefix.length, candidate is meant), default=meant)

    def overhead(self, tunnel: Tunnel) -> Overhead | None:
        """Return what a tunnel puts around packets; None where that isn't known."""
        if tunnel.id not in self._overheads:
            self._overheads[tunnel.id] = tunnel_overhead(TunnelEnds(self.design, tunnel, date.min))  # no day plays a part in it
        return self._overheads[tunnel.id]

    def inner_mtu(self, tunnel: Tunnel) -> int | None:
        """Return the largest packet that a tunnel takes: as its ends have it, or as the path leaves it; None where not known."""
        if tunnel.id not in self._inner_mtus:
            cost = self.overhead(tunnel)
            known = [tunnel.left.inner_mtu, tunnel.right.inner_mtu, cost.inner_mtu if cost else None]
            self._inner_mtus[tunnel.id] = min((number for number in known if number), default=None)
        return self._inner_mtus[tunnel.id]

    def by_inner_address(self, gateway: Gateway, via: Address) -> tuple[Tunnel | None, Side | None]:
        """Return the tunnel of a gateway, and its side there, beyond which an inner address is; None for any other address."""
        for tunnel, side in self.design.ends_of_gateway(gateway.id):
            near, far = tunnel.end(side).inner_address, tunnel.end(side.other).inner_address
            if (far and far.address == via) or (near and near.address != via and near.prefix.holds(via)):
                return tunnel, side
        return None, None

    @cached_property
    def outside_addresses(self) -> frozenset[Address]:
        """The uplinks' addresses, as the outside sees them: what goes there is meant to leave."""
        return frozenset(uplink.address for uplink in self.design.uplinks if uplink.address)

    @cached_property
    def _owners(self) -> dict[Address, list[Gateway]]:
        """Whose own address each is: inside and inner addresses, public ones of uplinks, and what hosts have as their router."""
        inner: dict[str, list[Address]] = defaultdict(list)
        for end in (end for tunnel in self.design.tunnels for end in (tunnel.left, tunnel.right)):
            if end.inner_address:
                inner[end.gateway_id].append(end.inner_address.address)
        found: dict[Address, list[Gateway]] = defaultdict(list)
        for gateway in self.design.gateways:
            own = [gateway.inside_address]
            own += [uplink.address for uplink in self.uplinks_of.get(gateway.id, ()) if uplink.address and not uplink.behind_nat]
            own += inner.get(gateway.id, ())
            if gateway.default_router and (not gateway.inside_address or self._routes_alone(gateway)):
                own += [network.gateway_address for network in self.design.networks_of_site(gateway.site_id) if not network.zone]
            for address in dict.fromkeys(own):
                if address:
                    found[address].append(gateway)
        return found

    def _routes_alone(self, gateway: Gateway) -> bool:
        """Whether no other gateway of its site is the router of hosts."""
        beside = self.design.gateways_of_site(gateway.site_id)
        return not any(candidate.default_router for candidate in beside if candidate is not gateway)

    def is_own(self, gateway: Gateway, address: Address) -> bool:
        """Whether an address is one of a gateway's own."""
        return any(owner.id == gateway.id for owner in self._owners.get(address, ()))

    def owner(self, address: Address, site_id: str | None) -> Gateway | None:
        """Return the gateway whose own address it is, at a site where one is named."""
        owners = self._owners.get(address, ())
        return next((gateway for gateway in owners if site_id in (None, gateway.site_id)), None)

    def at_address(self, site_id: str, address: Address) -> Gateway | None:
        """Return the gateway of a site that hosts and routers find at an address: its own, or a network's gateway address."""
        gateways = self.design.gateways_of_site(site_id)
        own = next((gateway for gateway in gateways if gateway.inside_address == address), None)
        if own:
            return own
        named = any(network.gateway_address == address for network in self.design.networks_of_site(site_id))
        return (
            next((gateway for gateway in gateways if gateway.default_router and not gateway.inside_address), None)
            if named
            else None
        )


_OfGateway = TypeVar("_OfGateway", Rule, Route, Filter, Translation, Uplink)


def _by_gateway(items: Iterable[_OfGateway]) -> dict[str, list[_OfGateway]]:
    found: dict[str, list[_OfGateway]] = defaultdict(list)
    for item in items:
        found[item.gateway_id].append(item)
    return found
