"""A profile: how people dial in, and what of their traffic goes through."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix
from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.dial_in import (
    SHORTEST_LIMIT_S,
    ApplicationName,
    DialInEnd,
    DialWhen,
    GroupName,
    InsideTest,
    Proxy,
    TrafficRule,
)
from pontifex.core.kinds.fields import DnsName, ObjectId
from pontifex.core.kinds.identity import AuthMethod
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference, Removal
from pontifex.core.kinds.platform import PlatformFamily
from pontifex.core.kinds.tunnel_end import PeerAddress


class SplitMode(Choice):
    """What of a person's traffic goes through the tunnel."""

    ALL = "all"
    ONLY = "only"
    ALL_BUT = "all-but"


class SuffixResolver(FrozenModel):
    """Names under a suffix that a resolver of their own answers."""

    suffix: DnsName = Field(title="Suffix")
    resolver: Address = Field(title="Resolver")


LimitSeconds = Annotated[int, Field(ge=SHORTEST_LIMIT_S, le=86_400 * 30, examples=[3600])]


class Profile(DesignMember):
    """How people dial in: where, from which pool they get addresses, and what goes through."""

    gateway_id: ObjectId = Field(title="Gateway")
    pool_id: ObjectId | None = Field(default=None, title="Pool", description="The network that the people's addresses come from.")
    dhcp_block: int | None = Field(
        default=None,
        title="Leases at once",
        description="The gateway takes the addresses from a DHCP server, so many at once; empty where it gives them out itself.",
        ge=1,
        le=1000,
    )
    people: int | None = Field(default=None, title="People", ge=0, le=1_000_000)
    groups: tuple[GroupName, ...] = Field(default=(), title="Groups", description="Of people whom it is for.", max_length=64)
    families: tuple[PlatformFamily, ...] = Field(
        default=(), title="Families", description="Of devices that it is for; all where none is named.", max_length=4
    )
    servers: tuple[PeerAddress, ...] = Field(
        default=(), title="Servers", description="Where to dial, in this order.", max_length=8
    )
    mode: SplitMode = Field(default=SplitMode.ALL, title="What goes through")
    networks: tuple[Prefix, ...] = Field(default=(), title="These networks", max_length=1000)
    resolvers: tuple[Address, ...] = Field(default=(), title="Resolvers", max_length=8)
    suffixes: tuple[DnsName, ...] = Field(default=(), title="Names asked there", max_length=64)
    search: tuple[DnsName, ...] = Field(
        default=(), title="Search list", description="Put behind a name that isn't complete.", max_length=16
    )
    own_resolvers: tuple[SuffixResolver, ...] = Field(default=(), title="Suffixes with a resolver of their own", max_length=64)
    most_routes: int | None = Field(
        default=None, title="Most routes", description="How many the people's devices allow.", ge=1, le=10_000
    )
    dial: DialWhen = Field(default=DialWhen.BY_HAND, title="Dials")
    dial_applications: tuple[ApplicationName, ...] = Field(
        default=(), title="Applications", description="That make it dial when they start.", max_length=32
    )
    inside_tests: tuple[InsideTest, ...] = Field(
        default=(), title="Inside already", description="It isn't dialled where one of these holds.", max_length=16
    )
    rules: tuple[TrafficRule, ...] = Field(
        default=(), title="Traffic rules", description="Before the split; the first that names it decides.", max_length=200
    )
    proxy: Proxy | None = Field(default=None, title="Proxy")
    lock_down: bool = Field(default=False, title="Lock-down", description="Nothing leaves the device while it should be dialled.")
    second_factor: bool | None = Field(default=None, title="Second factor", description="Asked of the person when it is dialled.")
    idle_limit_s: LimitSeconds | None = Field(default=None, title="Idle limit, s")
    session_limit_s: LimitSeconds | None = Field(default=None, title="Session limit, s")
    device_end: DialInEnd = Field(
        default=DialInEnd(local_auth=AuthMethod.EAP, remote_auth=AuthMethod.CERTIFICATE), title="The device's end"
    )
    gateway_end: DialInEnd = Field(
        default=DialInEnd(local_auth=AuthMethod.CERTIFICATE, remote_auth=AuthMethod.EAP), title="The gateway's end"
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
    beside_grid=("inside_tests", "rules", "proxy", "device_end", "gateway_end"),
)
