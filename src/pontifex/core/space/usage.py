"""How full the address space is: by supernet, by site and by network, and what keeps a site from being summarised."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from dataclasses import dataclass
from itertools import islice
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import AddressRange, AddressSet, Family, Prefix
from pontifex.core.kinds import Network
from pontifex.core.model import Design
from pontifex.core.space.room import around, capacity, free_space, taken

_MOST_NAMED: Final = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeBlocks:
    """Free blocks of one size."""

    length: Annotated[int, Field(title="Length")]
    count: Annotated[int, Field(title="How many")]
    first: Annotated[Prefix, Field(title="The lowest")]


@dataclass(frozen=True, slots=True, kw_only=True)
class SupernetUse:
    """How full a supernet is. Addresses are counted as text, since those of IPv6 exceed what a browser counts exactly."""

    prefix: Annotated[Prefix, Field(title="Supernet")]
    addresses: Annotated[str, Field(title="Addresses")]
    used: Annotated[str, Field(title="Used or reserved")]
    used_share: Annotated[float, Field(title="Share that is used or reserved")]
    free: Annotated[tuple[FreeBlocks, ...], Field(title="Free blocks by size", description="The largest first.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteUse:
    """What a site takes up in one address family, isolated zones aside."""

    site_id: str
    family: Annotated[int, Field(title="4 or 6")]
    networks: int
    summary: Annotated[Prefix, Field(title="The smallest block around its networks")]
    used_share: Annotated[float, Field(title="Share of the summary that its networks use")]
    broken_count: Annotated[int, Field(title="Networks of other sites within the summary")]
    broken_by: Annotated[tuple[str, ...], Field(title="The first of them", description="Their ids, 20 at most.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkUse:
    """How full a network is."""

    network_id: str
    capacity: Annotated[str, Field(title="Room for hosts")]
    taken: Annotated[str, Field(title="Addresses that are spoken for", description="Hosts, gateway and DHCP ranges.")]
    grows_to: Annotated[
        Prefix | None, Field(title="What it can grow to where it stands", description="Null when the space beside it is taken.")
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class Usage:
    """How full the address space of a design is."""

    revision: int
    supernets: tuple[SupernetUse, ...]
    sites: tuple[SiteUse, ...]
    networks: tuple[NetworkUse, ...]
    free: Annotated[tuple[AddressRange, ...], Field(title="Free addresses inside the supernets", description="In address order.")]


def usage(design: Design) -> Usage:
    """Return how full everything is."""
    free = {family: free_space(design, family) for family in Family}
    used = {family: taken(design, family) for family in Family}
    return Usage(
        revision=design.revision,
        supernets=tuple(
            _supernet(supernet, used[supernet.family], free[supernet.family]) for supernet in sorted(design.supernets)
        ),
        sites=tuple(_sites(design)),
        networks=tuple(_network(design, network, free[network.prefix.family]) for network in design.networks),
        free=tuple(
            AddressRange(family, first, last)
            for family, some in free.items()
            for first, last in zip(some.first.tolist(), some.last.tolist(), strict=True)
        ),
    )


def _supernet(prefix: Prefix, used: AddressSet, free: AddressSet) -> SupernetUse:
    whole = AddressSet.of((prefix,), prefix.family)
    size, inside = whole.size, (used & whole).size
    found: dict[int, list[Prefix]] = defaultdict(list)
    for block in (free & whole).prefixes():
        found[block.length].append(block)
    blocks = tuple(FreeBlocks(length=n, count=len(some), first=some[0]) for n, some in sorted(found.items()))
    return SupernetUse(prefix=prefix, addresses=str(size), used=str(inside), used_share=inside / size, free=blocks)


def _sites(design: Design) -> list[SiteUse]:
    common = {family: [n for n in design.networks if not n.zone and n.prefix.family is family] for family in Family}
    found = []
    for family, networks in common.items():
        by_site: dict[str, list[Network]] = defaultdict(list)
        for network in networks:
            by_site[network.site_id].append(network)
        ordered = sorted(networks, key=lambda n: n.prefix.order)
        starts = [n.prefix.network for n in ordered]
        for site_id, mine in sorted(by_site.items()):
            summary = around(n.prefix for n in mine)
            within = ordered[bisect_left(starts, summary.network) : bisect_right(starts, summary.last)]
            foreign = (n.id for n in within if n.site_id != site_id)
            covered = AddressSet.of((n.prefix for n in mine), family).size
            size = summary.last - summary.network + 1
            version = 4 if family is Family.V4 else 6
            found.append(
                SiteUse(
                    site_id=site_id,
                    family=version,
                    networks=len(mine),
                    summary=summary,
                    used_share=covered / size,
                    broken_count=len(within) - len(mine) if len(mine) > 1 else 0,
                    broken_by=tuple(islice(foreign, _MOST_NAMED)) if len(mine) > 1 else (),
                )
            )
    return found


def _network(design: Design, network: Network, free: AddressSet) -> NetworkUse:
    return NetworkUse(
        network_id=network.id,
        capacity=str(capacity(network.prefix)),
        taken=str(spoken_for(design, network)),
        grows_to=_grown(network.prefix, free),
    )


def spoken_for(design: Design, network: Network) -> int:
    """Return how many addresses of a network are spoken for: DHCP ranges, hosts and the gateway, each address once."""
    ranges = [address_range for address_range in network.dhcp_ranges if address_range.within(network.prefix)]
    singles = {host.address.value for host in design.hosts_of_network(network.id) if network.prefix.holds(host.address)}
    if network.gateway_address and network.prefix.holds(network.gateway_address):
        singles.add(network.gateway_address.value)
    total, reached = 0, -1
    for range_ in sorted(ranges, key=lambda candidate: candidate.first):
        total += max(range_.last - max(range_.first, reached + 1) + 1, 0)
        reached = max(reached, range_.last)
    return total + sum(
        1 for value in singles if not any(address_range.first <= value <= address_range.last for address_range in ranges)
    )


def _grown(prefix: Prefix, free: AddressSet) -> Prefix | None:
    """Return the block of twice the size that a network can grow to: its other half must be free."""
    if prefix.length == 0 or not len(free):
        return None
    size = prefix.last - prefix.network + 1
    buddy = prefix.network ^ size
    at = int(free.first.searchsorted(buddy, side="right")) - 1
    if at < 0 or int(free.last[at]) < buddy + size - 1:
        return None
    return Prefix(prefix.family, min(prefix.network, buddy), prefix.length - 1)
