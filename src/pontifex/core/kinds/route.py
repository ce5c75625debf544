"""A route of a gateway, or of a cloud subnet's own table."""

from __future__ import annotations

from enum import Enum
from typing import Final, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, Prefix
from pontifex.core.kinds.fields import ObjectId, Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class RouteOrigin(Enum):
    """How a route came into the table. Of routes to one prefix a static one is taken before a learnt one."""

    STATIC = "static"
    LEARNT = "learnt"  # a routing protocol heard of it through its next hop


class Route(DesignMember):
    """A route of a gateway, or of a cloud subnet's own table: to a prefix, by one next hop."""

    gateway_id: ObjectId = Field(title="Gateway")
    name: Remark = Field(default="", title="Remark")
    prefix: Prefix = Field(title="Prefix")
    via: Address | None = Field(default=None, title="By address")
    tunnel_id: ObjectId | None = Field(default=None, title="By tunnel")
    uplink_id: ObjectId | None = Field(default=None, title="By uplink")
    network_id: ObjectId | None = Field(
        default=None, title="Of subnet", description="Whose own table it stands in; without a next hop it leads to the gateway."
    )
    origin: RouteOrigin = Field(default=RouteOrigin.STATIC, title="Origin")
    metric: int = Field(default=0, title="Metric", description="Of routes to one prefix the lowest is used.", ge=0, le=2**31 - 1)

    @model_validator(mode="after")
    def _one_next_hop(self) -> Self:
        hops = sum(hop is not None for hop in (self.via, self.tunnel_id, self.uplink_id))
        if hops != 1 and not (hops == 0 and self.network_id):
            raise PydanticCustomError("route", "a route goes by one of address, tunnel and uplink")
        return self


ROUTE: Final = Kind(
    ObjectType.ROUTE,
    Route,
    "routes",
    "Routes",
    Group.PATHS,
    refers=(
        Reference("gateway_id", ObjectType.GATEWAY, is_parent=True),
        Reference("tunnel_id", ObjectType.TUNNEL),
        Reference("uplink_id", ObjectType.UPLINK),
        Reference("network_id", ObjectType.NETWORK),
    ),
    searched=("prefix",),
    one_of=(("tunnel_id", "via", "uplink_id", "network_id"),),
)
