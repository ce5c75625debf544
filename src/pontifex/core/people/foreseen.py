"""What a roll-out would do before anything is offered: which devices could do what the profile asks, and which couldn't."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.kinds import Platform, PlatformFamily, Profile
from pontifex.core.model import Design
from pontifex.core.people.abilities import families_of, lacking, usual_platform
from pontifex.core.people.people_list import ListedDevice


@dataclass(frozen=True, slots=True, kw_only=True)
class ForeseenPlatform:
    """Devices of one platform."""

    platform: str
    devices: Annotated[int | None, Field(title="How many devices", description="Null without a list of people.")]
    cannot: Annotated[tuple[str, ...], Field(title="What is asked and it can't do")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ForeseenRollout:
    """What a roll-out would do."""

    profile: str
    groups: tuple[str, ...]
    platforms: tuple[ForeseenPlatform, ...]
    devices: Annotated[int | None, Field(title="How many devices it is for", description="Null without a list of people.")]
    would_refuse: Annotated[int | None, Field(title="How many would refuse it", description="Null without a list of people.")]


def foreseen(design: Design, profile: Profile, people: Sequence[ListedDevice] | None) -> ForeseenRollout:
    """Foresee a roll-out to the people of a list, or to each platform where there is no list."""
    known = {platform.id: platform for platform in design.platforms} | {
        family.value: usual_platform(family) for family in PlatformFamily if family.value not in {p.id for p in design.platforms}
    }
    mine = None if people is None else Counter(device.platform for device in people if device.group in profile.groups)
    if mine is None:
        families = families_of(profile)
        there = [platform for platform in known.values() if platform.family in families]
    else:
        there = [known[name] for name in mine]
    rows = tuple(_platform(profile, platform, None if mine is None else mine[platform.id]) for platform in there)
    return ForeseenRollout(
        profile=profile.name,
        groups=profile.groups,
        platforms=rows,
        devices=None if mine is None else sum(mine.values()),
        would_refuse=None if mine is None else sum(row.devices or 0 for row in rows if row.cannot),
    )


def _platform(profile: Profile, platform: Platform, devices: int | None) -> ForeseenPlatform:
    return ForeseenPlatform(platform=platform.name, devices=devices, cannot=tuple(map(str, lacking(profile, platform))))
