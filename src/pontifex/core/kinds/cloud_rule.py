"""A cloud rule: what a cloud lets into or out of a subnet, or into or out of some of its hosts."""

from __future__ import annotations

from enum import Enum
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Prefix, Service
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference
from pontifex.core.kinds.member import PlaceMember


class PacketDirection(Enum):
    """Which way a cloud rule looks."""

    IN = "in"
    OUT = "out"


class RuleLevel(Enum):
    """Where a cloud rule stands."""

    SUBNET = "subnet"  # at its border, for each packet by itself: answers need a rule of their own
    GROUP = "group"  # at each host, which keeps state: answers pass


class CloudRule(DesignMember):
    """What passes. Where a subnet or host has no rule of a level and direction, everything passes there."""

    site_id: ObjectId = Field(title="Site")
    level: RuleLevel = Field(
        default=RuleLevel.GROUP, title="Stands at", description="A subnet's rules keep no state; those of a group do."
    )
    direction: PacketDirection = Field(default=PacketDirection.IN, title="Direction")
    members: tuple[PlaceMember, ...] = Field(
        title="Holds for", description="The subnets, or the hosts of the group.", min_length=1, max_length=256
    )
    far: tuple[Prefix, ...] = Field(
        default=(), title="From or to", description="The addresses beyond. Empty for all.", max_length=256
    )
    services: tuple[Service, ...] = Field(
        default=(), title="Services", description="Protocol, and port at the destination. Empty for all.", max_length=64
    )


CLOUD_RULE: Final = Kind(
    ObjectType.CLOUD_RULE,
    CloudRule,
    "cloud_rules",
    "Cloud rules",
    Group.CLOUDS,
    refers=(
        Reference("site_id", ObjectType.SITE, is_parent=True),
        Reference("members", among=(ObjectType.NETWORK, ObjectType.HOST)),
    ),
)
