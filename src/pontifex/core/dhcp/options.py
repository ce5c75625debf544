"""Options of DHCP (RFC 2132) that a scope hands out and that messages need, with their octets."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from enum import IntEnum
from typing import Final

from pontifex.core.addressing import Address, Family

MOST_OCTETS: Final = 255  # of one option; longer ones are split over several (RFC 3396)
_PAD: Final = 0
_END: Final = 255


class OptionCode(IntEnum):
    """The codes of IANA's registry "BOOTP Vendor Extensions and DHCP Options"."""

    SUBNET_MASK = 1
    ROUTER = 3
    RESOLVERS = 6
    DOMAIN_NAME = 15
    REQUESTED_ADDRESS = 50
    LEASE_TIME = 51
    MESSAGE_TYPE = 53
    SERVER_ID = 54
    PARAMETERS = 55
    RENEWAL_TIME = 58
    REBINDING_TIME = 59
    CLIENT_ID = 61
    CLASSLESS_ROUTES = 121


class OptionsError(ValueError):
    """Octets that are no options; the message says where they cease to be."""


def encode_options(options: Mapping[int, bytes]) -> bytes:
    """Return options as octets in the order given, a long one split over several (RFC 3396), and the end behind them."""
    octets = bytearray()
    for code, value in options.items():
        for at in range(0, max(len(value), 1), MOST_OCTETS):
            part = value[at : at + MOST_OCTETS]
            octets += bytes((code, len(part))) + part
    return bytes(octets) + bytes((_END,))


def decode_options(octets: bytes) -> dict[int, bytes]:
    """Return the options in some octets; parts of one code are one value. Raise OptionsError."""
    found: dict[int, bytes] = {}
    at = 0
    while at < len(octets):
        code = octets[at]
        if code == _END:
            return found
        if code == _PAD:
            at += 1
            continue
        if at + 1 >= len(octets):
            raise OptionsError(f"octet {at}: option {code} has no length")
        end = at + 2 + octets[at + 1]
        if end > len(octets):
            raise OptionsError(f"octet {at}: option {code} takes {octets[at + 1]} octets, and {len(octets) - at - 2} are left")
        found[code] = found.get(code, b"") + octets[at + 2 : end]
        at = end
    raise OptionsError("the options have no end")


def addresses_value(addresses: Iterable[Address]) -> bytes:
    """Return addresses as an option holds them."""
    return b"".join(address.value.to_bytes(4) for address in addresses)


def addresses_in(value: bytes) -> tuple[Address, ...]:
    """Return the addresses of an option. Raise OptionsError."""
    if not value or len(value) % 4:
        raise OptionsError(f"{len(value)} octets are no addresses")
    return tuple(Address(Family.V4, int.from_bytes(value[at : at + 4])) for at in range(0, len(value), 4))


def seconds_value(seconds: int) -> bytes:
    """Return a time as an option holds it."""
    return seconds.to_bytes(4)
