"""Findings about profiles: both ends of the dialled-in tunnel, what platforms can't do, and what a device takes for inside."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from datetime import date
from functools import partial
from typing import Final

from pontifex.core.addressing import AddressSet, Prefix
from pontifex.core.addressing.home import usual_at_home
from pontifex.core.catalogue import Code, Screen
from pontifex.core.findings.algorithms import algorithm_findings
from pontifex.core.findings.finding import Place, Remark, Remedies, network_of, remark
from pontifex.core.findings.people import split_findings
from pontifex.core.findings.tunnels import row_findings
from pontifex.core.kinds import (
    Ability,
    DialInEnd,
    DialWhen,
    Gateway,
    InsideBy,
    InsideTest,
    Network,
    ObjectType,
    Platform,
    Profile,
    Side,
    SplitMode,
    Tunnel,
    Uplink,
)
from pontifex.core.matching import Neighbours, Remedy, TunnelEnds
from pontifex.core.matching.overlapping import networks_beside, shared_networks
from pontifex.core.model import Design, Operation, Put, put
from pontifex.core.people import DevicePlace, PlaceKind, dialled_in, inside_answers, lacking, places
from pontifex.core.people.abilities import Lack, families_of, usual_platform
from pontifex.core.people.dialled import DialledIn, profile_with
from pontifex.core.people.inside import probed_address
from pontifex.core.reasons import named, people
from pontifex.core.routing import Conditions, End, Flow, Split, Tables, trace
from pontifex.core.routing.split.split import led_to, missing

_END_FIELDS: Final = {Side.LEFT.value: "device_end", Side.RIGHT.value: "gateway_end"}
_SERVERS: Final = {"peer_address": "servers", "uplink_id": "gateway_id", "role": "gateway_id", "enabled": "gateway_id"}
_SPLIT: Final = {"local_networks": "networks", "remote_networks": "networks"}


def calls_beside(design: Design, profile: Profile) -> Neighbours | None:
    """Return what the tunnels of the gateway have in common with a call by a profile, but for their networks.

    None while nobody has said how the device or the gateway is set: a profile may be a split alone.
    """
    if not any(_is_set(end) for end in (profile.device_end, profile.gateway_end)):
        return None
    dialled = dialled_in(design, profile, places(design, profile)[0])
    return dialled.together.calls_beside(dialled.tunnel)


def end_findings(design: Design, profile: Profile, today: date, calls: Neighbours) -> Iterator[Remark]:
    """Yield what the comparison of both ends says: as of a tunnel, told and mended at the profile."""
    dialled = dialled_in(design, profile, places(design, profile)[0])
    ends = TunnelEnds(dialled.design, dialled.tunnel, today)
    shared = partial(shared_networks, dialled.design, wanted=dialled.tunnel)
    beside = replace(calls, networks=networks_beside(dialled.tunnel, shared))
    for told in (*row_findings(ends, dialled.rows(today, beside)), *algorithm_findings(ends)):
        where = tuple(_at_profile(profile, place) if place.id == dialled.tunnel.id else place for place in told.finding.where)
        remedies = partial(_at_the_profile, profile, dialled, told.remedies) if told.remedies else None
        yield Remark(replace(told.finding, screen=Screen.PEOPLE, where=where), remedies)


def _is_set(end: DialInEnd) -> bool:
    return bool(end.ike_proposals or end.data_ciphers or end.local_identity or end.certificates or end.trust_anchors)


def _at_profile(profile: Profile, place: Place) -> Place:
    side, _, field = place.field.partition("/")
    of_profile = (_SERVERS | _SPLIT).get(field) or f"{_END_FIELDS[side]}/{field}"
    return Place(type=ObjectType.PROFILE, id=profile.id, name=profile.name, field=of_profile)


def _at_the_profile(profile: Profile, dialled: DialledIn, of_tunnel: Remedies) -> Iterator[Remedy]:
    """Yield the remedies of the tunnel as those of the profile, as far as they can be."""
    for given in of_tunnel():
        remedy = _of_profile(profile, dialled, given)
        if remedy:
            yield remedy


def _of_profile(profile: Profile, dialled: DialledIn, remedy: Remedy) -> Remedy | None:
    """Return a remedy of the tunnel as one of the profile; None where it changes what stands in no design."""
    made_up = {dialled.tunnel.left.gateway_id, dialled.tunnel.left.uplink_id}
    operations: list[Operation] = []
    for operation in remedy.operations:
        if not isinstance(operation, Put):
            return None
        if isinstance(operation.object, Tunnel) and operation.object.id == dialled.tunnel.id:
            changed = profile_with(profile, dialled.tunnel, operation.object)
            if changed is None:
                return None
            operations.append(put(changed))
        elif isinstance(operation.object, Gateway | Uplink) and operation.object.id in made_up:
            return None
        else:
            operations.append(operation)
    return Remedy(title=remedy.title, operations=tuple(operations))


def profile_findings(tables: Tables) -> Iterator[Remark]:
    """Yield what is to be said of profiles beside their ends."""
    design = tables.design
    for profile in design.profiles:
        yield from _platforms(design, profile)
        pool = design.network_by_id.get(profile.pool_id or "")
        split = Split.of(profile, pool.prefix if pool else None)
        yield from _inside(design, profile, split)
        yield from _servers(design, profile)
        led = tuple(led_to(tables, design.gateway_by_id[profile.gateway_id]))
        forgotten = missing(split, (network.prefix for network in led if network.prefix.family in split.families))
        yield from split_findings(design, profile, pool, split, forgotten)
        if pool:
            yield from _no_way_back(tables, profile, pool, led, forgotten)
        yield from _open_when_down(profile)


def _platforms(design: Design, profile: Profile) -> Iterator[Remark]:
    families = families_of(profile)
    known = [candidate for candidate in design.platforms if candidate.family in families]
    there = {platform.family for platform in known}
    usual = [usual_platform(family) for family in families if family not in there] if profile.families else []
    found: dict[Lack, list[Platform]] = {}
    for platform in (*known, *usual):
        for lack in lacking(profile, platform):
            found.setdefault(lack, []).append(platform)
    for lack, platforms in found.items():
        names = tuple(platform.name for platform in platforms)
        label, place = lack.asked.ability.label, (_place(profile, lack.asked.field),)
        if lack.needed is None:
            cannot = people.PlatformCannot(named(profile), label, names)
            yield remark(Code.PROFILE_PLATFORM_CANNOT, place, cannot, _left_out(profile, lack.asked.ability))
        else:
            only = people.PlatformOnlyWith(named(profile), label, names, lack.needed.label)
            yield remark(Code.PROFILE_PLATFORM_CANNOT, place, only, _with_needed(profile, lack.needed))


_WITHOUT: Final[dict[Ability, Callable[[Profile], Profile]]] = {
    Ability.LOCK_DOWN: lambda profile: profile.changed(lock_down=False),
    Ability.IDLE_LIMIT: lambda profile: profile.changed(idle_limit_s=None),
    Ability.SESSION_LIMIT: lambda profile: profile.changed(session_limit_s=None),
    Ability.SECOND_FACTOR: lambda profile: profile.changed(second_factor=False),
    Ability.SUFFIX_RESOLVERS: lambda profile: profile.changed(own_resolvers=()),
    Ability.DIAL_FOR_APPLICATIONS: lambda profile: profile.changed(dial=DialWhen.ON_DEMAND),
}


def _left_out(profile: Profile, ability: Ability) -> Remedies | None:
    """Ask it of no device, where a profile can do without it."""
    if ability not in _WITHOUT:
        return None
    return lambda: [Remedy(title=f"Leave {ability.label} out", operations=(put(_WITHOUT[ability](profile)),))]


def _with_needed(profile: Profile, needed: Ability) -> Remedies | None:
    if needed is not Ability.DIAL_ALWAYS:
        return None
    return lambda: [Remedy(title="Let it dial always", operations=(put(profile.changed(dial=DialWhen.ALWAYS)),))]


def _inside(design: Design, profile: Profile, split: Split) -> Iterator[Remark]:
    """What a device takes for inside, and isn't; and the other way round."""
    place = (_place(profile, "inside_tests"),)
    for test in profile.inside_tests:
        without = partial(_without_test, profile, test)
        home = usual_at_home(test.prefix) if test.by is InsideBy.PREFIX else None
        if home:
            seems = people.SeemsInside(named(profile), str(test), home.prefix, home.reasoning)
            yield remark(Code.PROFILE_SEEMS_INSIDE, place, seems, without)
        address = probed_address(design, test) if test.by is InsideBy.PROBE else None
        if address and not missing(split, (Prefix.of_address(address),)):
            through = people.ProbeThrough(named(profile), str(test), address)
            yield remark(Code.PROFILE_PROBE_THROUGH, place, through, without)
    office = next((device_place for device_place in places(design, profile) if device_place.kind is PlaceKind.OFFICE), None)
    if office and office.network and profile.inside_tests and not _believes(design, profile, office):
        outside = people.SeemsOutside(named(profile), network_of(design, office.network))
        yield remark(Code.PROFILE_SEEMS_OUTSIDE, place, outside)


