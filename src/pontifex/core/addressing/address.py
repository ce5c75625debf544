"""One IPv4 or IPv6 address, read from text with the exact reason when it can't be."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

from pydantic_core import PydanticCustomError, core_schema

from pontifex.core.choice import Choice

MAX_ADDRESS_TEXT: Final = 45  # the longest IPv6 text, with an embedded IPv4 part


class Family(Choice):
    """The address families. The value is the width of an address in bits."""

    V4 = 32
    V6 = 128

    def __init__(self, bits: int) -> None:
        self.bits: Final = bits  # width of an address; kept beside the value, which is slow to reach
        self.last: Final = (1 << bits) - 1  # the highest address, as an unsigned integer
        self.host_masks: Final = tuple((1 << (bits - length)) - 1 for length in range(bits + 1))  # by the length of a prefix

    @property
    def label(self) -> str:
        """What people call it."""
        return "IPv4" if self is Family.V4 else "IPv6"

    def host_mask(self, length: int) -> int:
        """Return the mask that keeps the host bits behind a prefix of `length` bits."""
        return self.host_masks[length]


class AddressError(ValueError):
    """Text that is no address or prefix: what was read, which part of it is wrong, and why."""

    def __init__(self, text: str, part: str, reason: str) -> None:
        super().__init__(reason)
        self.text, self.part, self.reason = text, part, reason


@dataclass(frozen=True, slots=True)
class Address:
    """One address. Invariant: the value fits the family."""

    family: Family
    value: int  # unsigned

    def __post_init__(self) -> None:
        if not 0 <= self.value <= self.family.last:
            raise AddressError(hex(self.value), "address", "the value does not fit the address family")

    def __hash__(self) -> int:
        return hash(self.value)  # of both families: fewer steps than the hash of a pair

    def __str__(self) -> str:
        return format_address(self.family, self.value)

    def __lt__(self, other: Address) -> bool:
        return (self.family.bits, self.value) < (other.family.bits, other.value)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        return text_schema(cls, parse_address_value, "ip-address", ["198.51.100.10", "2001:db8::1"])


def text_schema(kind: type, parse: Any, name: str, examples: list[str]) -> core_schema.CoreSchema:
    """Return the Pydantic schema of a value that is written as text; a bad text keeps its exact reason."""

    def read(value: Any) -> Any:
        if isinstance(value, kind):
            return value
        if not isinstance(value, str):
            raise PydanticCustomError("address", "must be written as text, for example {example}", {"example": examples[0]})
        try:
            return parse(value)
        except AddressError as error:
            raise PydanticCustomError("address", "{reason}", {"reason": error.reason}) from None

    schema = core_schema.no_info_plain_validator_function(read, serialization=core_schema.to_string_ser_schema(), metadata={})
    schema["metadata"] = {
        "pydantic_js_functions": [lambda _schema, _handler: {"type": "string", "format": name, "examples": examples}]
    }
    return schema


def parse_address_value(text: str) -> Address:
    """Read one address of either family. Raise AddressError naming the wrong part."""
    return Address(*parse_address(text))


@lru_cache(maxsize=4096)
def parse_address(text: str) -> tuple[Family, int]:
    """Read "198.51.100.10" or "2001:db8::1" (RFC 4291 section 2.2) as family and unsigned integer.

    Raise AddressError with the reason; nothing is guessed: leading zeros, spaces and zone names are refused.
    """
    if not text:
        raise AddressError(text, "address", "the address is empty")
    if len(text) > MAX_ADDRESS_TEXT:
        raise AddressError(text, "address", "this is too long for an address")
    if ":" in text:
        return Family.V6, _parse_v6(text)
    return Family.V4, _parse_v4(text, text)


def _parse_v4(text: str, whole: str) -> int:
    octets = text.split(".")
    if len(octets) != 4:
        raise AddressError(whole, "address", f"'{text}' has {len(octets)} parts; an IPv4 address has four, like 198.51.100.10")
    value = 0
    for octet in octets:
        if not (octet.isascii() and octet.isdigit()):
            raise AddressError(whole, "address", f"'{octet}' in '{text}' is not a decimal number")
        if len(octet) > 1 and octet[0] == "0":
            raise AddressError(whole, "address", f"'{octet}' in '{text}' has a leading zero, which some devices read as octal")
        if len(octet) > 3 or int(octet) > 255:
            raise AddressError(whole, "address", f"'{octet}' in '{text}' is more than 255")
        value = value << 8 | int(octet)
    return value


def _parse_v6(text: str) -> int:
    if "%" in text:
        raise AddressError(text, "address", f"'{text}' names an interface after '%'; give the address alone")
    if text.count("::") > 1:
        raise AddressError(text, "address", f"'{text}' has '::' more than once")
    head, gap, tail = text.partition("::")
    before, after = _v6_groups(head, text), _v6_groups(tail, text)
    missing = 8 - len(before) - len(after)
    if missing < 0 or (gap and missing < 1):
        raise AddressError(text, "address", f"'{text}' has too many groups; an IPv6 address has eight")
    if not gap and missing:
        raise AddressError(text, "address", f"'{text}' has {len(before)} groups; an IPv6 address has eight, or '::' once")
    value = 0
    for group in before + [0] * missing + after:
        value = value << 16 | group
    return value


def _v6_groups(text: str, whole: str) -> list[int]:
    if not text:
        return []
    groups: list[int] = []
    words = text.split(":")
    for index, word in enumerate(words):
        if "." in word and index == len(words) - 1:
            embedded = _parse_v4(word, whole)
            groups += [embedded >> 16, embedded & 0xFFFF]
        elif 1 <= len(word) <= 4 and all(letter in "0123456789abcdefABCDEF" for letter in word):
            groups.append(int(word, 16))
        else:
            raise AddressError(whole, "address", f"'{word}' in '{whole}' is not a group of one to four hexadecimal digits")
    return groups


def format_address(family: Family, value: int) -> str:
    """Write an address in its canonical text: dotted decimal, or RFC 5952 section 4 for IPv6."""
    if family is Family.V4:
        return f"{value >> 24}.{value >> 16 & 0xFF}.{value >> 8 & 0xFF}.{value & 0xFF}"
    groups = [value >> shift & 0xFFFF for shift in range(112, -1, -16)]
    start, size = _longest_zero_run(groups)
    if size < 2:  # RFC 5952 section 4.2.2: one group of zeros is not shortened
        return ":".join(f"{group:x}" for group in groups)
    head = ":".join(f"{group:x}" for group in groups[:start])
    tail = ":".join(f"{group:x}" for group in groups[start + size :])
    return f"{head}::{tail}"


def _longest_zero_run(groups: list[int]) -> tuple[int, int]:
    """Return start and size of the first longest run of zero groups (RFC 5952 section 4.2.3)."""
    best = (0, 0)
    start = 0
    for index, group in enumerate([*groups, 1]):
        if group:
            if index - start > best[1]:
                best = (start, index - start)
            start = index + 1
    return best
