"""Where there is room: free blocks inside the organisation's supernets that keep sites in one piece."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from heapq import nsmallest
from itertools import chain
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import AddressRange, AddressSet, Family, Prefix
from pontifex.core.addressing.address_set import address_array
from pontifex.core.addressing.home import HOME_PREFIXES
from pontifex.core.kinds import Network
from pontifex.core.model import Design, occupied_prefixes

NOBODY = ""  # no site has this id: what is translated into belongs to none
_ROOM_TO_GROW_BITS = 2  # a site's first network goes where at least four of its size fit


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A free block, and what taking it would mean for the site."""

    prefix: Annotated[Prefix, Field(title="Free block")]
    summary: Annotated[Prefix, Field(title="Summary of the site with it")]
    foreign: Annotated[int, Field(title="Networks of other sites within that summary")]


def taken(design: Design, family: Family) -> AddressSet:
    """Return all addresses that something uses or keeps: networks, reserved prefixes and ranges, translations, inner networks."""
    kept = [
        address_range
        for network in design.networks
        for address_range in network.reserved_ranges
        if address_range.family is family
    ]
    ranges = AddressSet.of_ranges(
        family,
        address_array((address_range.first for address_range in kept), family),
        address_array((address_range.last for address_range in kept), family),
    )
    return AddressSet.of(occupied_prefixes(design), family) | ranges


def free_space(design: Design, family: Family) -> AddressSet:
    """Return the organisation's own addresses of a family that nothing uses and that are not usual at home."""
    homes = AddressSet.of((prefix.prefix for prefix in HOME_PREFIXES), family)
    return AddressSet.of(design.address_space, family) - taken(design, family) - homes


def around(blocks: Iterable[Prefix]) -> Prefix:
    """Return the smallest block that holds all of some, which are of one family."""
    known = list(blocks)
    family = known[0].family
    first, last = min(prefix.network for prefix in known), max(prefix.last for prefix in known)
    length = family.bits - (first ^ last).bit_length()
    return Prefix(family, first & ~family.host_mask(length), length)


