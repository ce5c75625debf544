"""Address space cut up so that everything within one part is treated alike, wherever it goes.

Addresses between two neighbouring bounds of whatever a decision looks at (networks, selectors, routes, rules, filters,
translations) are treated alike by all gateways; so the first address of each part stands for all of it.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Collection, Iterator

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.addressing.longest_prefix import PrefixMap
from pontifex.core.model import SIDES, Design, Network
from pontifex.core.routing.tables import Tables, clause_of

Flags = NDArray[np.bool_]


class Parts:
    """The parts of a design's networks of one family, in the order of their addresses, and then of their sites."""

    def __init__(self, tables: Tables, family: Family, only: Collection[str] | None = None) -> None:
        """Cut up the networks in the common zone; with `only`, those of these ids. Each part is of its narrowest network."""
        design = tables.design
        site_place = {site.id: place for place, site in enumerate(design.sites)}
        found: list[tuple[int, int, int]] = []  # first address, site, network
        self.networks: tuple[Network, ...] = design.networks
        places = {network.id: place for place, network in enumerate(design.networks)}
        by_site = {site.id: _by_prefix(design, site.id, family, places) for site in design.sites}
        for place, network in enumerate(design.networks):
            if network.zone or network.prefix.family is not family or (only is not None and network.id not in only):
                continue
            for first in parts_of(tables, network.prefix):
                if _narrowest(by_site[network.site_id], family, first) == place:
                    found.append((first, site_place[network.site_id], place))
        found.sort()
        self.family = family
        self.firsts = [first for first, _, _ in found]
        self.site = np.array([site for _, site, _ in found], dtype=np.int32)
        self.network = np.array([network for _, _, network in found], dtype=np.int32)

    def __len__(self) -> int:
        return len(self.firsts)

    def within(self, first: int, last: int) -> slice:
        """Return the places of the parts inside a range of addresses; a range never cuts a part."""
        return slice(bisect_left(self.firsts, first), bisect_right(self.firsts, last))

    def of_prefixes(self, prefixes: Collection[Prefix]) -> Flags:
        """Tell of each part whether one of some prefixes holds it."""
        return self.of_selectors([Selector.of(one) for one in prefixes])

    def of_selectors(self, selectors: Collection[Selector]) -> Flags:
        """Tell of each part whether one of some selectors names its addresses, whatever the protocol."""
        flags = np.zeros(len(self), dtype=np.bool_)
        for one in selectors:
            if one.family is self.family:
                flags[self.within(one.first, one.last)] = True
        return flags


def _by_prefix(design: Design, site_id: str, family: Family, places: dict[str, int]) -> PrefixMap[int]:
    here = [one for one in design.networks_of_site(site_id) if not one.zone and one.prefix.family is family]
    return PrefixMap((one.prefix, places[one.id]) for one in reversed(here))


def _narrowest(networks: PrefixMap[int], family: Family, first: int) -> int:
    return next(networks.holding_value(family, first), -1)


def parts_of(tables: Tables, prefix: Prefix) -> list[int]:
    """Return the first address of each part of a prefix."""
    if prefix.family not in tables.bounds:
        tables.bounds[prefix.family] = _bounds(tables, prefix.family)
    bounds = tables.bounds[prefix.family]
    return [prefix.network, *bounds[bisect_right(bounds, prefix.network) : bisect_left(bounds, prefix.last + 1)]]


def _bounds(tables: Tables, family: Family) -> list[int]:
    """Return where decisions may change, in order: the first address of each range, and the one behind its last."""
    values = set[int]()
    for one in _ranges(tables):
        if one.family is family:
            values.update((one.first, one.last + 1))
    return sorted(values)


def _ranges(tables: Tables) -> Iterator[Selector]:
    design = tables.design
    prefixes = [network.prefix for network in design.networks] + [route.prefix for route in design.routes]
    prefixes += [one.prefix for network in design.networks for one in network.dhcp_routes]
    prefixes += [one for translation in design.translations for one in (translation.inside, translation.outside)]
    prefixes += [one for filter_ in design.filters for one in filter_.sources]
    clauses = [clause_of(design, rule, tables.hosts_by_name) for rule in design.rules]
    prefixes += [one for clause in clauses for one in clause.sources or ()]
    prefixes += design.supernets
    yield from map(Selector.of, prefixes)
    for clause in clauses:
        yield from clause.destinations or ()
    for filter_ in design.filters:
        yield from filter_.destinations
    for tunnel in design.tunnels:
        for side in SIDES:
            yield from tunnel.end(side).local_networks
            yield from tunnel.end(side).remote_networks
