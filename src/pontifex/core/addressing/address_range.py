"""A range of addresses, first to last: what a DHCP server hands out, or a platform keeps to itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic_core import core_schema

from pontifex.core.addressing.address import Address, AddressError, Family, format_address, parse_address, text_schema
from pontifex.core.addressing.prefix import Prefix, parse_prefix


@dataclass(frozen=True, slots=True)
class AddressRange:
    """Addresses in a row, both ends included. Invariant: the first is not above the last."""

    family: Family
    first: int  # unsigned
    last: int

    def __str__(self) -> str:
        first = format_address(self.family, self.first)
        return first if self.first == self.last else f"{first}-{format_address(self.family, self.last)}"

    @property
    def size(self) -> int:
        """The number of addresses."""
        return self.last - self.first + 1

    @classmethod
    def of(cls, prefix: Prefix) -> AddressRange:
        """Return all addresses of a prefix."""
        return cls(prefix.family, prefix.network, prefix.last)

    def holds(self, address: Address) -> bool:
        """Whether an address is in the range."""
        return self.family is address.family and self.first <= address.value <= self.last

    def within(self, prefix: Prefix) -> bool:
        """Whether the whole range is in a prefix."""
        return self.family is prefix.family and prefix.network <= self.first and self.last <= prefix.last

    def contains(self, other: AddressRange) -> bool:
        """Whether all of another range is in this one."""
        return self.family is other.family and self.first <= other.first and other.last <= self.last

    def overlaps(self, other: AddressRange) -> bool:
        """Whether the two ranges share an address."""
        return self.family is other.family and self.first <= other.last and other.first <= self.last

    def shifted(self, by: int) -> AddressRange:
        """Return the range so many addresses further on."""
        return AddressRange(self.family, self.first + by, self.last + by)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        return text_schema(cls, parse_range, "ip-range", ["10.64.0.100-10.64.3.250"])


def parse_range(text: str) -> AddressRange:
    """Read "10.64.4.10-10.64.4.60", "10.64.4.10-60", a prefix, or one address. Raise AddressError naming the wrong part."""
    low, dash, high = (part.strip() for part in text.strip().partition("-"))
    if not dash and "/" in low:
        return AddressRange.of(parse_prefix(low))
    family, first = parse_address(low)
    if not dash:
        return AddressRange(family, first, first)
    if family is Family.V4 and high.isascii() and high.isdigit():  # the last octet alone
        high = f"{low.rpartition('.')[0]}.{high}"
    other, last = parse_address(high)
    if family is not other:
        raise AddressError(text, "address", f"'{text}' mixes IPv4 and IPv6")
    if last < first:
        raise AddressError(text, "address", f"'{text}' ends before it starts")
    return AddressRange(family, first, last)
