"""What differs between two versions of a profile, and what that means for the traffic of those who have it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, AddressSet, Family, Prefix
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.model.written import ABSENT, written
from pontifex.core.people.profile_file import ProfileFile

_NOT_COMPARED: Final = frozenset({"format", "version", "revision", "made_at", "design", "profile"})
_MOST_PREFIXES: Final = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionField:
    """A field that differs."""

    title: str
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionDifference:
    """What differs between two versions."""

    since: int
    until: int
    fields: tuple[VersionField, ...]
    means: Annotated[tuple[str, ...], Field(title="What it means for traffic", description="A line each; empty where nothing.")]


def version_difference(before: ProfileFile, after: ProfileFile) -> VersionDifference:
    """Return what differs between two versions of one profile."""
    return VersionDifference(
        since=before.version, until=after.version, fields=tuple(_fields(before, after)), means=tuple(_means(before, after))
    )


def _fields(before: FrozenModel, after: FrozenModel) -> Iterator[VersionField]:
    for name, info in type(before).model_fields.items():
        was, is_ = getattr(before, name), getattr(after, name)
        if name in _NOT_COMPARED or was == is_:
            continue
        if isinstance(was, FrozenModel) and isinstance(is_, FrozenModel) and type(was) is type(is_) and name == "device_end":
            yield from _fields(was, is_)
        else:
            yield VersionField(title=info.title or name.capitalize(), before=written(was), after=written(is_))


def _means(before: ProfileFile, after: ProfileFile) -> Iterator[str]:
    for family in Family:
        was, is_ = AddressSet.of(before.routes, family), AddressSet.of(after.routes, family)
        for words, moved in (("goes through the tunnel now", is_ - was), ("goes beside the tunnel now", was - is_)):
            prefixes = moved.prefixes()
            if prefixes:
                yield f"{_some(prefixes)} {words}"
    for rule in (traffic_rule for traffic_rule in after.rules if traffic_rule not in before.rules):
        yield f"a rule more: {rule}"
    for rule in (traffic_rule for traffic_rule in before.rules if traffic_rule not in after.rules):
        yield f"a rule less: {rule}"
    if before.lock_down != after.lock_down:
        yield (
            "nothing leaves the device while it should be dialled"
            if after.lock_down
            else "what goes through leaves in clear while the tunnel is down"
        )
    if before.dial is not after.dial:
        yield f"it dials otherwise: {before.dial.value} before, {after.dial.value} now"
    if before.resolvers != after.resolvers:
        yield f"names are asked of {_listed(after.resolvers)}, and were of {_listed(before.resolvers)}"


def _some(prefixes: tuple[Prefix, ...]) -> str:
    more = len(prefixes) - _MOST_PREFIXES
    return ", ".join(map(str, prefixes[:_MOST_PREFIXES])) + (f" and {more} more" if more > 0 else "")


def _listed(values: tuple[Address, ...]) -> str:
    return ", ".join(map(str, values)) or ABSENT
