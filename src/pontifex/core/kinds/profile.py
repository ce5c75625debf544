"""A profile: how people dial in, and what of their traffic goes through."""

from __future__ import annotations

from enum import Enum
from typing import Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import DnsName, ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference, Removal


class SplitMode(Enum):
    """What of a person's traffic goes through the tunnel."""

    ALL = "all"
    ONLY = "only"
    ALL_BUT = "all-but"


class SuffixResolver(FrozenModel):
    """Names under a suffix that a resolver of their own answers."""

    suffix: DnsName = Field(title="Suffix")
    resolver: Address = Field(title="Resolver")


class Profile(DesignMember):
    """How people dial in: where, from which pool they get addresses, and what goes through."""

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


PROFILE: Final = Kind(
    ObjectType.PROFILE,
    Profile,
    "profiles",
    "Profiles",
    Group.PEOPLE,
    refers=(
        Reference("gateway_id", ObjectType.GATEWAY),
        Reference("pool_id", ObjectType.NETWORK, on_removal=Removal.EMPTIES),
    ),
)
