"""A filter: what a gateway lets through."""

from __future__ import annotations

from enum import Enum
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix, Selector
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class FilterDirection(Enum):
    """Which way a filter looks: what of a gateway's traffic it lets through."""

    IN = "in"  # into the site's networks
    OUT = "out"  # out of the site's networks
    THROUGH = "through"  # from one tunnel to another


class Filter(DesignMember):
    """What a gateway lets through, with the answers to it. With none for a direction, everything passes that way."""

    gateway_id: ObjectId = Field(title="Gateway")
    direction: FilterDirection = Field(default=FilterDirection.IN, title="Direction")
    sources: tuple[Prefix, ...] = Field(default=(), title="From", description="Empty for all.", max_length=256)
    destinations: tuple[Selector, ...] = Field(
        default=(), title="To", description="Networks, with protocol and ports where they matter. Empty for all.", max_length=256
    )


FILTER: Final = Kind(
    ObjectType.FILTER,
    Filter,
    "filters",
    "Filters",
    Group.PATHS,
    refers=(Reference("gateway_id", ObjectType.GATEWAY, is_parent=True),),
)
