"""Longest-prefix look-up, for one address at a time and for millions at once."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from itertools import islice
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing.address import Address, Family
from pontifex.core.addressing.address_set import Addresses
from pontifex.core.addressing.prefix import Prefix

T = TypeVar("T")


class PrefixMap(Generic[T]):
    """Values under prefixes, found by address: one look-up in a dictionary for each length that occurs."""

    def __init__(self, items: Iterable[tuple[Prefix, T]]) -> None:
        self._by_length: dict[Family, dict[int, dict[int, list[T]]]] = {family: {} for family in Family}
        for prefix, value in items:
            self._by_length[prefix.family].setdefault(prefix.length, {}).setdefault(prefix.network, []).append(value)
        for family, found in self._by_length.items():
            self._by_length[family] = dict(sorted(found.items(), reverse=True))

    def holding(self, address: Address) -> Iterator[T]:
        """Yield the values of all prefixes that hold an address, the longest first."""
        yield from self.holding_value(address.family, address.value)

    def holding_value(self, family: Family, value: int) -> Iterator[T]:
        """Yield the same for an address as an unsigned integer."""
        for length, by_network in self._by_length[family].items():
            yield from by_network.get(value & ~family.host_mask(length), ())

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


def as_addresses(values: Sequence[int], family: Family) -> Addresses:
    """Return unsigned integers as an array of addresses."""
    return np.array(values, dtype=np.int64 if family is Family.V4 else object)


class LongestPrefixes:
    """Prefixes of one family cut up into the ranges for which each of them is the longest.

    Prefixes are nested or disjoint, so the bounds of all of them in order, each with the innermost one open there, say it
    all; a look-up is one binary search.
    """

    def __init__(self, family: Family, prefixes: Sequence[Prefix]) -> None:
        """Take prefixes of the family; of identical ones the first is found."""
        bounds, owners = [0], [-1]
        open_: list[tuple[int, int]] = []  # last address and position of the prefixes around the current one

        def close(before: int) -> None:
            while open_ and open_[-1][0] < before:
                last, _ = open_.pop()
                bounds.append(last + 1)
                owners.append(open_[-1][1] if open_ else -1)

        for position in sorted(range(len(prefixes)), key=lambda k: (prefixes[k].network, prefixes[k].length, k)):
            prefix = prefixes[position]
            close(prefix.network)
            if open_ and prefixes[open_[-1][1]] == prefix:
                continue
            bounds.append(prefix.network)
            owners.append(position)
            open_.append((prefix.last, position))
        close(family.last + 1)
        self._bounds = as_addresses(bounds, family)
        self._owners = np.array(owners, dtype=np.int64)

    def look_up(self, addresses: Addresses) -> NDArray[np.int64]:
        """Return for each address the position of the longest prefix that holds it, -1 where none does."""
        return self._owners[np.searchsorted(self._bounds, addresses, side="right") - 1]
