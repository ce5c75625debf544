"""Classless static routes as DHCP hands them out: option 121 (RFC 3442)."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from pydantic_core import core_schema

from pontifex.core.addressing.address import Address, AddressError, Family, parse_address, text_schema
from pontifex.core.addressing.prefix import Prefix, parse_prefix

OPTION: Final = 121
MOST_OCTETS: Final = 255  # of one option; longer ones are split over several (RFC 3396)
_ROUTER_OCTETS: Final = 4


@dataclass(frozen=True, slots=True)
class DhcpRoute:
    """A route that a client is to take over."""

    prefix: Prefix
    via: Address

    def __str__(self) -> str:
        return f"{self.prefix} via {self.via}"

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: Any) -> core_schema.CoreSchema:
        return text_schema(cls, _parse_one, "route", ["10.65.0.0/16 via 10.64.0.1"])


class DhcpRoutesError(AddressError):
    """Octets that are no such option, or a text that is no such routes."""

    def __init__(self, reason: str) -> None:
        super().__init__("", "route", reason)


def encode_dhcp_routes(routes: Sequence[DhcpRoute]) -> bytes:
    """Return the octets of the option: for each route its width, as many octets of the prefix as matter, and the router.

    Raise DhcpRoutesError for IPv6, which DHCP for IPv4 can't carry.
    """
    octets = b""
    for route in routes:
        if Family.V6 in (route.prefix.family, route.via.family):
            raise DhcpRoutesError(f"{route}: option {OPTION} carries IPv4 routes alone")
        significant = -(-route.prefix.length // 8)
        octets += bytes([route.prefix.length])
        octets += route.prefix.network.to_bytes(4, "big")[:significant]
        octets += route.via.value.to_bytes(_ROUTER_OCTETS, "big")
    return octets


def decode_dhcp_routes(octets: bytes) -> tuple[DhcpRoute, ...]:
    """Return the routes of an option, with or without its code and length in front.

    Raise DhcpRoutesError naming the octet where it ceases to be one.
    """
    body = octets
    if len(octets) >= 2 and octets[0] == OPTION:  # no width is that large
        if octets[1] != len(octets) - 2:
            raise DhcpRoutesError(f"octet 1: the length is {octets[1]}, and {len(octets) - 2} octets follow")
        body = octets[2:]
    if not body:
        raise DhcpRoutesError("no octets: the option holds one route at least (RFC 3442)")
    routes = []
    at = 0
    while at < len(body):
        route, at = _take(body, at)
        routes.append(route)
    return tuple(routes)


def _take(body: bytes, at: int) -> tuple[DhcpRoute, int]:
    width = body[at]
    if width > Family.V4.bits:
        raise DhcpRoutesError(f"octet {at}: the width {width} is more than 32")
    significant = -(-width // 8)
    end = at + 1 + significant + _ROUTER_OCTETS
    if end > len(body):
        raise DhcpRoutesError(f"octet {at}: a route of width {width} takes {end - at} octets, and {len(body) - at} are left")
    network = int.from_bytes(body[at + 1 : at + 1 + significant].ljust(4, b"\0"), "big")
    if network & Family.V4.host_mask(width):
        raise DhcpRoutesError(f"octet {at}: bits are set behind the width of {width}")
    router = int.from_bytes(body[end - _ROUTER_OCTETS : end], "big")
    return DhcpRoute(Prefix(Family.V4, network, width), Address(Family.V4, router)), end


def with_default(routes: Sequence[DhcpRoute], router: Address) -> tuple[DhcpRoute, ...]:
    """Return routes with the default route among them: a client that takes this option ignores option 3 (RFC 3442)."""
    if any(route.prefix.length == 0 for route in routes):
        return tuple(routes)
    return (DhcpRoute(Prefix(Family.V4, 0, 0), router), *routes)


def without_default(routes: Sequence[DhcpRoute]) -> tuple[DhcpRoute, ...]:
    """Return routes without the default one: clients keep the one that they have. Raise DhcpRoutesError where none is left."""
    found = tuple(route for route in routes if route.prefix.length)
    if not found:
        raise DhcpRoutesError("nothing but a default route is given, and that is left out")
    return found


def parse_dhcp_routes(text: str) -> tuple[DhcpRoute, ...]:
    """Read "10.65.0.0/16 via 10.64.0.1, 0.0.0.0/0 via 10.64.0.254". Raise DhcpRoutesError naming the wrong route."""
    found = [_parse_one(part) for part in filter(None, (part.strip() for part in re.split(r"[,;\n]", text)))]
    if not found:
        raise DhcpRoutesError("no route is given")
    return tuple(found)


def _parse_one(text: str) -> DhcpRoute:
    match = re.fullmatch(r"(\S+)\s+(?:via\s+)?(\S+)", text.strip())
    if match is None:
        raise DhcpRoutesError(f"'{text}' is not written as PREFIX via ADDRESS")
    try:
        prefix = "0.0.0.0/0" if match[1] == "default" else match[1]
        return DhcpRoute(parse_prefix(prefix), Address(*parse_address(match[2])))
    except AddressError as error:
        raise DhcpRoutesError(f"'{text}': {error.reason}") from None


def parse_octets(text: str) -> bytes:
    """Read hexadecimal octets, with blanks, colons, dashes or 0x between them or not. Raise DhcpRoutesError."""
    plain = re.sub(r"0x|[\s:,-]", "", text.strip().lower())
    if len(plain) % 2 or not re.fullmatch(r"[0-9a-f]*", plain):
        raise DhcpRoutesError("this is not written in hexadecimal octets")
    return bytes.fromhex(plain)
