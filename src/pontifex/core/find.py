"""Find or ask: what a word, a prefix or an address is in this design."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Any

from pydantic import Field

from pontifex.core.addressing import Address, AddressError, parse_address, parse_prefix
from pontifex.core.addressing.prefix import Prefix
from pontifex.core.addressing.special import is_public, special_block
from pontifex.core.kinds import KINDS, DesignMember, Kind, ObjectType
from pontifex.core.model import Design
from pontifex.core.model.design import SETTINGS_ID
from pontifex.core.model.written import ABSENT, written
from pontifex.core.space.holders import holders


class HitKind(Enum):
    """Why something was found."""

    NAME = "name"
    ADDRESS = "address"


@dataclass(frozen=True, slots=True, kw_only=True)
class Hit:
    """One thing that was found."""

    type: ObjectType
    id: str
    name: str
    kind: HitKind
    detail: Annotated[str, Field(title="What it has to do with the question", examples=["10.64.8.0/23 holds 10.64.8.7"])]


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
    return Prefix.of_address(address)


def _by_prefix(design: Design, prefix: Prefix, text: str) -> list[Hit]:
    found = holders(design, prefix, text)
    return [
        Hit(type=holder.type, id=holder.id, name=holder.name, kind=HitKind.ADDRESS, detail=holder.detail) for holder in found
    ] or _unused(design, prefix)


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
    hits = [_named(design, kind, item) for kind in KINDS for item in getattr(design, kind.members)]
    found = [hit for hit in hits if wanted in hit.name.casefold() or wanted in hit.detail.casefold()]
    return sorted(found, key=lambda hit: not hit.name.casefold().startswith(wanted))


def _named(design: Design, kind: Kind[Any], item: DesignMember) -> Hit:
    """Return an object as a hit: what it is, the fields that are searched, and what it belongs to."""
    texts = [text for field in kind.searched if (text := written(getattr(item, field))) != ABSENT]
    parent = kind.parent.named_by(item) if kind.parent else ()
    names = [design.by_type[type_][id_].name for _, type_, id_ in parent]
    detail = ", ".join((kind.name.label, *texts, *names))
    return Hit(type=kind.name, id=item.id, name=item.name, kind=HitKind.NAME, detail=detail)
