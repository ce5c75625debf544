"""Another site like one that is there: the line that would add it, with networks of the same sizes from free space."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import count
from typing import Final

from pontifex.core.addressing import Family, Prefix
from pontifex.core.kinds import AddressKind, Network, NetworkRole, Site, SiteKind
from pontifex.core.model import Design
from pontifex.core.space.room import NOBODY, Room
from pontifex.core.starting.words import ROLES

_OUTSIDE: Final = {  # by how calls arrive: the words of `words.OUTSIDE`
    (AddressKind.FIXED_PUBLIC, True): "fixed",
    (AddressKind.CHANGING_PUBLIC, True): "dynamic",
    (AddressKind.BEHIND_NAT, True): "NAT with ports forwarded",
    (AddressKind.BEHIND_NAT, False): "behind NAT",
    (AddressKind.CARRIER_NAT, False): "carrier NAT",
}
_KINDS: Final = {
    SiteKind.DATA_CENTRE: "data centre",
    SiteKind.CLOUD: "cloud",
    SiteKind.VEHICLE: "vehicle",
    SiteKind.HOME: "home",
    SiteKind.PARTNER: "partner",
}
_ROLE_WORDS: Final = {
    NetworkRole.GUEST: "guests",
    NetworkRole.SERVER: "servers",
    NetworkRole.MANAGEMENT: "management",
    NetworkRole.TRANSIT: "transit",
    NetworkRole.CONTAINER: "containers",
    NetworkRole.POOL: "pool",
}


def another_like(design: Design, site_id: str) -> str:
    """Return the line by which `plan_sites` adds another site of the sort. Raise KeyError for one that isn't there.

    A network for which there is no room is left out; addresses and names of the outside are the other site's own.
    """
    site = design.site_by_id[site_id]
    parts = [_KINDS.get(site.kind, ""), *_networks(design, site_id), _outside(design, site_id)]
    return f"{_name(design, site)}: {', '.join(filter(None, parts))}"


def _name(design: Design, site: Site) -> str:
    taken = {there.name for there in design.sites}
    return next(name for number in count(2) if (name := f"{site.name} {number}") not in taken)


def _networks(design: Design, site_id: str) -> Iterator[str]:
    """Yield the networks, the largest first, which packs them without a gap into one free block where there is one."""
    room, chosen = Room(design), list[Prefix]()
    for family in Family:
        mine = sorted((n for n in design.networks_of_site(site_id) if n.prefix.family is family), key=lambda n: n.prefix.length)
        size = sum(1 << (family.bits - network.prefix.length) for network in mine)
        whole = next(iter(room.offers(NOBODY, family, family.bits - (size - 1).bit_length(), 1)), None) if mine else None
        start = whole.prefix.network if whole else 0
        for network in mine:
            prefix = Prefix(family, start, network.prefix.length) if whole else _alone(room, network, chosen)
            start += 1 << (family.bits - network.prefix.length)
            if prefix:
                chosen.append(prefix)
                yield f"{prefix} {_called(network)}"


def _alone(room: Room, network: Network, avoid: list[Prefix]) -> Prefix | None:
    offers = room.offers(NOBODY, network.prefix.family, network.prefix.length, 1, avoid)
    return offers[0].prefix if offers else None


def _called(network: Network) -> str:
    """Return the name of a network, with a word for what it is for where the name doesn't say that."""
    said = next((role for pattern, role in ROLES if pattern.search(network.name)), NetworkRole.USER)
    return network.name if said is network.role else f"{network.name} {_ROLE_WORDS.get(network.role, '')}".strip()


def _outside(design: Design, site_id: str) -> str:
    uplink = next(iter(design.uplinks_of_site(site_id)), None)
    return _OUTSIDE.get((uplink.address_kind, uplink.callable(over_tcp=False)), "") if uplink else ""
