"""What an account of a cloud holds, as it is read there and as a design intends it. Ids are those of the design."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Prefix, Service
from pontifex.core.clouds.peering_state import PeeringState
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import ObjectId, PacketDirection, RuleLevel
from pontifex.core.kinds.fields import Remark

MAIN_TABLE: Final = "main"  # used by each subnet that has none of its own
Account = Annotated[str, Field(min_length=1, max_length=200)]


class CloudSubnet(FrozenModel):
    """A part of a block, and the route table that its hosts send by."""

    id: ObjectId
    prefix: Prefix
    table: ObjectId


class CloudRoute(FrozenModel):
    """A route of a table: by a peering, or to the gateway of the network."""

    prefix: Prefix
    peering: str | None = None


class RouteTable(FrozenModel):
    """Routes that subnets share."""

    id: ObjectId
    routes: tuple[CloudRoute, ...] = Field(default=(), max_length=1000)


class HeldRule(FrozenModel):
    """A rule of a subnet or of a group, with the addresses that it holds for."""

    id: ObjectId
    level: RuleLevel
    direction: PacketDirection
    members: tuple[Prefix, ...] = Field(max_length=256)
    far: tuple[Prefix, ...] = Field(default=(), max_length=256)
    services: tuple[Service, ...] = Field(default=(), max_length=64)


class NetworkState(FrozenModel):
    """A cloud network with all that belongs to it."""

    id: ObjectId
    account: Account
    region: Remark
    blocks: tuple[Prefix, ...] = Field(max_length=16)
    subnets: tuple[CloudSubnet, ...] = Field(default=(), max_length=1000)
    tables: tuple[RouteTable, ...] = Field(default=(), max_length=1000)
    rules: tuple[HeldRule, ...] = Field(default=(), max_length=1000)

    def table(self, table_id: str) -> RouteTable:
        """Return a table; one that isn't there has no routes."""
        return next((route_table for route_table in self.tables if route_table.id == table_id), RouteTable(id=table_id))


class Peering(FrozenModel):
    """A peering that one account has requested of another."""

    id: ObjectId
    requester: ObjectId  # network
    requester_account: Account
    accepter: ObjectId
    accepter_account: Account
    state: PeeringState
    since: datetime
    until: datetime | None = None  # when a request ends that nobody answers

    @property
    def networks(self) -> frozenset[str]:
        """The ids of the two networks."""
        return frozenset((self.requester, self.accepter))


class Quotas(FrozenModel):
    """How many of each an account may have."""

    peerings: int = Field(ge=0)  # of one network
    routes: int = Field(ge=0)  # of one table
    rules: int = Field(ge=0)  # of one network


class AccountState(FrozenModel):
    """All that an account holds, and the peerings that it is a party to."""

    account: Account
    networks: tuple[NetworkState, ...] = Field(default=(), max_length=1000)
    peerings: tuple[Peering, ...] = Field(default=(), max_length=10_000)
    quotas: Quotas
