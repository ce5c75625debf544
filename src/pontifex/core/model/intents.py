"""What is wanted of the paths: who must reach whom, and what gateways let through."""

from __future__ import annotations

from enum import Enum

from pydantic import Field

from pontifex.core.addressing import Prefix, Selector, Service
from pontifex.core.model.dscp import Dscp
from pontifex.core.model.members import Member
from pontifex.core.model.objects import Name, ObjectId, Rate
from pontifex.core.value import Value


class Intent(Value):
    """These must reach those."""

    id: ObjectId
    name: Name
    sources: tuple[Member, ...] = Field(title="From", min_length=1, max_length=256)
    destinations: tuple[Member, ...] = Field(title="To", min_length=1, max_length=256)
    services: tuple[Service, ...] = Field(default=(), title="Services", description="Empty for all.", max_length=64)
    both_ways: bool = Field(default=False, title="Both ways", description="Each side begins connections.")
    dscp: Dscp | None = Field(default=None, title="Class", description="As the hosts mark it; empty where they don't.")
    rate_mbit_s: Rate | None = Field(default=None, title="Rate, Mbit/s", description="What it takes at busy times, each way.")


class FilterDirection(Enum):
    """Which way a filter looks: what of a gateway's traffic it lets through."""

    IN = "in"  # into the site's networks
    OUT = "out"  # out of the site's networks
    THROUGH = "through"  # from one tunnel to another


class Filter(Value):
    """What a gateway lets through, with the answers to it. With none for a direction, everything passes that way."""

    id: ObjectId
    gateway_id: ObjectId = Field(title="Gateway")
    name: Name
    direction: FilterDirection = Field(default=FilterDirection.IN, title="Direction")
    sources: tuple[Prefix, ...] = Field(default=(), title="From", description="Empty for all.", max_length=256)
    destinations: tuple[Selector, ...] = Field(
        default=(), title="To", description="Networks, with protocol and ports where they matter. Empty for all.", max_length=256
    )