def _without_test(profile: Profile, test: InsideTest) -> Iterator[Remedy]:
    rest = tuple(inside_test for inside_test in profile.inside_tests if inside_test != test)
    yield Remedy(title=f"Leave {test} out", operations=(put(profile.changed(inside_tests=rest)),))


def _believes(design: Design, profile: Profile, office: DevicePlace) -> bool:
    return any(answer.says_inside for answer in inside_answers(design, profile, office))


def _servers(design: Design, profile: Profile) -> Iterator[Remark]:
    """Servers behind the first one that aren't the gateway; the first is compared with the rest of both ends."""
    gateway = design.gateway_by_id[profile.gateway_id]
    own = [uplink for uplink in design.uplinks if uplink.gateway_id == gateway.id]
    known = {str(uplink.address) for uplink in own if uplink.address} | {uplink.dns_name for uplink in own if uplink.dns_name}
    for server in profile.servers[1:]:
        if known and server not in known:
            elsewhere = people.ServerElsewhere(named(profile), server, named(gateway))
            yield remark(Code.PROFILE_SERVER_ELSEWHERE, (_place(profile, "servers"),), elsewhere)


def _no_way_back(
    tables: Tables, profile: Profile, pool: Network, networks: Sequence[Network], forgotten: tuple[Prefix, ...]
) -> Iterator[Remark]:
    """The first network of each site that the split leads to, from which no answer comes back to the pool."""
    design = tables.design
    led = [network for network in networks if network.prefix.family is pool.prefix.family]
    left_out = AddressSet.of(forgotten, pool.prefix.family).holds_each([network.prefix for network in led])
    first_of_site: dict[str, Network] = {}
    for network, is_left_out in zip(led, left_out, strict=True):
        if not is_left_out:
            first_of_site.setdefault(network.site_id, network)
    for network in first_of_site.values():
        there = trace(tables, Flow(pool.prefix.first_host, network.prefix.first_host), Conditions(), pool, network)
        if there.forward.end is End.ARRIVES and (there.back is None or there.back.end is not End.ARRIVES):
            why = there.back.reason if there.back else ""
            lost = people.NoWayBack(named(profile), network_of(design, network), pool.prefix, why or "nothing comes back")
            yield remark(Code.PROFILE_NO_WAY_BACK, (_place(profile, "pool_id"),), lost)


def _open_when_down(profile: Profile) -> Iterator[Remark]:
    if profile.mode is SplitMode.ONLY or profile.lock_down or profile.dial is not DialWhen.ALWAYS:
        return  # whoever dials by hand sees whether they are
    what = "everything" if profile.mode is SplitMode.ALL else "nearly everything"
    yield remark(
        Code.PROFILE_OPEN_WHEN_DOWN,
        (_place(profile, "lock_down"),),
        people.OpenWhenDown(named(profile), what),
        lambda: [Remedy(title="Lock it down", operations=(put(profile.changed(lock_down=True)),))],
    )


def _place(profile: Profile, field: str) -> Place:
    return Place(type=ObjectType.PROFILE, id=profile.id, name=profile.name, field=field)
