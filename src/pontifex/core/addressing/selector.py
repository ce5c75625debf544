"""A traffic selector: a range of addresses, a protocol and a range of ports (RFC 7296 section 3.13.1)."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

from pydantic_core import core_schema

from pontifex.core.addressing.address import Address, AddressError, Family, format_address, parse_address, text_schema
from pontifex.core.addressing.prefix import Prefix, parse_prefix

ANY_PROTOCOL: Final = (0, 255)
ANY_PORT: Final = (0, 65535)
# IANA "Protocol Numbers"; ports belong to those that have them
PROTOCOLS: Final = {"icmp": 1, "tcp": 6, "udp": 17, "gre": 47, "esp": 50, "ah": 51, "icmpv6": 58, "ospf": 89, "sctp": 132}
_NAMES: Final = {number: name for name, number in PROTOCOLS.items()}
WITH_PORTS: Final = frozenset({6, 17, 132})
_MOST_TEXT: Final = 160


@dataclass(frozen=True, slots=True)
class Selector:
    """What may pass on one side: addresses, protocols and ports, each as first and last. Invariant: first <= last."""

    family: Family
    first: int  # address, unsigned
    last: int
    protocols: tuple[int, int] = ANY_PROTOCOL
    ports: tuple[int, int] = ANY_PORT

    def __hash__(self) -> int:
        return hash((self.first, self.last, self.protocols, self.ports))

    def __str__(self) -> str:
        if self.is_every_protocol:
            return self._addresses()
        return " ".join(filter(None, (self._addresses(), self._protocol(), self._ports())))

    def __lt__(self, other: Selector) -> bool:
        return self.order < other.order

    @classmethod
    def of(cls, prefix: Prefix) -> Selector:
        """Return the selector of everything in a prefix."""
        return cls(prefix.family, prefix.network, prefix.last)

    @property
    def order(self) -> tuple[int, int, int, tuple[int, int], tuple[int, int]]:
        """Sort key of the canonical order: IPv4 first, by address, the larger range before those inside it."""
        return self.family.bits, self.first, -self.last, self.protocols, self.ports

    @property
    def is_all(self) -> bool:
        """Whether this is all traffic of its family."""
        return (self.first, self.last) == (0, self.family.last) and self.is_every_protocol

    @property
    def is_every_protocol(self) -> bool:
        """Whether neither protocol nor port is limited."""
        return self.protocols == ANY_PROTOCOL and self.ports == ANY_PORT

    def is_about(self, protocols: tuple[int, int], ports: tuple[int, int]) -> bool:
        """Whether anything of some protocols and ports is selected, whatever its address."""
        met = protocols[0] <= self.protocols[1] and self.protocols[0] <= protocols[1]
        return met and ports[0] <= self.ports[1] and self.ports[0] <= ports[1]

    def holds(self, address: Address) -> bool:
        """Whether an address is selected, for some protocol and port."""
        return self.family is address.family and self.first <= address.value <= self.last

    def contains(self, other: Selector) -> bool:
        """Whether all that `other` selects is selected here, too."""
        return (
            self.family is other.family
            and self.first <= other.first
            and other.last <= self.last
            and self.protocols[0] <= other.protocols[0]
            and other.protocols[1] <= self.protocols[1]
            and self.ports[0] <= other.ports[0]
            and other.ports[1] <= self.ports[1]
        )

    @property
    def prefix(self) -> Prefix | None:
        """The prefix that holds exactly this range of addresses; None when no single one does."""
        length = self.length
        return None if length is None else Prefix(self.family, self.first, length)

    @property
    def length(self) -> int | None:
        """The length of that prefix, in bits."""
        family = self.family
        length = family.bits - (self.first ^ self.last).bit_length()
        mask = family.host_masks[length]
        return length if not self.first & mask and self.last & mask == mask else None

    def _addresses(self) -> str:
        first, length = format_address(self.family, self.first), self.length
        return f"{first}-{format_address(self.family, self.last)}" if length is None else f"{first}/{length}"

    def _protocol(self) -> str:
        low, high = self.protocols
        if self.protocols == ANY_PROTOCOL:
            return ""
        return _NAMES.get(low, f"protocol {low}") if low == high else f"protocol {low}-{high}"

    def _ports(self) -> str:
        low, high = self.ports
        if self.ports == ANY_PORT:
            return ""
        word = "" if self.protocols != ANY_PROTOCOL else "port "
        return f"{word}{low}" if low == high else f"{word}{low}-{high}"

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        examples = ["10.64.0.0/22", "10.64.4.10-10.64.4.60", "10.64.8.0/23 tcp 443"]
        return text_schema(cls, parse_selector, "traffic-selector", examples)


@lru_cache(maxsize=65_536)  # both ends of a tunnel name the same networks
def parse_selector(text: str) -> Selector:
    """Read "10.64.0.0/22", "10.64.4.10-10.64.4.60", or either with a protocol and ports: "10.64.8.0/23 tcp 443".

    A protocol is a name or "protocol 47"; ports are one or a range. Raise AddressError naming the wrong part.
    """
    if len(text) > _MOST_TEXT:
        raise AddressError(text[:_MOST_TEXT], "address", "this is too long for a network")
    addresses, *rest = re.sub(r"\s*-\s*", "-", text.strip()).split() or [""]
    family, first, last = _parse_addresses(addresses)
    words = [word.lower() for word in rest]
    protocols = _take_protocol(text, words)
    ports = _take_ports(text, words, protocols)
    if words:
        raise AddressError(text, "port", f"'{words[0]}' at the end of '{text.strip()}' is too much")
    return Selector(family, first, last, protocols, ports)


def _parse_addresses(text: str) -> tuple[Family, int, int]:
    low, dash, high = text.partition("-")
    if not dash:
        prefix = parse_prefix(text)
        return prefix.family, prefix.network, prefix.last
    family, first = parse_address(low)
    other, last = parse_address(high)
    if family is not other:
        raise AddressError(text, "address", f"'{text}' mixes IPv4 and IPv6")
    if last < first:
        raise AddressError(text, "address", f"'{text}' ends before it starts")
    return family, first, last


def _take_protocol(text: str, words: list[str]) -> tuple[int, int]:
    """Take the protocol from the front of the words, if one stands there."""
    if not words or words[0] == "port":
        return ANY_PROTOCOL
    word = words.pop(0)
    if word in PROTOCOLS:
        return PROTOCOLS[word], PROTOCOLS[word]
    if word != "protocol" or not words:
        names = ", ".join(PROTOCOLS)
        raise AddressError(text, "protocol", f"'{word}' is no protocol; say {names}, or a number as in 'protocol 47'")
    return _range(text, words.pop(0), "protocol", ANY_PROTOCOL[1])


def _take_ports(text: str, words: list[str], protocols: tuple[int, int]) -> tuple[int, int]:
    if words and words[0] == "port":
        words.pop(0)
    if not words:
        return ANY_PORT
    low, high = protocols
    if protocols != ANY_PROTOCOL and not (low == high and low in WITH_PORTS):
        raise AddressError(text, "port", f"{_NAMES.get(low, f'protocol {low}')} has no ports")
    return _range(text, words.pop(0), "port", ANY_PORT[1])


def _range(text: str, word: str, what: str, most: int) -> tuple[int, int]:
    low, dash, high = word.partition("-")
    ends = (low, high if dash else low)
    if not all(end.isascii() and end.isdigit() and len(end) <= 5 and int(end) <= most for end in ends):
        raise AddressError(text, what, f"'{word}' is no {what} from 0 to {most}")
    first, last = int(ends[0]), int(ends[1])
    if last < first:
        raise AddressError(text, what, f"'{word}' ends before it starts")
    return first, last
