"""Longest-prefix look-up for one address at a time."""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import cached_property
from itertools import islice
from typing import Generic, TypeVar

from pontifex.core.addressing.address import Address, Family
from pontifex.core.addressing.prefix import Prefix

T = TypeVar("T")


def _lists() -> dict[int, list[T]]:
    return defaultdict(list)


class PrefixMap(Generic[T]):
    """Values under prefixes, found by address: one look-up in a dictionary for each length that occurs."""

    def __init__(self, blocks: Iterable[tuple[Family, int, int, T]]) -> None:
        """Take each value with the family, the length in bits and the first address of what it is under."""
        found: dict[Family, dict[int, dict[int, list[T]]]] = {family: defaultdict(_lists) for family in Family}
        for family, length, first, value in blocks:
            found[family][length][first].append(value)
        self._by_length = {family: dict(sorted(by_length.items(), reverse=True)) for family, by_length in found.items()}

    @classmethod
    def of(cls, items: Iterable[tuple[Prefix, T]]) -> PrefixMap[T]:
        """Return values under prefixes."""
        return cls((prefix.family, prefix.length, prefix.network, value) for prefix, value in items)

    def holding(self, address: Address) -> Iterator[T]:
        """Yield the values of all prefixes that hold an address, the longest first."""
        yield from self.holding_value(address.family, address.value)

    def holding_value(self, family: Family, value: int) -> Iterator[T]:
        """Yield the same for an address as an unsigned integer."""
        masks = family.host_masks
        for length, by_network in self._by_length[family].items():
            held = by_network.get(value & ~masks[length])
            if held:
                yield from held

    def sharing(self, prefix: Prefix) -> Iterator[T]:
        """Yield the values of all prefixes that share addresses with one: those around it first, then those within it."""
        masks, around = prefix.family.host_masks, self._by_length[prefix.family].items()
        for length, by_network in reversed(around):
            if length < prefix.length:
                yield from by_network.get(prefix.network & ~masks[length], ())
        yield from self.within(prefix)

    def within(self, prefix: Prefix) -> Iterator[T]:
        """Yield the values of all prefixes that lie within one, or are it, by their first address."""
        in_order, by_length = self._in_order[prefix.family], self._by_length[prefix.family]
        for network, length in islice(in_order, bisect_left(in_order, (prefix.network, prefix.length)), None):
            if network > prefix.last:
                return
            yield from by_length[length][network]

    @cached_property
    def _in_order(self) -> dict[Family, list[tuple[int, int]]]:
        """First addresses and lengths, larger blocks before those inside them."""
        return {
            family: sorted((network, length) for length, networks in by_length.items() for network in networks)
            for family, by_length in self._by_length.items()
        }
