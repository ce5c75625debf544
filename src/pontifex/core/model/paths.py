"""What decides where traffic goes: routes, policy rules, and what people's own devices send through a tunnel."""

from __future__ import annotations

from enum import Enum
from typing import Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Address, Prefix, Selector
from pontifex.core.model.dscp import Dscp
from pontifex.core.model.members import Member
from pontifex.core.model.objects import DnsName, Milliseconds, Name, NameOrDomain, ObjectId, Percent, Remark
from pontifex.core.value import Value


class RouteOrigin(Enum):
    """How a route came into the table. Of routes to one prefix a static one is taken before a learnt one."""

    STATIC = "static"
    LEARNT = "learnt"  # a routing protocol heard of it through its next hop


class Route(Value):
    """A route of a gateway, or of a cloud subnet's own table: to a prefix, by one next hop."""

    id: ObjectId
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


class PathType(Enum):
    """What a rule sends traffic into."""

    TUNNEL = "tunnel"
    UPLINK = "uplink"


class Path(Value):
    """A tunnel or an uplink, and how good it must be to be taken. A quality that isn't known is good enough."""

    type: PathType = Field(title="Type")
    id: ObjectId
    most_delay_ms: Milliseconds | None = Field(default=None, title="Most delay, ms")
    most_jitter_ms: Milliseconds | None = Field(default=None, title="Most jitter, ms")
    most_loss_percent: Percent | None = Field(default=None, title="Most loss, %")


class OnFailure(Enum):
    """What a rule does when none of its paths can be used."""

    FALL_THROUGH = "fall-through"  # the next rule decides
    HOLD = "hold"  # the traffic is dropped


class NameResolution(Enum):
    """When a gateway turns a name in a rule into addresses."""

    AT_START = "at-start"  # once, when the rule is loaded
    BY_ANSWERS = "by-answers"  # from the answers that pass it on their way to the hosts


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
    source_members: tuple[Member, ...] = Field(
        default=(), title="From hosts and networks", description="Beside the prefixes.", max_length=256
    )
    destination_members: tuple[Member, ...] = Field(
        default=(), title="To hosts and networks", description="Beside the networks.", max_length=256
    )
    destination_names: tuple[NameOrDomain, ...] = Field(
        default=(),
        title="To names",
        description="DNS names, beside the networks; *.skerry.example for a domain with all names below it.",
        max_length=64,
    )
    name_resolution: NameResolution = Field(default=NameResolution.AT_START, title="Names resolved")
    region: Remark = Field(default="", title="To region", description="Networks of all sites with this tag, beside the networks.")
    dscp: tuple[Dscp, ...] = Field(default=(), title="Classes", description="Empty for all.", max_length=64)
    marks: Dscp | None = Field(default=None, title="Marks as", description="The class that it gives to what it matches.")
    paths: tuple[Path, ...] = Field(default=(), title="Paths", description="The first that can be used is taken.", max_length=16)
    on_failure: OnFailure = Field(default=OnFailure.FALL_THROUGH, title="On failure")
    back_margin_percent: int = Field(
        default=20,
        title="Back below, % of the limit less",
        description="Hysteresis: how much better than its limits a path must be before it is taken again.",
        ge=0,
        le=90,
    )
    back_after_s: int = Field(default=60, title="Back after, s", description="How long it must stay that good.", ge=0, le=86_400)


class SplitMode(Enum):
    """What of a person's traffic goes through the tunnel."""

    ALL = "all"
    ONLY = "only"
    ALL_BUT = "all-but"


class SuffixResolver(Value):
    """Names under a suffix that a resolver of their own answers."""

    suffix: DnsName = Field(title="Suffix")
    resolver: Address = Field(title="Resolver")


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
    own_resolvers: tuple[SuffixResolver, ...] = Field(default=(), title="Suffixes with a resolver of their own", max_length=64)
    most_routes: int | None = Field(
        default=None, title="Most routes", description="How many the people's devices allow.", ge=1, le=10_000
    )
