"""Longest-prefix look-up for millions of addresses at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing.address import Family
from pontifex.core.addressing.address_set import Addresses
from pontifex.core.addressing.prefix import Prefix


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