class Room:
    """The free space of a design, ready to be asked many times."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self._of_family: dict[Family, _FamilyRoom] = {}

    def offers(self, site_id: str, family: Family, length: int, most: int = 5, avoid: Sequence[Prefix] = ()) -> tuple[Offer, ...]:
        """Return free blocks of a length for a site, the best first; each without a touch of what to `avoid`.

        Best is a block that leaves the site summarisable by one prefix without networks of others, and breaks no other
        site's summary; then the narrower one; of those, the one that is cut from the smallest free block, so that large
        blocks stay whole. A site that is not in the design has no networks yet.
        """
        if family not in self._of_family:
            self._of_family[family] = _FamilyRoom.of(self._design, family)
        room = self._of_family[family]
        mine = [n.prefix for n in self._design.networks_of_site(site_id) if n.prefix.family is family and not n.zone]
        home = [prefix for prefix in mine if any(supernet.contains(prefix) for supernet in self._design.address_space)]
        scored = room.scored(site_id, length, mine, home, [prefix for prefix in avoid if prefix.family is family])
        return tuple(
            Offer(prefix=Prefix(family, first, length), summary=around([*home, Prefix(family, first, length)]), foreign=foreign)
            for _, first, foreign in nsmallest(most, scored)
        )


_Score = tuple[bool, bool, int, tuple[bool, int]]


@dataclass(frozen=True, slots=True)
class _FamilyRoom:
    """The free space of one family."""

    family: Family
    free: tuple[Prefix, ...]
    networks: _Bounds
    summaries: dict[str, Prefix]  # of all networks of a site, by its id
    summary_bounds: _Bounds

    @classmethod
    def of(cls, design: Design, family: Family) -> _FamilyRoom:
        by_site: dict[str, list[Prefix]] = defaultdict(list)
        for network in design.networks:
            if network.prefix.family is family and not network.zone:
                by_site[network.site_id].append(network.prefix)
        summaries = {site_id: around(blocks) for site_id, blocks in by_site.items()}
        networks = _Bounds.of(chain.from_iterable(by_site.values()))
        return cls(family, free_space(design, family).prefixes(), networks, summaries, _Bounds.of(summaries.values()))

    def scored(
        self, site_id: str, length: int, mine: Sequence[Prefix], home: Sequence[Prefix], avoid: Sequence[Prefix]
    ) -> Iterator[tuple[_Score, int, int]]:
        """Yield the score, the first address and the number of foreign networks of each block that a site might take.

        The least score is the best. Blocks are kept as numbers: there may be very many of them.
        """
        bits, size, own, nearby = self.family.bits, 1 << (self.family.bits - length), _Bounds.of(mine), _Bounds.of(avoid)
        low = min((prefix.network for prefix in home), default=self.family.last)
        high = max((prefix.last for prefix in home), default=0)
        summary = self.summaries.get(site_id)
        for block in self.free:
            first, last = block.network, block.network + size - 1
            if block.length > length or nearby.touching(first, last):
                continue
            begin, end = min(first, low), max(last, high)
            span = (1 << (begin ^ end).bit_length()) - 1  # the summary of the site with it is so large
            begin, end = begin & ~span, end | span
            foreign = self.networks.touching(begin, end) - own.touching(begin, end)
            broken = self.summary_bounds.touching(first, last) - bool(
                summary and summary.network <= last and first <= summary.last
            )
            score = foreign > 0, broken > 0, span.bit_length() - bits, _waste(block, length, bool(home))
            yield score, first, foreign


@dataclass(frozen=True, slots=True)
class _Bounds:
    """First and last addresses of some blocks of one family, each in order."""

    firsts: list[int]
    lasts: list[int]

    @classmethod
    def of(cls, blocks: Iterable[Prefix]) -> _Bounds:
        some = list(blocks)
        return cls(sorted(prefix.network for prefix in some), sorted(prefix.last for prefix in some))

    def touching(self, first: int, last: int) -> int:
        """Return how many of the blocks touch a range: those that begin before its end, without those that end before it."""
        return bisect_right(self.firsts, last) - bisect_left(self.lasts, first)


def _waste(block: Prefix, length: int, grows: bool) -> tuple[bool, int]:
    """Order free blocks by how much is left of them: none at best, but a new site wants room to grow."""
    cramped = not grows and block.length > length - _ROOM_TO_GROW_BITS
    return cramped, -block.length


def capacity(prefix: Prefix) -> int:
    """Return how many hosts a network has room for (RFC 1122 section 3.2.1.3; RFC 3021 for a /31)."""
    size = prefix.last - prefix.network + 1
    return size - 2 if prefix.family is Family.V4 and size > 2 else size


def handed_out(network: Network) -> int:
    """Return how many addresses a pool hands out: those of its DHCP ranges that nothing keeps back, or all without ranges."""
    if not network.dhcp_ranges:
        return capacity(network.prefix)
    family, hosts = network.prefix.family, host_range(network.prefix)
    inside = [AddressRange(family, max(address_range.first, hosts.first), min(address_range.last, hosts.last))
              for address_range in network.dhcp_ranges if address_range.overlaps(hosts)]  # fmt: skip
    ranges = _set_of(inside, family) - _set_of(
        [address_range for address_range in network.reserved_ranges if address_range.family is family], family
    )
    return ranges.size


def _set_of(ranges: Iterable[AddressRange], family: Family) -> AddressSet:
    some = list(ranges)
    return AddressSet.of_ranges(
        family,
        address_array((address_range.first for address_range in some), family),
        address_array((address_range.last for address_range in some), family),
    )


def host_range(prefix: Prefix) -> AddressRange:
    """Return the addresses of a network that hosts may have."""
    first, last = prefix.network, prefix.last
    edge = 1 if capacity(prefix) < last - first + 1 else 0
    return AddressRange(prefix.family, first + edge, last - edge)
