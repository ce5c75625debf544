"""Address space cut up so that everything within one part is treated alike, wherever it goes.

Addresses between two neighbouring bounds of whatever a decision looks at (networks, selectors, routes, rules, filters,
translations) are treated alike by all gateways; so the first address of each part stands for all of it.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.addressing.longest_prefix import LongestPrefixes, as_addresses
from pontifex.core.kinds import Network
from pontifex.core.model import Design
from pontifex.core.routing.tables.tables import ResolvedRule, Tables, clause_of

Flags = NDArray[np.bool_]


class EquivalenceClasses:
    """The parts of a design's networks of one family, in the order of their addresses, and then of their sites."""

    def __init__(self, tables: Tables, family: Family, only: Collection[str] | None = None) -> None:
        """Cut up the networks in the common zone; with `only`, those of these ids. Each part is of its narrowest network."""
        design = tables.design
        site_place = {site.id: place for place, site in enumerate(design.sites)}
        found: list[tuple[int, int, int]] = []  # first address, site, network
        self.networks: tuple[Network, ...] = design.networks
        at_site: dict[str, list[int]] = defaultdict(list)
        for place, network in enumerate(design.networks):
            if not network.zone and network.prefix.family is family:
                at_site[network.site_id].append(place)
        for site_id, here in at_site.items():
            owners = LongestPrefixes(family, [design.networks[place].prefix for place in here])
            chosen = [k for k, place in enumerate(here) if only is None or design.networks[place].id in only]
            cut = [(first, k) for k in chosen for first in parts_of(tables, design.networks[here[k]].prefix)]
            narrowest = owners.look_up(as_addresses([first for first, _ in cut], family))
            found += [
                (first, site_place[site_id], here[k])
                for (first, k), owner in zip(cut, narrowest.tolist(), strict=True)
                if owner == k
            ]
        found.sort()
        self.family = family
        self.firsts = [first for first, _, _ in found]
        self.site = np.array([site for _, site, _ in found], dtype=np.int64)
        self.network = np.array([network for _, _, network in found], dtype=np.int64)

    def __len__(self) -> int:
        return len(self.firsts)

    def within(self, first: int, last: int) -> slice:
        """Return the places of the parts inside a range of addresses; a range never cuts a part."""
        return slice(bisect_left(self.firsts, first), bisect_right(self.firsts, last))

    def of_prefixes(self, prefixes: Collection[Prefix]) -> Flags:
        """Whether each class lies inside one of the prefixes."""
        return self.of_selectors([Selector.of(prefix) for prefix in prefixes])

    def of_selectors(self, selectors: Collection[Selector]) -> Flags:
        """Whether one of the selectors names the addresses of each class, whatever the protocol."""
        flags = np.zeros(len(self), dtype=np.bool_)
        for selector in selectors:
            if selector.family is self.family:
                flags[self.within(selector.first, selector.last)] = True
        return flags


def parts_of(tables: Tables, prefix: Prefix) -> list[int]:
    """Return the first address of each part of a prefix."""
    if prefix.family not in tables.bounds:
        tables.bounds[prefix.family] = _bounds(tables, prefix.family)
    bounds = tables.bounds[prefix.family]
    return [prefix.network, *bounds[bisect_right(bounds, prefix.network) : bisect_left(bounds, prefix.last + 1)]]


def _bounds(tables: Tables, family: Family) -> list[int]:
    """Return where decisions may change, in order: the first address of each range, and the one behind its last."""
    clauses = [clause_of(tables.design, rule) for rule in tables.design.rules]
    prefixes = [prefix for prefix in _prefixes(tables, clauses) if prefix.family is family]
    selectors = [selector for selector in _selectors(tables.design, clauses) if selector.family is family]
    firsts = {prefix.network for prefix in prefixes} | {selector.first for selector in selectors}
    return sorted(firsts | {prefix.last + 1 for prefix in prefixes} | {selector.last + 1 for selector in selectors})


def _prefixes(tables: Tables, clauses: Iterable[ResolvedRule]) -> Iterator[Prefix]:
    design = tables.design
    for network in design.networks:
        yield network.prefix
        for dhcp_route in network.dhcp_routes:
            yield dhcp_route.prefix
    for route in design.routes:
        yield route.prefix
    for translation in design.translations:
        yield from (translation.inside, translation.outside)
    for filter_ in design.filters:
        yield from filter_.sources
    for clause in clauses:
        yield from clause.sources or ()
    yield from design.supernets
    for placed in tables.cloud_rules.placed:
        yield from (*placed.members, *placed.rule.far)


def _selectors(design: Design, clauses: Iterable[ResolvedRule]) -> Iterator[Selector]:
    ends = [end for tunnel in design.tunnels for end in (tunnel.left, tunnel.right)]
    yield from (Selector.of(end.inner_address.prefix) for end in ends if end.inner_address)
    lists = chain(
        (clause.destinations or () for clause in clauses),
        (filter_.destinations for filter_ in design.filters),
        (end.local_networks for end in ends),
        (end.remote_networks for end in ends),
    )
    yield from chain.from_iterable(lists)
