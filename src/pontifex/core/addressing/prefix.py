"""One IPv4 or IPv6 prefix: a block of addresses that share their first bits."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic_core import core_schema

from pontifex.core.addressing.address import Address, AddressError, Family, format_address, parse_address, text_schema


@dataclass(frozen=True, slots=True)
class Prefix:
    """One block of addresses. Invariant: the length fits the family and the host bits are zero."""

    family: Family
    network: int  # first address, unsigned
    length: int  # in bits

    def __post_init__(self) -> None:
        if not 0 <= self.length <= self.family.bits:
            raise AddressError(str(self.length), "length", f"the length is 0 to {self.family.bits}")
        if self.network & self.family.host_masks[self.length]:
            raise AddressError(format_address(self.family, self.network), "address", "host bits are set")

    def __hash__(self) -> int:
        return hash((self.network, self.length))  # of both families: an address of one is hardly one of the other

    def __str__(self) -> str:
        return f"{format_address(self.family, self.network)}/{self.length}"

    def __lt__(self, other: Prefix) -> bool:
        return self.order < other.order

    @property
    def order(self) -> tuple[int, int, int]:
        """Sort key of the canonical order: IPv4 first, by first address, the larger block before those inside it."""
        return self.family.bits, self.network, self.length

    @property
    def last(self) -> int:
        """The highest address of the block, as an unsigned integer."""
        return self.network | self.family.host_masks[self.length]

    @property
    def first_host(self) -> Address:
        """The first address behind the network's own; of a single address, that one."""
        return Address(self.family, min(self.network + 1, self.last))

    def contains(self, other: Prefix) -> bool:
        """Whether every address of `other` is in this block."""
        if self.family is not other.family or self.length > other.length:
            return False
        return self.network == other.network & ~self.family.host_masks[self.length]

    def holds(self, address: Address) -> bool:
        """Whether the address is in this block."""
        return self.family is address.family and self.network == address.value & ~self.family.host_masks[self.length]

    def overlaps(self, other: Prefix) -> bool:
        """Whether the two blocks share an address."""
        return self.contains(other) or other.contains(self)

    @classmethod
    def of_address(cls, address: Address) -> Prefix:
        """Return the block of one address alone."""
        return cls(address.family, address.value, address.family.bits)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        return text_schema(cls, parse_prefix, "ip-prefix", ["10.64.0.0/22", "fd5c:9a1e:40::/64"])


def parse_prefix(text: str) -> Prefix:
    """Read "10.64.0.0/22" or "2001:db8::/32". Raise AddressError naming the wrong part."""
    address_text, slash, length_text = text.strip().partition("/")
    family, address = parse_address(address_text)
    if not slash:
        raise AddressError(text, "length", f"'{address_text}' has no length; a single host is {address_text}/{family.bits}")
    length = parse_length(length_text, family)
    network = address & ~family.host_mask(length)
    if network != address:
        meant = Prefix(family, network, length)
        raise AddressError(text, "address", f"host bits are set in {text.strip()}; did you mean {meant}?")
    return Prefix(family, network, length)


def parse_length(text: str, family: Family) -> int:
    """Read the length of a prefix of a family, in bits. Raise AddressError."""
    if not (text.isascii() and text.isdigit()) or len(text) > 3:
        raise AddressError(text, "length", f"the length '{text}' is not a number of bits from 0 to {family.bits}")
    length = int(text)
    if length > family.bits:
        raise AddressError(text, "length", f"the length /{length} is out of range; it is 0 to {family.bits}")
    return length
