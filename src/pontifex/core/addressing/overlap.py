"""All overlapping pairs of a set of prefixes, by one sort and two binary searches, without a pairwise loop.

Prefixes are laminar: two of them are nested or disjoint. So, sorted by first address with larger blocks first, the
blocks inside (or identical to) a prefix are exactly those that follow it up to its last address.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing.address import Family
from pontifex.core.addressing.prefix import Prefix

Indices = NDArray[np.int64]


class OverlapClass(Enum):
    """How the first prefix of a pair lies to the second."""

    IDENTICAL = "identical"
    CONTAINS = "contains"


@dataclass(frozen=True, slots=True)
class OverlapPairs:
    """Pairs of positions in the input: `outer[k]` contains, or is identical to, `inner[k]`."""

    outer: Indices
    inner: Indices
    identical: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.outer)


def overlapping_pairs(prefixes: Sequence[Prefix]) -> OverlapPairs:
    """Return every overlapping pair once, in canonical order of the outer prefix, then of the inner one.

    Cost: n log n for the sort, plus the pairs reported. Of identical prefixes the one that comes first is the outer.
    """
    parts = [_pairs_of_family(prefixes, family) for family in Family]
    return OverlapPairs(
        np.concatenate([part.outer for part in parts]),
        np.concatenate([part.inner for part in parts]),
        np.concatenate([part.identical for part in parts]),
    )


def _pairs_of_family(prefixes: Sequence[Prefix], family: Family) -> OverlapPairs:
    positions = np.array([k for k, prefix in enumerate(prefixes) if prefix.family is family], dtype=np.int64)
    chosen = [prefixes[k] for k in positions]
    first = _sortable([prefix.network for prefix in chosen], family)
    last = _sortable([prefix.last for prefix in chosen], family)
    length = np.array([prefix.length for prefix in chosen], dtype=np.int16)
    pairs = sorted_pairs(first, last, length)
    return OverlapPairs(positions[pairs.outer], positions[pairs.inner], pairs.identical)


def _sortable(values: list[int], family: Family) -> NDArray[np.generic]:
    """Return integers as an array that sorts in their order: 128 bits go as big-endian octets."""
    if family is Family.V4:
        return np.array(values, dtype=np.int64)
    return np.frombuffer(b"".join(value.to_bytes(16, "big") for value in values), dtype="S16")


def sorted_pairs(first: NDArray[np.generic], last: NDArray[np.generic], length: NDArray[np.int16]) -> OverlapPairs:
    """Return the overlapping pairs of blocks of one family given as arrays of first and last address and length."""
    order = np.lexsort((length, first))
    starts = first[order]
    ends_at = np.searchsorted(starts, last[order], side="right")
    count = ends_at - np.arange(len(order)) - 1  # those after each block, up to its last address, lie inside it
    outer = np.repeat(np.arange(len(order)), count)
    offset = np.arange(len(outer)) - np.repeat(np.cumsum(count) - count, count)
    inner = outer + 1 + offset
    same = (starts[outer] == starts[inner]) & (length[order][outer] == length[order][inner])
    return OverlapPairs(order[outer], order[inner], same)
