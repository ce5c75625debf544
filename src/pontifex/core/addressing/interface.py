"""An address with the length of its network: what an interface is given, host bits and all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic_core import core_schema

from pontifex.core.addressing.address import Address, AddressError, Family, format_address, parse_address, text_schema
from pontifex.core.addressing.prefix import Prefix, parse_length


@dataclass(frozen=True, slots=True)
class Interface:
    """One address in its network. Invariant: the length fits the family."""

    family: Family
    value: int  # the address, unsigned
    length: int  # in bits

    def __str__(self) -> str:
        return f"{format_address(self.family, self.value)}/{self.length}"

    @property
    def address(self) -> Address:
        """The address alone."""
        return Address(self.family, self.value)

    @property
    def prefix(self) -> Prefix:
        """The network that the address stands in."""
        return Prefix(self.family, self.value & ~self.family.host_mask(self.length), self.length)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        return text_schema(cls, parse_interface, "ip-interface", ["10.64.255.1/30"])


def parse_interface(text: str) -> Interface:
    """Read "10.64.255.1/30". Raise AddressError naming the wrong part."""
    address_text, slash, length_text = text.strip().partition("/")
    family, value = parse_address(address_text)
    if not slash:
        raise AddressError(text, "length", f"'{address_text}' has no length, such as {address_text}/30")
    return Interface(family, value, parse_length(length_text, family))
