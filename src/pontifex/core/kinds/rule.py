"""A policy rule of a gateway."""

from __future__ import annotations

from enum import Enum
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix, Selector
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.dscp import Dscp
from pontifex.core.kinds.fields import Milliseconds, NameOrDomain, ObjectId, Percent, Remark
from pontifex.core.kinds.kind import PLACES, DesignMember, Group, Kind, ObjectType, Reference
from pontifex.core.kinds.member import PlaceMember, RuleTarget


class PathType(Enum):
    """What a rule sends traffic into."""

    TUNNEL = "tunnel"
    UPLINK = "uplink"


class Path(FrozenModel):
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


class Rule(DesignMember):
    """A policy rule of a gateway. Rules are asked in their order, before any route."""

    gateway_id: ObjectId = Field(title="Gateway")
    position: int = Field(default=10, title="Order", description="The lowest is asked first.", ge=1, le=100_000)
    source_members: tuple[PlaceMember, ...] = Field(
        default=(), title="From hosts and networks", description="Beside the prefixes.", max_length=256
    )
    sources: tuple[Prefix, ...] = Field(default=(), title="From", description="Empty for all.", max_length=256)
    destination_members: tuple[RuleTarget, ...] = Field(
        default=(), title="To hosts, networks and lists", description="Beside the networks.", max_length=256
    )
    destinations: tuple[Selector, ...] = Field(
        default=(), title="To", description="Networks, with protocol and ports where they matter. Empty for all.", max_length=256
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
        title="Back margin, %",
        description="Hysteresis: how much better than its limits a path must be before it is taken again.",
        ge=0,
        le=90,
    )
    back_after_s: int = Field(default=60, title="Back after, s", description="How long it must stay that good.", ge=0, le=86_400)


RULE: Final = Kind(
    ObjectType.RULE,
    Rule,
    "rules",
    "Rules",
    Group.PATHS,
    refers=(
        Reference("gateway_id", ObjectType.GATEWAY, is_parent=True),
        Reference("paths"),
        Reference("source_members", among=PLACES),
        Reference("destination_members", among=(*PLACES, ObjectType.PREFIX_LIST)),
    ),
)
