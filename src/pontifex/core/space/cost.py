"""What it costs to move a network: how many things must be touched, and how bad it is when something goes wrong."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.kinds import Assignment, Network, SiteKind
from pontifex.core.model import Design, naming_tunnels

# Points, so that costs can be added and compared. One point is one thing that somebody has to touch by hand.
BASE: Final = 2.0  # the change itself, even for an empty network
STATIC_HOST: Final = 1.0
RESERVATION: Final = 0.25  # changed at the server; the client follows at its next lease
LEASE: Final = 0.01  # follows by itself, but somebody may call
TUNNEL: Final = 4.0  # both ends, at one time
HARD_TO_REACH: Final = 20.0  # nobody is there, or the way there goes through what is moved
PARTNER: Final = 1000.0  # not ours to move


@dataclass(frozen=True, slots=True, kw_only=True)
class CostItem:
    """One reason why a move costs something."""

    words: Annotated[str, Field(title="What", examples=["12 hosts with a static address"])]
    points: Annotated[float, Field(title="Points")]


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveCost:
    """What moving one network costs."""

    network_id: str
    items: Annotated[tuple[CostItem, ...], Field(title="What it is made of")]
    total: Annotated[float, Field(title="Points in all")]


def move_costs(design: Design, network_ids: Collection[str]) -> dict[str, MoveCost]:
    """Return what moving each of some networks costs."""
    networks = [design.network_by_id[id_] for id_ in sorted(network_ids)]
    users = naming_tunnels(design, networks)
    return {network.id: _cost(design, network, users[network.id]) for network in networks}


def _cost(design: Design, network: Network, tunnels: int) -> MoveCost:
    hosts = design.hosts_of_network(network.id)
    fixed = sum(1 for host in hosts if host.assignment is Assignment.STATIC)
    leases = sum(address_range.size for address_range in network.dhcp_ranges if address_range.within(network.prefix))
    site = design.site_by_id[network.site_id]
    counted = (
        ("the change itself", 1, BASE),
        (_counted(fixed, "host with a static address", "hosts with static addresses"), fixed, STATIC_HOST),
        (_counted(len(hosts) - fixed, "reservation", "reservations"), len(hosts) - fixed, RESERVATION),
        (_counted(leases, "lease", "leases"), leases, LEASE),
        (_counted(tunnels, "tunnel that names it, at both ends", "tunnels that name it, at both ends"), tunnels, TUNNEL),
        ("the site is hard to reach if it goes wrong", int(hard_to_reach(design, network)), HARD_TO_REACH),
        (f"it is {site.organisation or site.name}'s, not ours to move", int(site.kind is SiteKind.PARTNER), PARTNER),
    )
    items = tuple(CostItem(words=words, points=round(count * points, 2)) for words, count, points in counted if count)
    return MoveCost(network_id=network.id, items=items, total=round(sum(item.points for item in items), 2))


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


def hard_to_reach(design: Design, network: Network) -> bool:
    """Whether the site is reached only through what is moved: a vessel, or one tunnel alone that names the network.

    Of several networks at a site, one that stays leaves a way in.
    """
    site = design.site_by_id[network.site_id]
    if site.kind is SiteKind.VEHICLE:
        return True
    callable_ = any(uplink.callable() for uplink in design.uplinks_of_site(site.id))
    others = [n for n in design.networks_of_site(site.id) if n.id != network.id and not n.zone]
    return not callable_ and len(design.ends_at_site(site.id)) <= 1 and not others
