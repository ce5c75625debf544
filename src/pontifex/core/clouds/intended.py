"""What a design intends of its cloud networks: subnets, tables, routes and rules, and the peerings between them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from pontifex.core.addressing import Prefix
from pontifex.core.clouds.resources import MAIN_TABLE, CloudRoute, CloudSubnet, HeldRule, NetworkState, RouteTable
from pontifex.core.kinds import SIDES, CloudNetwork, Network, Route, Side, Tunnel
from pontifex.core.model import Design
from pontifex.core.model.cloud_networks import cloud_networks_at
from pontifex.core.routing.tables.cloud_rules import CloudRules, PlacedCloudRule


@dataclass(frozen=True, slots=True)
class IntendedPeering:
    """A tunnel of a design that is a peering, with the cloud network at either side, and which side requests it."""

    tunnel: Tunnel
    left: CloudNetwork
    right: CloudNetwork
    requester_side: Side

    @property
    def key(self) -> str:
        """What routes by it are known by, until the cloud has given it an id."""
        return self.tunnel.id

    @property
    def requester(self) -> CloudNetwork:
        """The network whose account asks."""
        return self.left if self.requester_side is Side.LEFT else self.right

    @property
    def accepter(self) -> CloudNetwork:
        """The network whose account answers."""
        return self.right if self.requester_side is Side.LEFT else self.left

    @property
    def networks(self) -> frozenset[str]:
        """The ids of the two networks."""
        return frozenset((self.left.id, self.right.id))


def intended_peerings(design: Design) -> Iterator[IntendedPeering]:
    """Yield the peerings of a design whose sides each have one cloud network. The side that has agreed first requests."""
    for tunnel in design.tunnels:
        if not tunnel.left.technology.traits.clouds_alone:
            continue
        left, right = (cloud_networks_at(design, tunnel.end(side).gateway_id) for side in SIDES)
        if len(left) == len(right) == 1:
            asks_right = bool(tunnel.right.peering_agreed) and not tunnel.left.peering_agreed
            yield IntendedPeering(tunnel, left[0], right[0], Side.RIGHT if asks_right else Side.LEFT)


def intended_networks(design: Design) -> tuple[NetworkState, ...]:
    """Return what a design intends of its cloud networks. Routes by a peering name its tunnel."""
    placed = CloudRules(design).placed
    routes: dict[tuple[str, str | None], list[Route]] = defaultdict(list)  # by site, and subnet whose own they are
    for route in sorted(design.routes, key=lambda candidate: (candidate.metric, candidate.id)):
        routes[design.gateway_by_id[route.gateway_id].site_id, route.network_id].append(route)
    return tuple(_network(design, cloud, placed, routes) for cloud in design.cloud_networks)


def _network(
    design: Design,
    cloud: CloudNetwork,
    placed: tuple[PlacedCloudRule, ...],
    routes: Mapping[tuple[str, str | None], Sequence[Route]],
) -> NetworkState:
    subnets = tuple(subnets_of(design, cloud))
    own = [subnet.id for subnet in subnets if subnet.id == subnet.table]
    by_table = ((MAIN_TABLE, None), *((id_, id_) for id_ in own))
    return NetworkState(
        id=cloud.id,
        account=cloud.owner,
        region=cloud.region,
        blocks=cloud.blocks,
        subnets=subnets,
        tables=tuple(
            RouteTable(id=table, routes=tuple(_routes(design, routes.get((cloud.site_id, subnet_id), ()))))
            for table, subnet_id in by_table
        ),
        rules=tuple(
            HeldRule(
                id=rule.rule.id,
                level=rule.rule.level,
                direction=rule.rule.direction,
                members=rule.members,
                far=rule.rule.far,
                services=rule.rule.services,
            )
            for rule in placed
            if rule.rule.site_id == cloud.site_id
            and any(block.overlaps(member) for block in cloud.blocks for member in rule.members)
        ),
    )


def subnets_of(design: Design, cloud: CloudNetwork) -> Iterator[CloudSubnet]:
    """Yield the networks of the site that lie in the blocks; one that others are cut of is no subnet itself."""
    networks = [
        candidate
        for candidate in design.networks_of_site(cloud.site_id)
        if any(block.contains(candidate.prefix) for block in cloud.blocks)
    ]
    for network in networks:
        if not any(_is_within(other, network) for other in networks):
            yield CloudSubnet(id=network.id, prefix=network.prefix, table=network.id if network.own_table else MAIN_TABLE)


def _is_within(inner: Network, outer: Network) -> bool:
    return inner.prefix != outer.prefix and outer.prefix.contains(inner.prefix)


def _routes(design: Design, routes: Sequence[Route]) -> Iterator[CloudRoute]:
    """Yield the routes of a table; of several to one prefix the first."""
    first: dict[Prefix, Route] = {}
    for route in routes:
        first.setdefault(route.prefix, route)
    for prefix, route in first.items():
        yield CloudRoute(prefix=prefix, peering=_peering_of(design, route))


def _peering_of(design: Design, route: Route) -> str | None:
    tunnel = design.tunnel_by_id.get(route.tunnel_id or "")
    return tunnel.id if tunnel and tunnel.left.technology.traits.clouds_alone else None
