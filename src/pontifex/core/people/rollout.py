"""A roll-out: which version of a profile a device is offered, and what became of it, by what devices asked and said."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.errors import Conflict


class RolloutStage(Choice):
    """How far a version is offered."""

    FIRST = "first"  # to a few, first
    ALL = "all"
    STOPPED = "stopped"  # to nobody more; who has it keeps it


class DeviceState(Choice):
    """What has become of a version at a device."""

    ASSIGNED = "assigned"  # the profile is for it, and nothing is offered to it yet
    OFFERED = "offered"
    FETCHED = "fetched"
    ACTIVE = "active"
    REFUSED = "refused"
    OUTDATED = "outdated"  # another version than the offered one is active


@dataclass(frozen=True, slots=True, kw_only=True)
class Rollout:
    """What is offered of a profile: a version, and to whom; others are offered what was offered to all before."""

    version: Annotated[int, Field(title="Version")]
    before: Annotated[int | None, Field(title="Version before it", description="Null where there was none.")]
    stage: RolloutStage
    first: Annotated[int, Field(title="How many are the first", description="In the order in which they were added.")]
    changed_by: str
    changed_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceReport:
    """What a device has asked and said of a profile."""

    fetched: Annotated[int | None, Field(title="Version that it fetched last")] = None
    active: Annotated[int | None, Field(title="Version that it says is active")] = None
    refused: Annotated[int | None, Field(title="Version that it refused")] = None
    reason: Annotated[str, Field(title="Why it refused")] = ""
    dialled: Annotated[bool | None, Field(title="Its call came through")] = None
    platform_version: Annotated[str, Field(title="Version of its platform")] = ""
    reported_at: Annotated[datetime | None, Field(title="Heard of last")] = None


class RolloutAct(Choice):
    """What is done to a roll-out."""

    FIRST = "first"  # offer a version to a few
    ALL = "all"
    STOP = "stop"
    TAKE_BACK = "take-back"  # offer to all again what was offered before


class NothingRolledOut(Conflict):
    """Nothing of the profile is offered, or nothing that could be taken back."""

    title = "Nothing is rolled out"


@dataclass(frozen=True, slots=True)
class VersionOffer:
    """Which version is offered, which was before, and to whom."""

    version: int
    before: int | None
    stage: RolloutStage


def changed_offer(now: Rollout | None, act: RolloutAct, version: int) -> VersionOffer:
    """Return what is offered after an act; `version` is what is to be offered to a few or to all. Raise NothingRolledOut."""
    if act in (RolloutAct.FIRST, RolloutAct.ALL):
        before = None if now is None else now.before if now.version == version else now.version
        return VersionOffer(version, before, RolloutStage(act.value))
    if now is None:
        raise NothingRolledOut("nothing of this profile is offered yet")
    if act is RolloutAct.STOP:
        return VersionOffer(now.version, now.before, RolloutStage.STOPPED)
    if now.before is None:
        raise NothingRolledOut("no version was offered before this one; stop it instead")
    return VersionOffer(now.before, now.version, RolloutStage.ALL)


UNHEARD: Final = DeviceReport()


def offered(rollout: Rollout | None, place: int, report: DeviceReport = UNHEARD) -> int | None:
    """Return the version that a device is offered; `place` is its place among those that the profile is for, from 0."""
    if rollout is None:
        return None
    if rollout.stage is RolloutStage.ALL or (rollout.stage is RolloutStage.FIRST and place < rollout.first):
        return rollout.version
    if rollout.stage is RolloutStage.STOPPED and rollout.version in (report.fetched, report.active):
        return rollout.version
    return rollout.before


def offers(rollout: Rollout | None, groups: Collection[str], devices: Iterable[tuple[str, DeviceReport]]) -> list[int | None]:
    """Return what each device is offered, by its group and what it has said, in the order in which they were added.

    `groups` are those that the offered version was signed for: a device of another one is offered nothing.
    """
    found: list[int | None] = []
    place = 0
    for group, report in devices:
        found.append(offered(rollout, place, report) if group in groups else None)
        place += group in groups
    return found


def state_of(offer: int | None, report: DeviceReport) -> DeviceState:
    """Return what has become of what a device is offered."""
    if offer is None:
        return DeviceState.ASSIGNED
    if report.refused == offer:
        return DeviceState.REFUSED
    if report.active == offer:
        return DeviceState.ACTIVE
    if report.active is not None:
        return DeviceState.OUTDATED
    return DeviceState.FETCHED if report.fetched == offer else DeviceState.OFFERED


def counted(states: Iterable[DeviceState]) -> dict[DeviceState, int]:
    """Return how many devices are in each state; all of them are named."""
    found = dict.fromkeys(DeviceState, 0)
    for state in states:
        found[state] += 1
    return found
