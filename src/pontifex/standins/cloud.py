"""A stand-in cloud: accounts with networks, tables and rules, and peerings between them that come about in their time.

What is asked for is answered at once, and is so only later: a request is seen by the other account after a while, a peering
that was accepted is active after a while, and a request that nobody answers expires.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final, TypeVar

from pydantic import Field

from pontifex.core.addressing import Prefix
from pontifex.core.clouds.blocks import shared_prefix
from pontifex.core.clouds.peering_state import EXPIRES_AFTER, PeeringState
from pontifex.core.clouds.resources import (
    AccountState,
    CloudRoute,
    CloudSubnet,
    HeldRule,
    NetworkState,
    Peering,
    Quotas,
    RouteTable,
)
from pontifex.core.frozen_model import FrozenModel

Held = TypeVar("Held", CloudSubnet, RouteTable, HeldRule)  # known by their ids
USUAL_QUOTAS: Final = Quotas(peerings=5, routes=50, rules=60)


class CloudRefused(Exception):
    """The cloud doesn't do it: a status of HTTP, a short code, and the reason."""

    def __init__(self, status: int, code: str, reason: str) -> None:
        super().__init__(reason)
        self.status, self.code, self.reason = status, code, reason


class CloudState(FrozenModel):
    """All that a cloud holds of all its accounts."""

    networks: dict[str, NetworkState] = Field(default={})
    peerings: dict[str, Peering] = Field(default={})
    made: int = 0  # peerings, ever


