"""Findings about people who dial in: their pool, what their split forgets or leaks, and what their own router may hide."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from pontifex.core.addressing import AddressSet, Family, Prefix
from pontifex.core.addressing.home import HomePrefix, usual_at_home
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import MOST_NAMED, Place, Remark, more_than_named, network_of, remark
from pontifex.core.kinds import Network, NetworkRole, ObjectType, Profile, SplitMode
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, RenumberNetwork, put
from pontifex.core.reasons import named, people
from pontifex.core.routing import Split
from pontifex.core.routing.split.split import missing
from pontifex.core.space import JoinedSites, Room, handed_out, host_range
from pontifex.core.space.widen import widened, wider


def people_findings(design: Design, joined: JoinedSites) -> Iterator[Remark]:
    """Yield what is to be said of pools, and of networks that people's own routers may hide."""
    pools = {network.id for network in design.networks if network.role is NetworkRole.POOL}
    pools |= {profile.pool_id for profile in design.profiles if profile.pool_id}
    at_home = {network.id: home for network in design.networks if (home := usual_at_home(network.prefix))}
    for network in design.networks:
        home = at_home.get(network.id)
        if network.id in pools and home:
            yield _home(design, network, home, people.PoolOfPeople())
    for profile in design.profiles:
        yield from _too_small(design, profile)
        for network in _reached(design, profile, at_home, joined):
            if network.id not in pools:
                yield _home(design, network, at_home[network.id], people.ProfileLeadsThere(named(profile)))


def _reached(design: Design, profile: Profile, at_home: dict[str, HomePrefix], joined: JoinedSites) -> Iterator[Network]:
    """Yield the networks with a home prefix that a profile's people are to reach."""
    if not at_home:
        return
    component = joined.component
    here = component[design.gateway_by_id[profile.gateway_id].site_id]
    for network in design.networks:
        if network.id not in at_home or network.zone or component[network.site_id] != here:
            continue
        named = any(prefix.overlaps(network.prefix) for prefix in profile.networks)
        if profile.mode is SplitMode.ALL or named == (profile.mode is SplitMode.ONLY):
            yield network


def _home(design: Design, network: Network, home: HomePrefix, why: people.PoolOfPeople | people.ProfileLeadsThere) -> Remark:
    usual = people.UsualAtHome(network_of(design, network), network.prefix, why, home.prefix, home.reasoning)
    place = Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="prefix")
    return remark(Code.ADDRESS_HOME_PREFIX, (place,), usual, partial(_renumbered, design, network))


def _renumbered(design: Design, network: Network) -> Iterator[Remedy]:
    for offer in Room(design).offers(network.site_id, network.prefix.family, network.prefix.length, most=1):
        yield Remedy(title=f"Renumber it to {offer.prefix}", operations=(RenumberNetwork(id=network.id, prefix=offer.prefix),))


def _too_small(design: Design, profile: Profile) -> Iterator[Remark]:
    pool = design.network_by_id.get(profile.pool_id or "")
    if pool is None or profile.people is None or profile.people <= handed_out(pool):
        return
    room = handed_out(pool)
    has = people.RangesHandOut(pool.prefix) if pool.dhcp_ranges else people.PoolHas(pool.prefix)
    why = people.PoolTooSmall(named(profile), profile.people, has, room)
    yield remark(Code.PROFILE_POOL_TOO_SMALL, (_place(profile, "people"),), why, partial(_grown, design, pool, profile.people))


def _grown(design: Design, pool: Network, people: int) -> Iterator[Remedy]:
    """Hand out more of the pool where it has room, or else widen it where it stands, with all of it handed out."""
    whole = (host_range(pool.prefix),)
    all_of_it = pool.changed(dhcp_ranges=whole)
    if pool.dhcp_ranges and handed_out(all_of_it) >= people:
        yield Remedy(title=f"Hand out all of {pool.prefix}: {whole[0]}", operations=(put(all_of_it),))
    grown = wider(design, pool, people)
    if grown and grown != pool.prefix:
        handing = pool.changed(dhcp_ranges=(host_range(grown),) if pool.dhcp_ranges else ())
        yield Remedy(title=f"Widen {pool.name} to {grown} where it stands", operations=tuple(widened(design, handing, grown)))


def split_findings(
    design: Design, profile: Profile, pool: Network | None, split: Split, forgotten: tuple[Prefix, ...]
) -> Iterator[Remark]:
    """Yield what a split forgets of the networks that its gateway leads to, families beside it, and names asked elsewhere."""
    if forgotten and profile.mode is not SplitMode.ALL:
        forgets = people.Forgets(
            named(profile), tuple(_called(design, prefix) for prefix in forgotten[:MOST_NAMED]), more_than_named(forgotten)
        )
        yield remark(Code.PROFILE_FORGETS, (_place(profile, "networks"),), forgets, partial(_remembered, profile, forgotten))
    for family in split.leaks:
        leaks = people.LeaksFamily(named(profile), pool.prefix if pool else None, family)
        yield remark(Code.PROFILE_LEAKS_FAMILY, (_place(profile, "mode"),), leaks)
    if pool and profile.mode is SplitMode.ONLY and any(route.prefix.length == 0 for route in pool.dhcp_routes):
        why = people.DefaultInside(named(profile), named(pool))
        place = Place(type=ObjectType.NETWORK, id=pool.id, name=pool.name, field="dhcp_routes")
        yield remark(Code.PROFILE_DEFAULT_INSIDE, (place, _place(profile, "mode")), why, partial(_without_default, pool))
    if profile.suffixes and not profile.resolvers:
        without = people.NamesWithoutResolver(named(profile), profile.suffixes)
        yield remark(Code.DNS_LEAK, (_place(profile, "resolvers"),), without)
    beside = [resolver for resolver in profile.resolvers if missing(split, (Prefix.of_address(resolver),))]
    if beside:
        asks = people.ResolverBeside(named(profile), tuple(beside))
        yield remark(Code.DNS_RESOLVER_BESIDE, (_place(profile, "resolvers"),), asks)


def _without_default(pool: Network) -> Iterator[Remedy]:
    kept = tuple(route for route in pool.dhcp_routes if route.prefix.length)
    yield Remedy(title="Leave the default route out", operations=(put(pool.changed(dhcp_routes=kept)),))


def _remembered(profile: Profile, forgotten: tuple[Prefix, ...]) -> Iterator[Remedy]:
    """Take what was forgotten into the split, or out of its exceptions, in the fewest prefixes."""
    networks: list[Prefix] = []
    for family in Family:
        named, wanted = AddressSet.of(profile.networks, family), AddressSet.of(forgotten, family)
        networks += (named | wanted if profile.mode is SplitMode.ONLY else named - wanted).prefixes()
    changed = profile.changed(networks=tuple(networks))
    yield Remedy(title="Send them through the tunnel, too", operations=(put(changed),))


def _called(design: Design, prefix: Prefix) -> people.NetworkWithPrefix:
    network = next(candidate for candidate in design.networks if candidate.prefix == prefix)
    return people.NetworkWithPrefix(network_of(design, network), prefix)


def _place(profile: Profile, field: str) -> Place:
    return Place(type=ObjectType.PROFILE, id=profile.id, name=profile.name, field=field)
