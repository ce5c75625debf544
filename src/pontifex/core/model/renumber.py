"""Moving a network to another prefix, with everything in the design that names it.

What names the network, or a part of it, moves along. What names more than the network (a summary) keeps what it names
and gets the new prefix beside it. Where two networks share a prefix, only what certainly means this one is touched.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from pontifex.core.addressing import Address, AddressRange, Prefix, Selector
from pontifex.core.kinds import (
    SIDES,
    CloudRule,
    Filter,
    Gateway,
    Host,
    Network,
    PathType,
    Profile,
    Route,
    Rule,
    Side,
    TranslatedSide,
    Translation,
    Tunnel,
)
from pontifex.core.model.design import Design, DesignObject


@dataclass(frozen=True)
class Move:
    """A network of a design, and the prefix of its family and length that it goes to."""

    design: Design
    network: Network
    target: Prefix

    @property
    def shift(self) -> int:
        """By how many addresses everything moves."""
        return self.target.network - self.network.prefix.network

    def objects(self) -> Iterator[DesignObject]:
        """Yield every object that changes, as it is afterwards: the network first, then all that names it."""
        yield self._network()
        yield from self._told_elsewhere()
        yield from self._hosts()
        yield from self._tunnels()
        yield from self._routes()
        yield from self._gateways()
        yield from self._rules()
        yield from self._filters()
        yield from self._cloud_rules()
        yield from self._profiles()
        yield from self._translations()

    def _network(self) -> Network:
        network = self.network
        address = network.gateway_address
        return network.changed(
            prefix=self.target,
            gateway_address=address and self.address(address),
            dhcp_ranges=tuple(map(self._range, network.dhcp_ranges)),
            reserved_ranges=tuple(map(self._range, network.reserved_ranges)),
            resolvers=tuple(map(self.address, network.resolvers)),
            dhcp_routes=tuple(replace(route, via=self.address(route.via)) for route in network.dhcp_routes),
        )

    def _told_elsewhere(self) -> Iterator[Network]:
        """Networks whose hosts are told routes to this one."""
        for network in self.design.networks:
            if network.id == self.network.id or not self._means_this(network.site_id == self.network.site_id, set()):
                continue
            told = tuple(replace(route, prefix=self.prefix(route.prefix)) for route in network.dhcp_routes)
            if told != network.dhcp_routes:
                yield network.changed(dhcp_routes=told)

    def _hosts(self) -> Iterator[Host]:
        for host in self.design.hosts_of_network(self.network.id):
            moved = self.address(host.address)
            if moved != host.address:
                yield host.changed(address=moved)

    def _tunnels(self) -> Iterator[Tunnel]:
        for tunnel in self.design.tunnels:
            moved = tunnel
            for side in SIDES:
                if self.design.site_of(tunnel.end(side)).id == self.network.site_id:
                    moved = self._with_selectors(moved, side)
            if moved is not tunnel:
                yield moved

    def _with_selectors(self, tunnel: Tunnel, side: Side) -> Tunnel:
        for end, field in ((side, "local_networks"), (side.other, "remote_networks")):
            selectors: tuple[Selector, ...] = getattr(tunnel.end(end), field)
            moved = self._selectors(selectors)
            if moved != selectors:
                tunnel = tunnel.with_field(end, field, moved)
        return tunnel

    def _routes(self) -> Iterator[Route]:
        taken = {route.id for route in self.design.routes}
        for route in self.design.routes:
            at_site = self.design.gateway_by_id[route.gateway_id].site_id == self.network.site_id
            fields: dict[str, Prefix | Address] = {}
            if at_site and route.via and self.network.prefix.holds(route.via):
                fields["via"] = self.address(route.via)
            if self._means_this(at_site, {route.tunnel_id} - {None}):
                if self.network.prefix.contains(route.prefix):
                    fields["prefix"] = self.prefix(route.prefix)
                elif self._summarises(route.prefix) and not self._reached_otherwise(route):
                    new_id = next(id_ for k in range(2, 10_000) if (id_ := f"{route.id[:58]}-{k}") not in taken)
                    taken.add(new_id)
                    yield route.with_valid({"id": new_id, "name": "", "prefix": self.target} | fields)
            if fields:
                yield route.with_valid(fields)

    def _reached_otherwise(self, route: Route) -> bool:
        """Whether a route of the same gateway and next hop leads to the target already."""
        hop = (route.gateway_id, route.via, route.tunnel_id, route.uplink_id)
        return any(
            (other.gateway_id, other.via, other.tunnel_id, other.uplink_id) == hop and other.prefix.contains(self.target)
            for other in self.design.routes
        )

    def _gateways(self) -> Iterator[Gateway]:
        for gateway in self.design.gateways:
            inside = gateway.inside_address
            if gateway.site_id == self.network.site_id and inside and self.network.prefix.holds(inside):
                yield gateway.changed(inside_address=self.address(inside))

    def _filters(self) -> Iterator[Filter]:
        for held in self.design.filters:
            at_site = self.design.gateway_by_id[held.gateway_id].site_id == self.network.site_id
            if not self._means_this(at_site, set()):
                continue
            sources, destinations = self._prefixes(held.sources), self._selectors(held.destinations)
            if (sources, destinations) != (held.sources, held.destinations):
                yield held.changed(sources=sources, destinations=destinations)

    def _cloud_rules(self) -> Iterator[CloudRule]:
        for rule in self.design.cloud_rules:
            if self._means_this(rule.site_id == self.network.site_id, set()):
                far = self._prefixes(rule.far)
                if far != rule.far:
                    yield rule.changed(far=far)

    def _rules(self) -> Iterator[Rule]:
        for rule in self.design.rules:
            at_site = self.design.gateway_by_id[rule.gateway_id].site_id == self.network.site_id
            tunnels: set[str | None] = {path.id for path in rule.paths if path.type is PathType.TUNNEL}
            sources = self._prefixes(rule.sources) if self._means_this(at_site, set()) else rule.sources
            means = self._means_this(at_site, tunnels)
            destinations = self._selectors(rule.destinations) if means else rule.destinations
            if (sources, destinations) != (rule.sources, rule.destinations):
                yield rule.changed(sources=sources, destinations=destinations)

    def _profiles(self) -> Iterator[Profile]:
        for profile in self.design.profiles:
            at_site = self.design.gateway_by_id[profile.gateway_id].site_id == self.network.site_id
            if not self._means_this(at_site, set()):
                continue
            moved = {
                "networks": self._prefixes(profile.networks),
                "resolvers": tuple(self.address(resolver) for resolver in profile.resolvers),
                "own_resolvers": tuple(
                    resolver.changed(resolver=self.address(resolver.resolver)) for resolver in profile.own_resolvers
                ),
            }
            if any(getattr(profile, field) != value for field, value in moved.items()):
                yield profile.with_valid(moved)

    def _translations(self) -> Iterator[Translation]:
        for translation in self.design.translations:
            at_site = self.design.gateway_by_id[translation.gateway_id].site_id == self.network.site_id
            own = translation.side is TranslatedSide.OWN
            beyond = translation.tunnel_id in self._leading_here if translation.tunnel_id else not at_site
            if (at_site if own else beyond and not at_site) and self.network.prefix.contains(translation.inside):
                yield translation.changed(inside=self.prefix(translation.inside))

    @cached_property
    def _leading_here(self) -> frozenset[str]:
        """Ids of the tunnels that end at the network's site."""
        sites = ((tunnel.id, {self.design.site_of(tunnel.end(side)).id for side in SIDES}) for tunnel in self.design.tunnels)
        return frozenset(id_ for id_, ends in sites if self.network.site_id in ends)

    @cached_property
    def _has_twin(self) -> bool:
        """Whether another network of the zone shares addresses, so that a prefix alone doesn't say which one is meant."""
        mine = self.network
        return any(
            other.prefix.overlaps(mine.prefix) and other.zone == mine.zone and other.site_id != mine.site_id
            for other in self.design.networks
        )

    def _means_this(self, at_site: bool, tunnels: set[str | None]) -> bool:
        """Whether something that names the prefix means this network: by where it stands, or the tunnels it leads into."""
        if at_site:
            return True
        return bool(tunnels & self._leading_here) if tunnels else not self._has_twin

    def address(self, address: Address) -> Address:
        """Return an address after the move: the same when it isn't in the network."""
        return Address(address.family, address.value + self.shift) if self.network.prefix.holds(address) else address

    def prefix(self, prefix: Prefix) -> Prefix:
        """Return a prefix after the move: the same when it isn't within the network."""
        inside = self.network.prefix.contains(prefix)
        return Prefix(prefix.family, prefix.network + self.shift, prefix.length) if inside else prefix

    def _range(self, address_range: AddressRange) -> AddressRange:
        return address_range.shifted(self.shift) if address_range.within(self.network.prefix) else address_range

    def _prefixes(self, prefixes: tuple[Prefix, ...]) -> tuple[Prefix, ...]:
        moved = tuple(self.prefix(prefix) for prefix in prefixes)
        if any(map(self._summarises, prefixes)) and not any(prefix.contains(self.target) for prefix in moved):
            moved = (*moved, self.target)
        return tuple(dict.fromkeys(moved))

    def _selectors(self, selectors: tuple[Selector, ...]) -> tuple[Selector, ...]:
        mine, target = Selector.of(self.network.prefix), Selector.of(self.target)
        moved = [
            replace(selector, first=selector.first + self.shift, last=selector.last + self.shift)
            if self._is_about(selector)
            else selector
            for selector in selectors
        ]
        for cut in selectors:
            if self._is_about(cut) or not replace(cut, protocols=mine.protocols, ports=mine.ports).contains(mine):
                continue
            new = replace(target, protocols=cut.protocols, ports=cut.ports)
            if not any(other.contains(new) for other in moved):
                moved.append(new)
        return selectors if tuple(moved) == selectors else tuple(dict.fromkeys(moved))

    def _is_about(self, selector: Selector) -> bool:
        """Whether a selector is about the network: about all of it, or a part."""
        prefix = self.network.prefix
        return selector.family is prefix.family and prefix.network <= selector.first and selector.last <= prefix.last

    def _summarises(self, prefix: Prefix) -> bool:
        """Whether a prefix names the network and more, and not what it goes to."""
        mine = self.network.prefix
        return prefix.contains(mine) and prefix != mine and prefix.length > 0 and not prefix.contains(self.target)


def naming_tunnels(design: Design, networks: Iterable[Network]) -> Counter[str]:
    """Count, for each of some networks by id, the tunnels that name exactly its prefix at its site's end or for it."""
    wanted: dict[str, dict[Selector, list[str]]] = defaultdict(dict)  # by the site
    for network in networks:
        wanted[network.site_id].setdefault(Selector.of(network.prefix), []).append(network.id)
    found: Counter[str] = Counter()
    for site_id, ids in wanted.items():
        firsts = {selector.first for selector in ids}  # most networks are told from these at a glance
        for tunnel, side in (
            ended for gateway in design.gateways_of_site(site_id) for ended in design.ends_of_gateway(gateway.id)
        ):
            own, far = tunnel.facing(side)
            naming = (*own.local_networks, *far.remote_networks)
            for selector in {named for named in naming if named.first in firsts}:
                for id_ in ids.get(selector, ()):
                    found[id_] += 1
    return found
