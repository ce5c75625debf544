"""An intent: who must reach whom."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Service
from pontifex.core.kinds.dscp import Dscp
from pontifex.core.kinds.fields import Rate
from pontifex.core.kinds.kind import PLACES, DesignMember, Group, Kind, ObjectType, Reference
from pontifex.core.kinds.member import IntentTarget, PlaceMember


class Intent(DesignMember):
    """These must reach those."""

    sources: tuple[PlaceMember, ...] = Field(title="From", min_length=1, max_length=256)
    destinations: tuple[IntentTarget, ...] = Field(
        title="To", description="A gateway stands for the Internet, by this exit.", min_length=1, max_length=256
    )
    services: tuple[Service, ...] = Field(default=(), title="Services", description="Empty for all.", max_length=64)
    both_ways: bool = Field(default=False, title="Both ways", description="Each side begins connections.")
    dscp: Dscp | None = Field(default=None, title="Class", description="As the hosts mark it; empty where they don't.")
    rate_mbit_s: Rate | None = Field(default=None, title="Rate, Mbit/s", description="What it takes at busy times, each way.")


INTENT: Final = Kind(
    ObjectType.INTENT,
    Intent,
    "intents",
    "Intents",
    Group.PATHS,
    refers=(Reference("sources", among=PLACES), Reference("destinations", among=(*PLACES, ObjectType.GATEWAY))),
)
