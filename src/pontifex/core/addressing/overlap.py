"""All overlapping pairs of a set of prefixes, by one sort and two binary searches, without a pairwise loop.

Prefixes are laminar: two of them are nested or disjoint. So, sorted by first address with larger blocks first, the
blocks inside (or identical to) a prefix are exactly those that follow it up to its last address.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Any

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


@dataclass(frozen=True, slots=True)
class Blocks:
    """Prefixes of one family as arrays: 64-bit integers for IPv4, high and low halves for IPv6."""

    family: Family
    high: NDArray[np.uint64]  # 0 for IPv4
    low: NDArray[np.uint64]
    length: NDArray[np.int64]

    @classmethod
    def of(cls, family: Family, networks: Sequence[int], lengths: Sequence[int]) -> Blocks:
        """Return the blocks with these first addresses and lengths."""
        length = np.array(lengths, dtype=np.int64)
        if family is Family.V4:
            low = np.array(networks, dtype=np.uint64)
            return cls(family, np.zeros(0, dtype=np.uint64), low, length)
        octets = b"".join([network.to_bytes(16, "big") for network in networks])
        halves = np.frombuffer(octets, dtype=">u8").astype(np.uint64).reshape(-1, 2)
        return cls(family, halves[:, 0].copy(), halves[:, 1].copy(), length)

    def __len__(self) -> int:
        return len(self.length)

    def order(self) -> Indices:
        """Return the positions in canonical order: by first address, the larger block before those inside it."""
        if self.family is Family.V4:
            return np.argsort(self.low << np.uint64(6) | self.length.astype(np.uint64), kind="stable")
        return np.lexsort((self.length, self.low, self.high))

    def keys(self) -> tuple[NDArray[Any], NDArray[Any]]:
        """Return the first and the last address of each block as values that sort in their order."""
        if self.family is Family.V4:
            return self.low, self.low | _ones(32 - self.length)
        last_high = self.high | _ones(np.clip(64 - self.length, 0, 64))
        last_low = self.low | _ones(np.clip(128 - self.length, 0, 64))
        return _octets(self.high, self.low), _octets(last_high, last_low)


def _ones(bits: NDArray[np.int64]) -> NDArray[np.uint64]:
    """Return numbers whose lowest bits are ones, 64 of them at most."""
    some = np.right_shift(np.uint64(0xFFFF_FFFF_FFFF_FFFF), (64 - bits).clip(0, 63).astype(np.uint64))
    return np.where(bits == 0, np.uint64(0), some)


def _octets(high: NDArray[np.uint64], low: NDArray[np.uint64]) -> NDArray[Any]:
    """Return 128 bits as 16 octets that sort in their order."""
    return np.ascontiguousarray(np.stack((high, low), axis=1).astype(">u8")).view("S16").ravel()


def overlapping_pairs(prefixes: Sequence[Prefix]) -> OverlapPairs:
    """Return every overlapping pair once, in canonical order of the outer prefix, then of the inner one.

    Cost: n log n for the sort, plus the pairs reported. Of identical prefixes the one that comes first is the outer.
    """
    parts = []
    for family in Family:
        positions = np.array([k for k, prefix in enumerate(prefixes) if prefix.family is family], dtype=np.int64)
        chosen = [prefixes[k] for k in positions]
        blocks = Blocks.of(family, [prefix.network for prefix in chosen], [prefix.length for prefix in chosen])
        pairs = pairs_of(blocks)
        parts.append(OverlapPairs(positions[pairs.outer], positions[pairs.inner], pairs.identical))
    return OverlapPairs(
        np.concatenate([part.outer for part in parts]),
        np.concatenate([part.inner for part in parts]),
        np.concatenate([part.identical for part in parts]),
    )


def pairs_of(blocks: Blocks) -> OverlapPairs:
    """Return the overlapping pairs of blocks of one family."""
    order = blocks.order()
    first, last = blocks.keys()
    starts = first[order]
    ends_at = np.searchsorted(starts, last[order], side="right")
    count = ends_at - np.arange(len(order)) - 1  # those after each block, up to its last address, lie inside it
    outer = np.repeat(np.arange(len(order)), count)
    inner = outer + 1 + np.arange(len(outer)) - np.repeat(np.cumsum(count) - count, count)
    lengths = blocks.length[order]
    same = (lengths[outer] == lengths[inner]) & (starts[outer] == starts[inner])
    return OverlapPairs(order[outer], order[inner], same)
