"""What a standard sets at the ends of a tunnel, and where an end departs from it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pontifex.core.kinds import SIDES, Gateway, Identity, IdentityType, Side, Standard, Tunnel
from pontifex.core.model.design import Design
from pontifex.core.model.ids import slug


def identity_by(design: Design, standard: Standard, gateway: Gateway) -> Identity | None:
    """Return what a gateway is called by a standard's pattern; None where it says nothing of identities."""
    value = standard.identity_pattern
    if value is None:
        return None
    names = {"{site}": design.site_by_id[gateway.site_id].name, "{gateway}": gateway.name, "{design}": design.name}
    for placeholder, name in names.items():
        value = value.replace(placeholder, slug(name))
    return Identity.from_valid({"type": IdentityType.FQDN, "value": value})


def set_by(design: Design, standard: Standard, tunnel: Tunnel, side: Side) -> dict[str, Any]:
    """Return what a standard sets at an end of a tunnel, by the field of the end; what it says nothing about is left out."""
    ends = {"local_identity": tunnel.end(side), "remote_identity": tunnel.end(side.other)}
    named = {field: identity_by(design, standard, design.gateway_by_id[end.gateway_id]) for field, end in ends.items()}
    return {**standard.end_fields(), **{field: identity for field, identity in named.items() if identity}}


def departures(design: Design, standard: Standard, tunnel: Tunnel) -> Iterator[tuple[Side, str]]:
    """Yield the fields of a tunnel's ends that are set otherwise than a standard says."""
    for side in SIDES:
        end = tunnel.end(side)
        for field, value in set_by(design, standard, tunnel, side).items():
            if getattr(end, field) != value:
                yield side, field
