"""Split tunnels: all, only these, or all but these, as the fewest routes, and as fewer where a device allows no more."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Set
from dataclasses import dataclass
from functools import cache
from operator import attrgetter
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import AddressSet, Family, Prefix
from pontifex.core.kinds import Gateway, Network, NetworkRole, Profile, SplitMode
from pontifex.core.routing.tables.tables import Origin, Tables

MOST_WASTE: Final = 0.5  # of the addresses inside, or outside, whichever are fewer: a summary never turns the split around


@dataclass(frozen=True, slots=True)
class Split:
    """What goes through a tunnel. `families` are those that the tunnel can carry."""

    mode: SplitMode
    networks: tuple[Prefix, ...] = ()
    families: frozenset[Family] = frozenset(Family)

    @classmethod
    def of(cls, profile: Profile, pool: Prefix | None) -> Split:
        """Return the split of a profile; a pool of one family carries that family alone."""
        families = frozenset({pool.family}) if pool else frozenset(Family)
        return cls(profile.mode, profile.networks, families)

    def through(self, family: Family) -> AddressSet:
        """Return the addresses whose traffic goes through the tunnel."""
        named = AddressSet.of(self.networks, family)
        if family not in self.families:
            return AddressSet.of((), family)
        if self.mode is SplitMode.ONLY:
            return named
        return AddressSet.everything(family) if self.mode is SplitMode.ALL else named.complement()

    @property
    def leaks(self) -> tuple[Family, ...]:
        """The families that pass beside a tunnel which is meant to take everything, or nearly."""
        if self.mode is SplitMode.ONLY:
            return ()
        return tuple(family for family in Family if family not in self.families)


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteList:
    """The routes of a split."""

    prefixes: Annotated[tuple[Prefix, ...], Field(title="The fewest routes that say exactly it")]
    limit: Annotated[int | None, Field(title="How many the device allows")]
    fits: Annotated[bool, Field(title="Within the limit")]
    summary: Annotated[
        tuple[Prefix, ...], Field(title="Fewer routes that hold it all", description="Empty where the exact list fits.")
    ]
    waste: Annotated[str, Field(title="Addresses that the summary takes in beside", description="A number, as text.")]


def route_list(split: Split, limit: int | None = None) -> RouteList:
    """Return the fewest routes of a split, and a summary where a device allows no more.

    The summary takes in no more other addresses than MOST_WASTE allows; where even that is too many routes, it is the
    shortest within that bound, and is still too long.
    """
    exact = {family: split.through(family) for family in Family}
    prefixes = tuple(prefix for some in exact.values() for prefix in some.prefixes())
    if limit is None or len(prefixes) <= limit:
        return RouteList(prefixes=prefixes, limit=limit, fits=True, summary=(), waste="0")
    summary = _summarised(exact, limit)
    waste = sum(AddressSet.of(summary, family).size - some.size for family, some in exact.items())
    return RouteList(prefixes=prefixes, limit=limit, fits=False, summary=summary, waste=str(waste))


def _summarised(exact: dict[Family, AddressSet], limit: int) -> tuple[Prefix, ...]:
    """Share the limit among families as their exact lists share it, one route each at least."""
    counts = {family: len(some.blocks()[1]) for family, some in exact.items()}
    total = sum(counts.values())
    found: list[Prefix] = []
    for family, some in exact.items():
        if counts[family]:
            share = max(1, limit * counts[family] // total)
            smaller = min(some.size, family.last + 1 - some.size)
            found += some.summary(share, int(smaller * MOST_WASTE))
    return tuple(found)


def led_to(tables: Tables, gateway: Gateway) -> Iterator[Network]:
    """Yield the networks that a gateway leads to, in the common zone, without the pools that people dial in from.

    A tunnel of which it isn't known yet what is to go in leads to the far site's networks.
    """
    routed = {route.tunnel_id for route in tables.routes_of.get(gateway.id, ())}
    known = tables.of(gateway).by_prefix
    by_itself = cache(lambda site_id: _leads_by_itself(tables, gateway, site_id, routed))
    for network in tables.design.networks:
        if network.zone or network.role is NetworkRole.POOL:
            continue
        prefix = network.prefix
        ways = known.holding_value(prefix.family, prefix.network)
        by_route = any(entry.origin is not Origin.DEFAULT for _, entry in ways)
        if by_route or by_itself(network.site_id):
            yield network


def _leads_by_itself(tables: Tables, gateway: Gateway, site_id: str, routed: Set[str | None]) -> bool:
    """Whether the first tunnel on the way to a site is one of which it isn't known yet what is to go in."""
    chain = tables.chains.chain(gateway.site_id, site_id)
    return bool(chain) and not chain[0].near.remote_networks and chain[0].tunnel.id not in routed


def missing(split: Split, wanted: Iterable[Prefix]) -> tuple[Prefix, ...]:
    """Return those of some networks that do not go through, or not wholly; without those within another of them."""
    found: list[Prefix] = []
    ordered = sorted(set(wanted), key=attrgetter("order"))  # what holds others comes before them
    for family in Family:
        mine = [prefix for prefix in ordered if prefix.family is family]
        for prefix, goes in zip(mine, split.through(family).holds_each(mine), strict=True):
            if not goes and not (found and found[-1].contains(prefix)):
                found.append(prefix)
    return tuple(found)
