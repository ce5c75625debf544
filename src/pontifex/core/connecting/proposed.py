"""Values that follow from the rest of the design, to be taken over into a field of an end by one press."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.connecting.sides import joined_networks
from pontifex.core.kinds import SIDES, AddressKind, Identity, IdentityType, Side, Tunnel
from pontifex.core.model import Design
from pontifex.core.model.standards import identity_by


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposedValue:
    """A value for a field of an end, and where it comes from."""

    side: Side
    field: Annotated[str, Field(title="Field of the end")]
    text: Annotated[str, Field(title="As it is typed")]
    says: Annotated[str, Field(title="Where it comes from", examples=["networks of Ostvik Terminal"])]


def proposed_values(design: Design, tunnel: Tunnel) -> Iterator[ProposedValue]:
    """Yield what the ends of a tunnel could be given: networks of the sites, identities by a standard, the far end's key."""
    for side in SIDES:
        for field, text, says in _of_side(design, tunnel, side):
            if text and text != _written(getattr(tunnel.end(side), field)):
                yield ProposedValue(side=side, field=field, text=text, says=says)


def _of_side(design: Design, tunnel: Tunnel, side: Side) -> Iterator[tuple[str, str, str]]:
    far = tunnel.end(side.other)
    own_site, far_site = design.site_of(tunnel.end(side)), design.site_of(far)
    for field, site in (("local_networks", own_site), ("remote_networks", far_site)):
        prefixes = sorted(network.prefix for network in joined_networks(design, site.id))
        yield field, ", ".join(map(str, prefixes)), f"networks of {site.name}"
    standard = design.standard_by_id.get(tunnel.standard_id or "") or next(iter(design.standards), None)
    for field, end in (("local_identity", tunnel.end(side)), ("remote_identity", far)):
        identity = identity_by(design, standard, design.gateway_by_id[end.gateway_id]) if standard else None
        if standard and identity:
            yield field, identity.value, f"by the pattern of {standard.name}"
    if far.key_pair:
        yield "peer_public_key", far.key_pair.public, f"the key of {far_site.name}"
    uplink = design.uplink_of(far)
    if uplink and uplink.callable():
        fixed = uplink.address if uplink.address_kind is AddressKind.FIXED_PUBLIC else None
        yield "peer_address", str(fixed or uplink.dns_name or ""), f"where {far_site.name} is reached"


def _written(value: object) -> str:
    """Return a value of a field as it is typed."""
    if isinstance(value, tuple):
        return ", ".join(map(str, value))
    if isinstance(value, Identity):
        return value.value if value.type is IdentityType.FQDN else str(value)
    return "" if value is None else str(value)