@dataclass
class StandInCloud:
    """One cloud. `settles_after` is how long it takes for what it does by itself."""

    state: CloudState
    clock: Callable[[], datetime]
    settles_after: timedelta
    quotas: Quotas = USUAL_QUOTAS

    def account(self, account: str) -> AccountState:
        """Return what an account holds, and the peerings that it sees."""
        self._settle()
        seen = (peering for peering in self.state.peerings.values() if _sees(account, peering))
        networks = (network for network in self.state.networks.values() if network.account == account)
        return AccountState(account=account, networks=tuple(networks), peerings=tuple(seen), quotas=self.quotas)

    # Peerings

    def request(self, account: str, requester: str, accepter: str, accepter_account: str) -> Peering:
        """Ask another account for a peering."""
        ours = self._own_network(account, requester)
        theirs = self.state.networks.get(accepter)
        if theirs is None or theirs.account != accepter_account:
            raise CloudRefused(404, "no-such-network", f"{accepter_account} has no network {accepter}")
        shared = shared_prefix(ours.blocks, theirs.blocks)
        if shared:
            raise CloudRefused(409, "overlapping-blocks", f"both networks have {shared}")
        live = [peering for peering in self.state.peerings.values() if not peering.state.is_over]
        if any(peering.networks == {requester, accepter} for peering in live):
            raise CloudRefused(409, "already-there", "these two networks have a peering, or a request for one")
        if sum(requester in peering.networks for peering in live) >= self.quotas.peerings:
            raise CloudRefused(403, "quota-exceeded", f"{requester} has {self.quotas.peerings} peerings, and no more are allowed")
        number = self.state.made + 1
        made = Peering(
            id=f"peering-{number}",
            requester=requester,
            requester_account=account,
            accepter=accepter,
            accepter_account=accepter_account,
            state=PeeringState.REQUESTED,
            since=self.clock(),
            until=self.clock() + EXPIRES_AFTER,
        )
        self.state = self.state.changed(peerings={**self.state.peerings, made.id: made}, made=number)
        return made

    def answer(self, account: str, peering_id: str, accepted: bool) -> Peering:
        """Accept a request of another account, or refuse it."""
        peering = self._peering(account, peering_id)
        if peering.accepter_account != account:
            raise CloudRefused(403, "not-yours-to-answer", f"{peering.accepter_account} is asked, not {account}")
        if peering.state is not PeeringState.PENDING:
            raise CloudRefused(409, "not-pending", f"the request is {peering.state.value}")
        return self._become(peering, PeeringState.ACCEPTED if accepted else PeeringState.REJECTED)

    def take_down(self, account: str, peering_id: str) -> Peering:
        """Take a peering down, or withdraw a request. Routes by it lead nowhere from then on."""
        peering = self._peering(account, peering_id)
        if peering.state.is_over or peering.state is PeeringState.DELETING:
            raise CloudRefused(409, "not-there-any-more", f"the peering is {peering.state.value}")
        return self._become(peering, PeeringState.DELETING)

    # Networks

    def put_subnet(self, account: str, network_id: str, subnet: CloudSubnet) -> None:
        """Make a subnet, or let it use another table."""
        network = self._own_network(account, network_id)
        if not any(block.contains(subnet.prefix) for block in network.blocks):
            raise CloudRefused(409, "outside-blocks", f"{subnet.prefix} is in no block of {network_id}")
        others = [cloud_subnet for cloud_subnet in network.subnets if cloud_subnet.id != subnet.id]
        clash = next((cloud_subnet for cloud_subnet in others if cloud_subnet.prefix.overlaps(subnet.prefix)), None)
        if clash:
            raise CloudRefused(409, "overlapping-subnets", f"{subnet.prefix} and {clash.prefix} of {clash.id} overlap")
        self._keep(network.changed(subnets=_sorted([*others, subnet])))

    def remove_subnet(self, account: str, network_id: str, subnet_id: str) -> None:
        """Remove a subnet."""
        network = self._own_network(account, network_id)
        self._keep(network.changed(subnets=_without(network.subnets, subnet_id)))

    def put_route(self, account: str, network_id: str, table_id: str, route: CloudRoute) -> None:
        """Put a route into a table, which is made where it isn't there."""
        network = self._own_network(account, network_id)
        if route.peering:
            peering = self._peering(account, route.peering)
            if peering.state is not PeeringState.ACTIVE or network_id not in peering.networks:
                raise CloudRefused(409, "peering-not-active", f"{route.peering} is {peering.state.value}, or not of {network_id}")
        table = network.table(table_id)
        routes = [*(cloud_route for cloud_route in table.routes if cloud_route.prefix != route.prefix), route]
        if len(routes) > self.quotas.routes:
            raise CloudRefused(403, "quota-exceeded", f"a table has {self.quotas.routes} routes, and no more are allowed")
        self._keep(_with_table(network, table.changed(routes=tuple(sorted(routes, key=lambda route: route.prefix)))))

    def remove_route(self, account: str, network_id: str, table_id: str, prefix: Prefix) -> None:
        """Take a route out of a table."""
        network = self._own_network(account, network_id)
        table = network.table(table_id)
        stay = tuple(route for route in table.routes if route.prefix != prefix)
        if len(stay) == len(table.routes):
            raise CloudRefused(404, "no-such-route", f"there is no route to {prefix}")
        self._keep(_with_table(network, table.changed(routes=stay)))

    def put_rule(self, account: str, network_id: str, rule: HeldRule) -> None:
        """Put a rule, in the place of the one of its id."""
        network = self._own_network(account, network_id)
        rules = [*(held_rule for held_rule in network.rules if held_rule.id != rule.id), rule]
        if len(rules) > self.quotas.rules:
            raise CloudRefused(403, "quota-exceeded", f"a network has {self.quotas.rules} rules, and no more are allowed")
        self._keep(network.changed(rules=_sorted(rules)))

    def remove_rule(self, account: str, network_id: str, rule_id: str) -> None:
        """Remove a rule."""
        network = self._own_network(account, network_id)
        self._keep(network.changed(rules=_without(network.rules, rule_id)))

    # Within

    def _own_network(self, account: str, network_id: str) -> NetworkState:
        self._settle()
        network = self.state.networks.get(network_id)
        if network is None or network.account != account:
            raise CloudRefused(404, "no-such-network", f"{account} has no network {network_id}")
        return network

    def _peering(self, account: str, peering_id: str) -> Peering:
        self._settle()
        peering = self.state.peerings.get(peering_id)
        if peering is None or not _sees(account, peering):
            raise CloudRefused(404, "no-such-peering", f"{account} sees no peering {peering_id}")
        return peering

    def _keep(self, network: NetworkState) -> None:
        self.state = self.state.changed(networks={**self.state.networks, network.id: network})

    def _become(self, peering: Peering, state: PeeringState, at: datetime | None = None) -> Peering:
        until = peering.until if state is PeeringState.PENDING else None
        made = peering.changed(state=state, since=at or self.clock(), until=until)
        self.state = self.state.changed(peerings={**self.state.peerings, made.id: made})
        return made

    def _settle(self) -> None:
        """Bring on what the cloud brings on by itself."""
        now = self.clock()
        for peering in list(self.state.peerings.values()):
            settled = peering.since + self.settles_after
            waits = peering.state in (PeeringState.REQUESTED, PeeringState.PENDING)
            if waits and peering.until and now >= peering.until:
                self._become(peering, PeeringState.EXPIRED, peering.until)
            elif peering.state in _SETTLES and now >= settled:
                self._become(peering, _SETTLES[peering.state], settled)


_SETTLES: Final[Mapping[PeeringState, PeeringState]] = {
    PeeringState.REQUESTED: PeeringState.PENDING,
    PeeringState.ACCEPTED: PeeringState.ACTIVE,
    PeeringState.DELETING: PeeringState.DELETED,
}


def _sees(account: str, peering: Peering) -> bool:
    """Whether an account sees a peering: whoever is asked doesn't, until the cloud has passed the request on."""
    if account == peering.accepter_account:
        return peering.state is not PeeringState.REQUESTED
    return account == peering.requester_account


def _with_table(network: NetworkState, table: RouteTable) -> NetworkState:
    return network.changed(
        tables=_sorted([*(route_table for route_table in network.tables if route_table.id != table.id), table])
    )


def _sorted(items: list[Held]) -> tuple[Held, ...]:
    return tuple(sorted(items, key=lambda item: item.id))


def _without(items: tuple[Held, ...], id_: str) -> tuple[Held, ...]:
    stay = tuple(subnet for subnet in items if subnet.id != id_)
    if len(stay) == len(items):
        raise CloudRefused(404, "not-there", f"there is no {id_}")
    return stay
