"""A design as its clouds are: peerings that aren't active don't carry, routes and rules are those that were read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from pontifex.core.addressing import Prefix
from pontifex.core.clouds.intended import intended_peerings
from pontifex.core.clouds.peering_state import PeeringState
from pontifex.core.clouds.resources import MAIN_TABLE, NetworkState
from pontifex.core.clouds.steps import Readings, held_peering
from pontifex.core.kinds import CloudNetwork, CloudRule, Member, MemberType, Route, Side
from pontifex.core.model import Design


def as_read(design: Design, readings: Readings) -> Design:
    """Return the design as the clouds hold it; what wasn't read stays as designed."""
    design, keys = _with_peerings(design, readings)
    for cloud in design.cloud_networks:
        held = next((network for state in readings.values() for network in state.networks if network.id == cloud.id), None)
        if held:
            design = _as_held(design, cloud, held, keys)
    return design


def as_agreed(design: Design) -> Design:
    """Return the design with all peerings agreed to, as they are once its steps are taken."""
    for peering in intended_peerings(design):
        design = _agreed(design, peering.tunnel.id, True)
    return design


def _agreed(design: Design, tunnel_id: str, agreed: bool) -> Design:
    tunnel = design.tunnel_by_id[tunnel_id]
    for side in Side:
        tunnel = tunnel.with_end(side, peering_agreed=agreed)
    return design.with_tunnel(tunnel)


def _with_peerings(design: Design, readings: Readings) -> tuple[Design, dict[str, str]]:
    """Return the design with peerings agreed to where they are active, and the tunnels that ids of peerings stand for."""
    keys = {}
    for peering in intended_peerings(design):
        if not {peering.left.owner, peering.right.owner} & readings.keys():
            continue
        held = held_peering(peering.networks, readings)
        design = _agreed(design, peering.tunnel.id, held is not None and held.state is PeeringState.ACTIVE)
        if held:
            keys[held.id] = peering.tunnel.id
    return design, keys


def _as_held(design: Design, cloud: CloudNetwork, held: NetworkState, keys: Mapping[str, str]) -> Design:
    """Return the design with the routes by peerings, and the rules, that a network was read to have."""
    at_site = {gateway.id for gateway in design.gateways_of_site(cloud.site_id)}
    peerings = {tunnel.id for tunnel in design.tunnels if tunnel.left.technology.traits.clouds_alone}
    stay = [route for route in design.routes if route.gateway_id not in at_site or route.tunnel_id not in peerings]
    rules = [rule for rule in design.cloud_rules if rule.site_id != cloud.site_id]
    return design.changed(
        routes=tuple(sorted([*stay, *_routes(design, cloud, held, keys)], key=lambda route: route.id)),
        cloud_rules=tuple(sorted([*rules, *held_rules(design, cloud, held)], key=lambda rule: rule.id)),
    )


def _routes(design: Design, cloud: CloudNetwork, held: NetworkState, keys: Mapping[str, str]) -> Iterator[Route]:
    for table in held.tables:
        for route in table.routes:
            tunnel_id = keys.get(route.peering or "")
            if tunnel_id:
                tunnel = design.tunnel_by_id[tunnel_id]
                ends = (tunnel.end(side).gateway_id for side in Side)
                gateway_id = next(id_ for id_ in ends if design.gateway_by_id[id_].site_id == cloud.site_id)
                yield Route(
                    id=f"read-{table.id[:30]}-{route.prefix.network:x}-{route.prefix.length}",
                    gateway_id=gateway_id,
                    prefix=route.prefix,
                    tunnel_id=tunnel_id,
                    network_id=None if table.id == MAIN_TABLE else table.id,
                )


def held_rules(design: Design, cloud: CloudNetwork, held: NetworkState) -> Iterator[CloudRule]:
    """Yield the rules of a network as a design says them: for its subnets and hosts of the same addresses."""
    by_prefix = _members_by_prefix(design, cloud) if held.rules else {}
    for rule in held.rules:
        members = tuple(by_prefix[prefix] for prefix in rule.members if prefix in by_prefix)
        if members:
            yield CloudRule(
                id=rule.id,
                name=rule.id,
                site_id=cloud.site_id,
                level=rule.level,
                direction=rule.direction,
                members=members,
                far=rule.far,
                services=rule.services,
            )


def _members_by_prefix(design: Design, cloud: CloudNetwork) -> dict[Prefix, Member]:
    """Return the hosts and networks of a site by their addresses; a network stands for those that it shares with a host."""
    networks = design.networks_of_site(cloud.site_id)
    hosts = (host.id for network in networks for host in design.hosts_of_network(network.id))
    members = [
        *(Member(type=MemberType.HOST, id=id_) for id_ in hosts),
        *(Member(type=MemberType.NETWORK, id=network.id) for network in networks),
    ]
    return {prefix: member for member in members for prefix in design.member_prefixes(member)}
