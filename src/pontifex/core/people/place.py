"""The places of a device's day: the network that it is in there, what it is given, and what gets out."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

from pontifex.core.addressing import Address, AddressError, Prefix
from pontifex.core.addressing.home import HOME_PREFIXES
from pontifex.core.addressing.prefix import parse_prefix
from pontifex.core.choice import Choice
from pontifex.core.kinds import Network, NetworkRole, Profile
from pontifex.core.model import Design


class PlaceKind(Choice):
    """Where a device is."""

    HOME = "home"
    HOTEL = "hotel"
    OFFICE = "office"
    GUEST = "guest"  # the office's network for guests
    PROXY = "proxy"  # an office of somebody else, where only a proxy gets out


@dataclass(frozen=True, slots=True)
class DevicePlace:
    """One place of a device's day."""

    kind: PlaceKind
    title: str
    prefix: Prefix  # of the network that it is in
    suffixes: tuple[str, ...] = ()  # that the network gives it
    only_tcp_out: bool = False  # only TCP to port 443 gets out
    network: Network | None = None  # of the design; None outside

    @property
    def address(self) -> Address:
        """An address that a device has there."""
        return Address(self.prefix.family, min(self.prefix.network + _HOST, self.prefix.last))

    @property
    def resolver(self) -> Address:
        """Whom the network there tells a device to ask for names."""
        return self.prefix.first_host

    @property
    def is_inside(self) -> bool:
        """Whether it is a network of the design that isn't isolated."""
        return self.network is not None and not self.network.zone


_HOST: Final = 57  # neither a router's nor a server's usual place
_HOME: Final = HOME_PREFIXES[0].prefix
_HOTEL: Final = HOME_PREFIXES[2].prefix
_ELSEWHERE: Final = HOME_PREFIXES[12].prefix


def places(design: Design, profile: Profile) -> tuple[DevicePlace, ...]:
    """Return the places of a day of those whom a profile is for; the office is the dial-in gateway's."""
    return tuple(_places(design, profile))


def _places(design: Design, profile: Profile) -> Iterator[DevicePlace]:
    yield DevicePlace(PlaceKind.HOME, "at home", _HOME)
    yield DevicePlace(PlaceKind.HOTEL, "in a hotel", _HOTEL, only_tcp_out=True)
    yield DevicePlace(PlaceKind.PROXY, "behind a proxy", _ELSEWHERE, only_tcp_out=True)
    site_id = design.gateway_by_id[profile.gateway_id].site_id
    at_site = design.networks_of_site(site_id)
    for kind, role, title in (
        (PlaceKind.OFFICE, NetworkRole.USER, "at the office"),
        (PlaceKind.GUEST, NetworkRole.GUEST, "at the office, as a guest"),
    ):
        network = next((candidate for candidate in at_site if candidate.role is role), None)
        if network:
            suffixes = (network.dhcp_suffix,) if network.dhcp_suffix else ()
            yield DevicePlace(kind, title, network.prefix, suffixes, network=network)


def place_named(design: Design, profile: Profile, text: str) -> DevicePlace:
    """Return the place of a name, or a home with a prefix. Raise AddressError where it is neither."""
    known = places(design, profile)
    named = next((place for place in known if place.kind.value == text.strip().lower()), None)
    if named:
        return named
    try:
        prefix = parse_prefix(text)
    except AddressError as error:
        names = ", ".join(place.kind.value for place in known)
        raise AddressError(text, "place", f"'{text}' is no place ({names}), and no prefix: {error.reason}") from None
    return replace(known[0], title=f"at home in {prefix}", prefix=prefix)
