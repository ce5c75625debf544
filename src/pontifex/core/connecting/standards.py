"""What a standard does to the tunnels that follow it: by a change of it, or where one begins to follow."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated, Any, Final

from pydantic import Field

from pontifex.core.kinds import SIDES, AuthMethod, ObjectType, Side, Standard, Tunnel, TunnelEnd
from pontifex.core.model import Design
from pontifex.core.model.ids import fresh_id, slug


@dataclass(frozen=True, slots=True, kw_only=True)
class Departure:
    """A field of an end that is set otherwise than its standard says."""

    tunnel_id: str
    tunnel: Annotated[str, Field(title="Name of the tunnel")]
    side: Side
    site: Annotated[str, Field(title="Name of the site")]
    field: Annotated[str, Field(title="Field")]
    title: Annotated[str, Field(title="Title of the field")]


def departures(design: Design, standard: Standard) -> Iterator[Departure]:
    """Yield where the tunnels that follow a standard depart from it."""
    for tunnel in followers(design, standard.id):
        for side in SIDES:
            site = design.site_of(tunnel.end(side)).name
            for field in standard.departures(tunnel.end(side)):
                title = TunnelEnd.model_fields[field].title or field
                yield Departure(tunnel_id=tunnel.id, tunnel=tunnel.name, side=side, site=site, field=field, title=title)


def followers(design: Design, standard_id: str) -> tuple[Tunnel, ...]:
    """Return the tunnels that follow a standard."""
    return tuple(tunnel for tunnel in design.tunnels if tunnel.standard_id == standard_id)


def restandardised(design: Design, standard: Standard) -> Iterator[Tunnel]:
    """Yield the tunnels that a changed standard changes, as they become; where one departs, it stays as somebody decided."""
    before = design.standard_by_id[standard.id]
    was, becomes = before.end_fields(), standard.end_fields()
    for tunnel in followers(design, standard.id):
        ends = {side.value: _followed(tunnel.end(side), was, becomes) for side in SIDES}
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


def following(tunnels: Iterable[Tunnel], standard: Standard) -> Iterator[Tunnel]:
    """Yield tunnels as they are when they follow a standard in all that it says."""
    fields = standard.end_fields()
    for tunnel in tunnels:
        ends = {side.value: tunnel.end(side).with_valid(fields) for side in SIDES}
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
    names = {standard.name for standard in design.standards}
    stem = f"As {tunnel.name}"[:70]
    name = next(name for k in range(1, len(names) + 2) if (name := stem if k == 1 else f"{stem} {k}") not in names)
    id_ = fresh_id(name, design.by_type[ObjectType.STANDARD])
    pattern = _pattern_of(design, tunnel)
    return Standard(id=id_, name=name, auth=auth, **({"identity_pattern": pattern} if pattern else {})).with_valid(fields)


def _pattern_of(design: Design, tunnel: Tunnel) -> str:
    """Return the pattern that both ends' identities follow; empty where they follow none."""
    patterns = set()
    for side in SIDES:
        end = tunnel.end(side)
        site, identity = design.site_of(end), end.local_identity
        stem = slug(site.name)
        follows = identity is not None and identity.value.startswith(stem)
        patterns.add(f"{{site}}{identity.value.removeprefix(stem)}" if identity and follows else "")
    return patterns.pop() if len(patterns) == 1 else ""
