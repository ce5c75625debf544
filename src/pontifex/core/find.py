"""Find or ask: what a word, a prefix or an address is in this design."""

from __future__ import annotations

from enum import Enum

from pydantic import Field

from pontifex.core.addressing import Address, AddressError, parse_address, parse_prefix
from pontifex.core.addressing.prefix import Prefix
from pontifex.core.addressing.special import is_public, special_block
from pontifex.core.model import Design, ObjectType
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.space.holders import holders
from pontifex.core.value import Value


class HitKind(Enum):
    """Why something was found."""

    NAME = "name"
    ADDRESS = "address"


class Hit(Value):
    """One thing that was found."""

    type: ObjectType
    id: str
    name: str
    kind: HitKind
    detail: str = Field(title="What it has to do with the question", examples=["10.64.8.0/23 holds 10.64.8.7"])


def find(design: Design, text: str, most: int = 20) -> tuple[Hit, ...]:
    """Return what a text refers to: names that hold it, or who has or meets an address or prefix."""
    wanted = text.strip()
    if not wanted:
        return ()
    prefix = _as_prefix(wanted)
    return tuple((_by_prefix(design, prefix, wanted) if prefix else _by_name(design, wanted.casefold()))[:most])


def _as_prefix(text: str) -> Prefix | None:
    for read in (parse_prefix, lambda text: _host(Address(*parse_address(text)))):
        try:
            return read(text)
        except AddressError:
            continue
    return None


def _host(address: Address) -> Prefix:
    return Prefix(address.family, address.value, address.family.bits)


def _by_prefix(design: Design, prefix: Prefix, text: str) -> list[Hit]:
    found = holders(design, prefix, text)
    return [Hit(type=one.type, id=one.id, name=one.name, kind=HitKind.ADDRESS, detail=one.detail) for one in found] or _unused(
        design, prefix
    )


def _unused(design: Design, prefix: Prefix) -> list[Hit]:
    """Say what kind of space a prefix is that nothing here uses."""
    special = special_block(prefix)
    if special:
        detail = f"nobody here; {special.prefix} is set apart for {special.name} ({special.reference})"
    elif any(supernet.contains(prefix) for supernet in design.supernets):
        detail = f"{prefix} is free, within the supernets"
    else:
        detail = f"nobody here; {prefix} is {'public space' if is_public(prefix) else 'outside the supernets'}"
    return [Hit(type=ObjectType.SETTINGS, id=SETTINGS_ID, name=design.name, kind=HitKind.ADDRESS, detail=detail)]


def _by_name(design: Design, wanted: str) -> list[Hit]:
    candidates: list[tuple[ObjectType, str, str, str]] = [(ObjectType.SITE, s.id, s.name, s.kind.value) for s in design.sites]
    candidates += [(ObjectType.TUNNEL, t.id, t.name, "tunnel") for t in design.tunnels]
    candidates += [
        (ObjectType.NETWORK, n.id, n.name, f"{n.prefix} at {design.site_by_id[n.site_id].name}") for n in design.networks
    ]
    candidates += [(ObjectType.GATEWAY, g.id, g.name, design.site_by_id[g.site_id].name) for g in design.gateways]
    candidates += [(ObjectType.HOST, h.id, h.name, str(h.dns_name or h.address)) for h in design.hosts]
    candidates += [(ObjectType.CLAIM, c.id, c.name, str(c.prefix)) for c in design.claims]
    candidates += [(ObjectType.RULE, r.id, r.name, f"rule of {design.gateway_by_id[r.gateway_id].name}") for r in design.rules]
    candidates += [
        (ObjectType.FILTER, f.id, f.name, f"filter of {design.gateway_by_id[f.gateway_id].name}") for f in design.filters
    ]
    candidates += [(ObjectType.INTENT, i.id, i.name, "intent") for i in design.intents]
    candidates += [(ObjectType.PROFILE, p.id, p.name, "profile") for p in design.profiles]
    candidates += [(ObjectType.UPLINK, u.id, u.name, str(u.dns_name or u.address or "")) for u in design.uplinks]
    found = [row for row in candidates if wanted in row[2].casefold() or wanted in row[3].casefold()]
    found.sort(key=lambda row: not row[2].casefold().startswith(wanted))
    return [Hit(type=type_, id=id_, name=name, kind=HitKind.NAME, detail=detail) for type_, id_, name, detail in found]
