"""Sets of addresses of one family, as sorted ranges in arrays: union, intersection, difference, complement, summary.

IPv4 addresses are 64-bit integers; IPv6 addresses are Python's own, so that all 128 bits are exact.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, NoReturn

import numpy as np
from numpy.typing import NDArray

from pontifex.core.addressing.address import Family
from pontifex.core.addressing.prefix import Prefix

Addresses = NDArray[Any]  # int64 for IPv4, object for IPv6


def address_array(values: Iterable[int], family: Family) -> Addresses:
    """Return addresses as an array that can be calculated with."""
    return np.array(list(values), dtype=np.int64 if family is Family.V4 else object)


@dataclass(frozen=True, slots=True, eq=False)
class AddressSet:
    """A set of addresses. Invariant: the ranges are in order, and neither overlap nor touch."""

    family: Family
    first: Addresses
    last: Addresses

    @classmethod
    def of(cls, prefixes: Iterable[Prefix], family: Family) -> AddressSet:
        """Return the addresses of the prefixes of a family; those of the other family are left out."""
        mine = [prefix for prefix in prefixes if prefix.family is family]
        return cls.of_ranges(
            family,
            address_array((prefix.network for prefix in mine), family),
            address_array((prefix.last for prefix in mine), family),
        )

    @classmethod
    def of_ranges(cls, family: Family, first: Addresses, last: Addresses) -> AddressSet:
        """Return the addresses of ranges in any order, which may overlap."""
        if not len(first):
            return cls(family, first, last)
        order = np.argsort(first, kind="stable")
        starts, reached = first[order], np.maximum.accumulate(last[order])
        begins = np.concatenate(([True], (starts[1:] > reached[:-1] + 1).astype(bool)))
        ends = np.concatenate((begins[1:], [True]))
        return cls(family, starts[begins], reached[ends])

    @classmethod
    def everything(cls, family: Family) -> AddressSet:
        """Return all addresses of a family."""
        return cls(family, address_array([0], family), address_array([family.last], family))

    def __len__(self) -> int:
        """The number of ranges."""
        return len(self.first)

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, AddressSet)
            and self.family is other.family
            and np.array_equal(self.first, other.first)
            and np.array_equal(self.last, other.last)
        )

    def __hash__(self) -> NoReturn:
        raise TypeError("arrays have no hash")

    @property
    def size(self) -> int:
        """The number of addresses."""
        return int(sum((self.last - self.first).tolist())) + len(self)

    def holds_each(self, prefixes: Sequence[Prefix]) -> list[bool]:
        """Return for each of some prefixes of the family whether all of its addresses are in the set."""
        if not len(self):
            return [False] * len(prefixes)
        wanted = address_array((prefix.network for prefix in prefixes), self.family)
        at = self.first.searchsorted(wanted, side="right") - 1
        last = address_array((prefix.last for prefix in prefixes), self.family)
        return [bool(held) for held in (at >= 0) & (last <= self.last[at])]

    def complement(self) -> AddressSet:
        """Return all other addresses of the family."""
        if not len(self):
            return AddressSet.everything(self.family)
        first = np.concatenate((address_array([0], self.family), self.last + 1))
        last = np.concatenate((self.first - 1, address_array([self.family.last], self.family)))
        filled = (first <= last).astype(bool)
        return AddressSet(self.family, first[filled], last[filled])

    def __or__(self, other: AddressSet) -> AddressSet:
        first, last = np.concatenate((self.first, other.first)), np.concatenate((self.last, other.last))
        return AddressSet.of_ranges(self.family, first, last)

    def __and__(self, other: AddressSet) -> AddressSet:
        return (self.complement() | other.complement()).complement()

    def __sub__(self, other: AddressSet) -> AddressSet:
        return (self.complement() | other).complement()

    def blocks(self) -> tuple[Addresses, NDArray[np.int64]]:
        """Return the fewest prefixes that hold exactly these addresses: first addresses and lengths, in order.

        Each range gives up, again and again, the largest aligned block at its start, all ranges at once.
        """
        at, until = self.first, self.last
        range_of = np.arange(len(at))
        found: list[tuple[Addresses, NDArray[np.int64], NDArray[np.int64]]] = []
        while len(at):
            by_alignment = _trailing_zeros(at, self.family)
            by_size = _bit_length(until - at + 1) - 1
            bits = np.minimum(by_alignment, by_size)
            found.append((at, self.family.bits - bits, range_of))
            at = at + _power(bits, self.family)
            left = (at <= until).astype(bool)
            at, until, range_of = at[left], until[left], range_of[left]
        if not found:
            return self.first, np.empty(0, dtype=np.int64)
        first = np.concatenate([part[0] for part in found])
        length = np.concatenate([part[1] for part in found])
        order = np.argsort(np.concatenate([part[2] for part in found]), kind="stable")  # blocks of a range come in order
        return first[order], length[order]

    def prefixes(self) -> tuple[Prefix, ...]:
        """Return the fewest prefixes that hold exactly these addresses, in canonical order."""
        first, length = self.blocks()
        return tuple(Prefix(self.family, network, bits) for network, bits in zip(first.tolist(), length.tolist(), strict=True))

    def summary(self, most: int, waste: int | None = None) -> tuple[Prefix, ...]:
        """Return at most so many prefixes that hold all of these addresses, with as few others as joining neighbours allows.

        Neighbours are joined into the smallest block around both, the pair that adds the fewest addresses first. With
        `waste`, never more than so many other addresses are taken in, even if more prefixes than wanted are left.
        """
        kept = list(self.prefixes())
        left = waste
        while len(kept) > max(most, 1):
            joined = [_around(prefix, other) for prefix, other in pairwise(kept)]
            added, at = min((_added(block, kept), k) for k, block in enumerate(joined))
            if left is not None:
                if added > left:
                    break
                left -= added
            kept = sorted((*(prefix for prefix in kept if not joined[at].contains(prefix)), joined[at]))
        return tuple(kept)


def _added(block: Prefix, kept: list[Prefix]) -> int:
    inside = sum(prefix.last - prefix.network + 1 for prefix in kept if block.contains(prefix))
    return block.last - block.network + 1 - inside


def _around(one: Prefix, other: Prefix) -> Prefix:
    """Return the smallest block that holds both."""
    length = one.family.bits - (one.network ^ other.last).bit_length()
    return Prefix(one.family, one.network & ~one.family.host_mask(length), length)


_object_bit_length = np.frompyfunc(int.bit_length, 1, 1)
_object_power = np.frompyfunc(lambda bits: 1 << bits, 1, 1)


def _bit_length(values: Addresses) -> NDArray[np.int64]:
    if values.dtype == object:
        return np.asarray(_object_bit_length(values), dtype=np.int64)
    return np.frexp(values.astype(np.float64))[1].astype(np.int64)  # exact: 33 bits at most


def _trailing_zeros(values: Addresses, family: Family) -> NDArray[np.int64]:
    """Return how many low bits are zero; all of them for address 0."""
    lowest = values & -values
    return np.where((values == 0).astype(bool), family.bits, _bit_length(lowest) - 1)


def _power(bits: NDArray[np.int64], family: Family) -> Addresses:
    return np.left_shift(np.int64(1), bits) if family is Family.V4 else _object_power(bits.astype(object))
