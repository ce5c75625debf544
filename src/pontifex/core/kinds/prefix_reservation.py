"""A reserved prefix: address space that is reserved for a site, and not used yet."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.kinds.fields import ObjectId, Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class PrefixReservation(DesignMember):
    """Address space that is reserved for a site, and not used yet."""

    site_id: ObjectId = Field(title="Site")
    prefix: Prefix = Field(title="Prefix")
    remark: Remark = Field(default="", title="Remark")


PREFIX_RESERVATION: Final = Kind(
    ObjectType.PREFIX_RESERVATION,
    PrefixReservation,
    "prefix_reservations",
    "Reserved prefixes",
    Group.ADDRESSES,
    refers=(Reference("site_id", ObjectType.SITE, is_parent=True),),
    searched=("prefix",),
)
