"""An intent: who must reach whom."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Prefix, Service
from pontifex.core.kinds.dscp import Dscp
from pontifex.core.kinds.fields import NameOrDomain, Rate
from pontifex.core.kinds.kind import PLACES, DesignMember, Group, Kind, ObjectType, Reference
from pontifex.core.kinds.member import IntentTarget, Member, PlaceMember


@dataclass(frozen=True, slots=True)
class IntentSide:
    """All that an intent names at one of its two sides."""

    members: tuple[Member, ...]
    prefixes: tuple[Prefix, ...]
    names: tuple[str, ...]

    @property
    def is_empty(self) -> bool:
        """Whether nothing is named."""
        return not (self.members or self.prefixes or self.names)


class Intent(DesignMember):
    """These must reach those."""

    sources: tuple[PlaceMember, ...] = Field(default=(), title="From", max_length=256)
    destinations: tuple[IntentTarget, ...] = Field(
        default=(),
        title="To",
        description="A gateway stands for the Internet, by this exit; of several any will do.",
        max_length=256,
    )
    services: tuple[Service, ...] = Field(default=(), title="Services", description="Empty for all.", max_length=64)
    both_ways: bool = Field(default=False, title="Both ways", description="Each side begins connections.")
    dscp: Dscp | None = Field(default=None, title="Class", description="As the hosts mark it; empty where they don't.")
    rate_mbit_s: Rate | None = Field(default=None, title="Rate, Mbit/s", description="What it takes at busy times, each way.")
    source_prefixes: tuple[Prefix, ...] = Field(
        default=(), title="From prefixes", description="What of them stands in networks of the design.", max_length=64
    )
    destination_prefixes: tuple[Prefix, ...] = Field(
        default=(),
        title="To prefixes",
        description="What of them stands in networks of the design; what is public and in none is meant on the Internet.",
        max_length=64,
    )
    source_names: tuple[NameOrDomain, ...] = Field(
        default=(),
        title="From names",
        description="DNS names of hosts; *.skerry.example for a domain with all names below it.",
        max_length=64,
    )
    destination_names: tuple[NameOrDomain, ...] = Field(
        default=(),
        title="To names",
        description="DNS names of hosts; *.skerry.example for a domain with all names below it.",
        max_length=64,
    )

    @model_validator(mode="after")
    def _two_sides(self) -> Self:
        for side, where in ((self.source_side, "where it begins"), (self.destination_side, "what is to be reached")):
            if side.is_empty:
                raise PydanticCustomError("intent", "say {where}", {"where": where})
        return self

    @property
    def source_side(self) -> IntentSide:
        """Where it begins."""
        return IntentSide(self.sources, self.source_prefixes, self.source_names)

    @property
    def destination_side(self) -> IntentSide:
        """What is to be reached."""
        return IntentSide(self.destinations, self.destination_prefixes, self.destination_names)


INTENT: Final = Kind(
    ObjectType.INTENT,
    Intent,
    "intents",
    "Intents",
    Group.PATHS,
    one_of=(
        ("sources", "source_prefixes", "source_names"),
        ("destinations", "destination_prefixes", "destination_names"),
    ),
    refers=(Reference("sources", among=PLACES), Reference("destinations", among=(*PLACES, ObjectType.GATEWAY))),
)
