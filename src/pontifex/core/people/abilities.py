"""What families of devices can do, and what a profile asks of them.

The table speaks of families in general terms, from what such devices are: a desktop runs what it is given; a phone and a
tablet run applications that can't look into each other; an appliance has nobody who could answer it. Where one platform
differs, the design says so (`core/kinds/platform.py`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from pontifex.core.kinds import (
    Ability,
    AuthMethod,
    DialWhen,
    InsideBy,
    Platform,
    PlatformFamily,
    Profile,
    SplitMode,
    Technology,
)
from pontifex.core.people.profile_file import ProfileFile

_CANNOT: Final[dict[PlatformFamily, frozenset[Ability]]] = {
    PlatformFamily.DESKTOP: frozenset(),
    PlatformFamily.PHONE: frozenset(
        {Ability.TEST_BY_PREFIX, Ability.TEST_BY_PROBE, Ability.ALL_BUT, Ability.RULES_BY_ADDRESS, Ability.IPSEC_IKEV1}
    ),
    PlatformFamily.TABLET: frozenset(
        {Ability.TEST_BY_PREFIX, Ability.TEST_BY_PROBE, Ability.ALL_BUT, Ability.RULES_BY_ADDRESS, Ability.IPSEC_IKEV1}
    ),
    PlatformFamily.APPLIANCE: frozenset(
        {
            Ability.SECOND_FACTOR,
            Ability.DIAL_FOR_APPLICATIONS,
            Ability.RULES_BY_APPLICATION,
            Ability.RULES_BY_DOMAIN,
            Ability.TEST_BY_SUFFIX,
            Ability.TEST_BY_PROBE,
            Ability.PROXY_FILE,
        }
    ),
}
# What a family can do only with something else.
_ONLY_WITH: Final[dict[tuple[PlatformFamily, Ability], Ability]] = {
    (PlatformFamily.PHONE, Ability.LOCK_DOWN): Ability.DIAL_ALWAYS,
    (PlatformFamily.PHONE, Ability.RULES_BY_APPLICATION): Ability.DIAL_ALWAYS,
    (PlatformFamily.TABLET, Ability.LOCK_DOWN): Ability.DIAL_ALWAYS,
    (PlatformFamily.TABLET, Ability.RULES_BY_APPLICATION): Ability.DIAL_ALWAYS,
    (PlatformFamily.DESKTOP, Ability.LOCK_DOWN): Ability.DIAL_ALWAYS,
}

_TECHNOLOGY: Final = {
    Technology.IPSEC_IKEV2: Ability.IPSEC_IKEV2,
    Technology.IPSEC_IKEV1: Ability.IPSEC_IKEV1,
    Technology.TLS: Ability.TLS,
    Technology.PEER_KEY: Ability.PEER_KEY,
}
_PROOF: Final = {AuthMethod.CERTIFICATE: Ability.CERTIFICATE, AuthMethod.EAP: Ability.EAP}
_DIAL: Final = {
    DialWhen.ALWAYS: Ability.DIAL_ALWAYS,
    DialWhen.ON_DEMAND: Ability.DIAL_ON_DEMAND,
    DialWhen.APPLICATIONS: Ability.DIAL_FOR_APPLICATIONS,
}
_INSIDE: Final = {
    InsideBy.SUFFIX: Ability.TEST_BY_SUFFIX,
    InsideBy.PREFIX: Ability.TEST_BY_PREFIX,
    InsideBy.PROBE: Ability.TEST_BY_PROBE,
}


DeviceSettings = Profile | ProfileFile  # what is asked of a device: by a profile, or by the file of one


@dataclass(frozen=True, slots=True)
class AskedAbility:
    """Something that a profile asks of a device, and the field that says so."""

    ability: Ability
    field: str


@dataclass(frozen=True, slots=True)
class Lack:
    """Something that is asked and that a platform can't do; `needed` is what it could do it with."""

    asked: AskedAbility
    needed: Ability | None = None

    def __str__(self) -> str:
        only = f" only with {self.needed.label}" if self.needed else ""
        return f"{self.asked.ability.label}{only}"


def asked(profile: DeviceSettings) -> tuple[AskedAbility, ...]:
    """Return what a profile asks of a device, each once, by the first field that says so."""
    found: dict[Ability, AskedAbility] = {}
    for ability, field in (*_of_call(profile), *_of_fields(profile), *_of_rules(profile)):
        found.setdefault(ability, AskedAbility(ability, field))
    return tuple(found.values())


def _of_call(profile: DeviceSettings) -> Iterator[tuple[Ability, str]]:
    end = profile.device_end
    if end.technology in _TECHNOLOGY:
        yield _TECHNOLOGY[end.technology], "device_end/technology"
    if end.local_auth in _PROOF:
        yield _PROOF[end.local_auth], "device_end/local_auth"
    if profile.dial in _DIAL:
        yield _DIAL[profile.dial], "dial"
    for test in profile.inside_tests:
        yield _INSIDE[test.by], "inside_tests"


_BY_FIELD: Final = {  # asked where the field is set
    "second_factor": Ability.SECOND_FACTOR,
    "own_resolvers": Ability.SUFFIX_RESOLVERS,
    "lock_down": Ability.LOCK_DOWN,
    "idle_limit_s": Ability.IDLE_LIMIT,
    "session_limit_s": Ability.SESSION_LIMIT,
}


def _of_fields(profile: DeviceSettings) -> Iterator[tuple[Ability, str]]:
    for field, ability in _BY_FIELD.items():
        if getattr(profile, field):
            yield ability, field
    if profile.mode is SplitMode.ALL_BUT:
        yield Ability.ALL_BUT, "mode"
    if profile.proxy and profile.proxy.file:
        yield Ability.PROXY_FILE, "proxy"


def _of_rules(profile: DeviceSettings) -> Iterator[tuple[Ability, str]]:
    for rule in profile.rules:
        if rule.application:
            yield Ability.RULES_BY_APPLICATION, "rules"
        if rule.domain:
            yield Ability.RULES_BY_DOMAIN, "rules"
        if rule.prefix or rule.service:
            yield Ability.RULES_BY_ADDRESS, "rules"


def can(platform: Platform, ability: Ability) -> bool:
    """Whether a platform can do something at all."""
    usually = ability not in _CANNOT[platform.family]
    return ability in platform.can or (usually and ability not in platform.cannot)


def lacking(profile: DeviceSettings, platform: Platform) -> tuple[Lack, ...]:
    """Return what a profile asks and a platform can't do, or can do only with what the profile doesn't ask."""
    wanted = asked(profile)
    abilities = {want.ability for want in wanted}
    found: list[Lack] = []
    for want in wanted:
        needed = _ONLY_WITH.get((platform.family, want.ability))
        if not can(platform, want.ability):
            found.append(Lack(want))
        elif needed and needed not in abilities and want.ability not in platform.can:
            found.append(Lack(want, needed))
    return tuple(found)


def families_of(profile: Profile) -> tuple[PlatformFamily, ...]:
    """Return the families of devices that a profile is for."""
    return profile.families or tuple(PlatformFamily)


def usual_platform(family: PlatformFamily) -> Platform:
    """Return a platform that is as its family usually is."""
    return Platform(id=family.value, name=family.value, family=family)
