"""What decides where traffic goes: routes, policy rules, and what people's own devices send through a tunnel."""

from __future__ import annotations

from enum import Enum
from typing import Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, Prefix, Selector
from pontifex.core.model.objects import DnsName, Name, ObjectId, Remark
from pontifex.core.value import Value


class Route(Value):
    """A static route of a gateway: to a prefix, by one next hop."""

    id: ObjectId
    gateway_id: ObjectId = Field(title="Gateway")
    name: Remark = Field(default="", title="Remark")
    prefix: Prefix = Field(title="Prefix")
    via: Address | None = Field(default=None, title="By address")
    tunnel_id: ObjectId | None = Field(default=None, title="By tunnel")
    uplink_id: ObjectId | None = Field(default=None, title="By uplink")
    metric: int = Field(default=0, title="Metric", description="Of routes to one prefix the lowest is used.", ge=0, le=2**31 - 1)

    @model_validator(mode="after")
    def _one_next_hop(self) -> Self:
        if sum(hop is not None for hop in (self.via, self.tunnel_id, self.uplink_id)) != 1:
            raise PydanticCustomError("route", "a route goes by one of address, tunnel and uplink")
        return self


class PathType(Enum):
    """What a rule sends traffic into."""

    TUNNEL = "tunnel"
    UPLINK = "uplink"


class Path(Value):
    """A tunnel or an uplink."""

    type: PathType = Field(title="Type")
    id: ObjectId


class OnFailure(Enum):
    """What a rule does when none of its paths can be used."""

    FALL_THROUGH = "fall-through"  # the next rule decides
    HOLD = "hold"  # the traffic is dropped


class Rule(Value):
    """A policy rule of a gateway. Rules are asked in their order, before any route."""

    id: ObjectId
    gateway_id: ObjectId = Field(title="Gateway")
    name: Name
    position: int = Field(default=10, title="Order", description="The lowest is asked first.", ge=1, le=100_000)
    sources: tuple[Prefix, ...] = Field(default=(), title="From", description="Empty for all.", max_length=256)
    destinations: tuple[Selector, ...] = Field(
        default=(), title="To", description="Networks, with protocol and ports where they matter. Empty for all.", max_length=256
    )
    paths: tuple[Path, ...] = Field(default=(), title="Paths", description="The first that can be used is taken.", max_length=16)
    on_failure: OnFailure = Field(default=OnFailure.FALL_THROUGH, title="On failure")


class SplitMode(Enum):
    """What of a person's traffic goes through the tunnel."""

    ALL = "all"
    ONLY = "only"
    ALL_BUT = "all-but"


class Profile(Value):
    """How people dial in: where, from which pool they get addresses, and what goes through."""

    id: ObjectId
    name: Name
    gateway_id: ObjectId = Field(title="Gateway")
    pool_id: ObjectId | None = Field(default=None, title="Pool", description="The network that the people's addresses come from.")
    people: int | None = Field(default=None, title="People", ge=0, le=1_000_000)
    mode: SplitMode = Field(default=SplitMode.ALL, title="What goes through")
    networks: tuple[Prefix, ...] = Field(default=(), title="These networks", max_length=1000)
    resolvers: tuple[Address, ...] = Field(default=(), title="Resolvers", max_length=8)
    suffixes: tuple[DnsName, ...] = Field(default=(), title="Names asked there", max_length=64)
