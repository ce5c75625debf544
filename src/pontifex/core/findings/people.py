"""Findings about people who dial in: their pool, and the networks that their own router at home may hide."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing.home import HomePrefix, usual_at_home
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Network, NetworkRole, ObjectType, Profile, RenumberNetwork, SplitMode
from pontifex.core.space import Joined, Room, capacity
from pontifex.core.space.widen import widened, wider


def people_findings(design: Design) -> Iterator[Finding]:
    """Yield what is to be said of pools and profiles."""
    pools = {network.id for network in design.networks if network.role is NetworkRole.POOL}
    pools |= {profile.pool_id for profile in design.profiles if profile.pool_id}
    at_home = {network.id: home for network in design.networks if (home := usual_at_home(network.prefix))}
    room = Room(design) if at_home else None
    for network in design.networks:
        home = at_home.get(network.id)
        if network.id in pools and home:
            yield _home(design, network, home, room, "people get their addresses from it")
    for profile in design.profiles:
        yield from _too_small(design, profile)
        for network in _reached(design, profile, at_home):
            if network.id not in pools:
                yield _home(design, network, at_home[network.id], room, f"{profile.name} leads there")


def _reached(design: Design, profile: Profile, at_home: dict[str, HomePrefix]) -> Iterator[Network]:
    """Yield the networks with a home prefix that a profile's people are to reach."""
    if not at_home:
        return
    component = Joined(design).component
    here = component[design.gateway_by_id[profile.gateway_id].site_id]
    for network in design.networks:
        if network.id not in at_home or network.zone or component[network.site_id] != here:
            continue
        named = any(one.overlaps(network.prefix) for one in profile.networks)
        if profile.mode is SplitMode.ALL or named == (profile.mode is SplitMode.ONLY):
            yield network


def _home(design: Design, network: Network, home: HomePrefix, room: Room | None, why: str) -> Finding:
    name = f"{design.site_by_id[network.site_id].name}'s {network.name}"
    words = f"{name} is {network.prefix}, {why}, and {home.prefix} is usual at home: {home.reasoning}"
    best = room.offers(network.site_id, network.prefix.family, network.prefix.length, most=1) if room else ()
    remedies = tuple(
        Remedy(title=f"Renumber it to {one.prefix}", operations=(RenumberNetwork(id=network.id, prefix=one.prefix),))
        for one in best
    )
    place = Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="prefix")
    return finding("address.home-prefix", (place,), words, remedies)


def _too_small(design: Design, profile: Profile) -> Iterator[Finding]:
    pool = design.network_by_id.get(profile.pool_id or "")
    if pool is None or profile.people is None or profile.people <= capacity(pool.prefix):
        return
    why = f"{profile.name} is for {profile.people} people, and the pool {pool.prefix} has {capacity(pool.prefix)} addresses"
    grown = wider(design, pool, profile.people)
    remedies: tuple[Remedy, ...] = ()
    if grown:
        title = f"Widen {pool.name} to {grown} where it stands"
        remedies = (Remedy(title=title, operations=tuple(widened(design, pool, grown))),)
    place = Place(type=ObjectType.PROFILE, id=profile.id, name=profile.name, field="people")
    yield finding("profile.pool-too-small", (place,), why, remedies)
