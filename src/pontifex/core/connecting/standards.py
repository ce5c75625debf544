"""What a standard does to the tunnels that follow it: by a change of it, or where one begins to follow."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated, Any, Final

from pydantic import Field

from pontifex.core.importing.draft import DesignDraft
from pontifex.core.kinds import SIDES, AuthMethod, Side, Standard, Tunnel, TunnelEnd
from pontifex.core.model import Design
from pontifex.core.model.ids import slug
from pontifex.core.model.standards import departures, set_by


@dataclass(frozen=True, slots=True, kw_only=True)
class Departure:
    """A field of an end that is set otherwise than its standard says."""

    tunnel_id: str
    tunnel: Annotated[str, Field(title="Name of the tunnel")]
    side: Side
    site: Annotated[str, Field(title="Name of the site")]
    field: Annotated[str, Field(title="Field")]
    title: Annotated[str, Field(title="Title of the field")]


def departures_of_followers(design: Design, standard: Standard) -> Iterator[Departure]:
    """Yield where the tunnels that follow a standard depart from it."""
    for tunnel in followers(design, standard.id):
        for side, field in departures(design, standard, tunnel):
            site = design.site_of(tunnel.end(side)).name
            title = TunnelEnd.model_fields[field].title or field
            yield Departure(tunnel_id=tunnel.id, tunnel=tunnel.name, side=side, site=site, field=field, title=title)


def followers(design: Design, standard_id: str) -> tuple[Tunnel, ...]:
    """Return the tunnels that follow a standard."""
    return tuple(tunnel for tunnel in design.tunnels if tunnel.standard_id == standard_id)


def restandardised(design: Design, standard: Standard) -> Iterator[Tunnel]:
    """Yield the tunnels that a changed standard changes, as they become; where one departs, it stays as somebody decided."""
    before = design.standard_by_id[standard.id]
    for tunnel in followers(design, standard.id):
        ends = {}
        for side in SIDES:
            was, becomes = (set_by(design, agreed, tunnel, side) for agreed in (before, standard))
            ends[side.value] = _followed(tunnel.end(side), was, becomes)
        if any(ends[side.value] != tunnel.end(side) for side in SIDES):
            yield tunnel.with_valid(ends)


def _followed(end: TunnelEnd, was: dict[str, Any], becomes: dict[str, Any]) -> TunnelEnd:
    """Return an end with the new values where it had the old ones, or none yet."""
    unset = (None, ())
    fields = {
        field: value
        for field, value in becomes.items()
        if value != was.get(field) and getattr(end, field) in (was.get(field), *unset)
    }
    return end.with_valid(fields)


def following(design: Design, tunnels: Iterable[Tunnel], standard: Standard) -> Iterator[Tunnel]:
    """Yield tunnels as they are when they follow a standard in all that it says."""
    for tunnel in tunnels:
        ends = {side.value: tunnel.end(side).with_valid(set_by(design, standard, tunnel, side)) for side in SIDES}
        yield tunnel.with_valid({**ends, "standard_id": standard.id})


_NEVER_TAKEN: Final = frozenset({"id", "name", "identity_pattern", "auth"})


def standard_of(design: Design, tunnel: Tunnel) -> Standard:
    """Return a new standard made of what both ends of a tunnel agree on; what they differ in, it says nothing about."""
    fields: dict[str, Any] = {}
    for field in Standard.model_fields.keys() - _NEVER_TAKEN:
        left, right = (getattr(tunnel.end(side), field) for side in SIDES)
        if left == right:
            fields[field] = left
    methods = {getattr(tunnel.end(side), field) for side in SIDES for field in ("local_auth", "remote_auth")}
    auth: AuthMethod | None = methods.pop() if len(methods) == 1 else None
    draft = DesignDraft(design)
    name = draft.free_name(Standard, "", f"As {tunnel.name}")
    made = Standard(id=draft.free_id(Standard, name), name=name, auth=auth, identity_pattern=_pattern_of(design, tunnel))
    return made.with_valid(fields)


def _pattern_of(design: Design, tunnel: Tunnel) -> str | None:
    """Return the pattern that both ends' identities follow; None where they follow none."""
    patterns = set()
    for side in SIDES:
        end = tunnel.end(side)
        stem = slug(design.site_of(end).name)
        value = end.local_identity.value if end.local_identity else ""
        patterns.add(f"{{site}}{value.removeprefix(stem)}" if value.startswith(stem) else None)
    return patterns.pop() if len(patterns) == 1 else None
