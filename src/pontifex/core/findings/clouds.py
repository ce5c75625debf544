"""Findings about clouds: subnets outside their blocks, peerings that a cloud refuses, and rules for somewhere else."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial

from pontifex.core.addressing import Prefix
from pontifex.core.catalogue import Code
from pontifex.core.clouds.blocks import shared_block
from pontifex.core.findings.finding import Place, Remark, network_of, remark
from pontifex.core.kinds import SIDES, CloudNetwork, CloudRule, Member, ObjectType, Tunnel
from pontifex.core.kinds.cloud_network import MOST_BLOCKS
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Remove, put
from pontifex.core.model.cloud_networks import cloud_networks_at
from pontifex.core.reasons import clouds, named


def cloud_findings(design: Design) -> Iterator[Remark]:
    """Yield what is to be said of the clouds of a design, beside what their rules do to what is wanted."""
    for cloud in design.cloud_networks:
        yield from _outside(design, cloud)
    for tunnel in design.tunnels:
        if tunnel.left.technology.traits.clouds_alone:
            yield from _overlapping(design, tunnel)
    for rule in design.cloud_rules:
        yield from _elsewhere(design, rule)


def _outside(design: Design, cloud: CloudNetwork) -> Iterator[Remark]:
    """A site's networks may be cut of the blocks of any of its cloud networks; they are told at the first one."""
    beside = [cloud_network for cloud_network in design.cloud_networks if cloud_network.site_id == cloud.site_id]
    if cloud is not beside[0] or not all(cloud_network.blocks for cloud_network in beside):
        return
    blocks = [block for cloud_network in beside for block in cloud_network.blocks]
    for network in design.networks_of_site(cloud.site_id):
        if any(block.contains(network.prefix) for block in blocks):
            continue
        where = Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field="prefix")
        why = clouds.SubnetOutside(network_of(design, network), network.prefix, named(cloud), tuple(blocks))
        added = partial(_with_block, cloud, network.prefix)
        yield remark(Code.CLOUD_SUBNET_OUTSIDE, (where,), why, added if len(cloud.blocks) < MOST_BLOCKS else None)


def _with_block(cloud: CloudNetwork, prefix: Prefix) -> Iterator[Remedy]:
    wider = put(cloud.changed(blocks=(*cloud.blocks, prefix)))
    yield Remedy(title=f"Add {prefix} to the blocks of {cloud.name}", operations=(wider,))


def _overlapping(design: Design, tunnel: Tunnel) -> Iterator[Remark]:
    left, right = (cloud_networks_at(design, tunnel.end(side).gateway_id) for side in SIDES)
    for network in left:
        for other in right:
            shared = shared_block(network, other)
            if shared:
                where = Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field="left/peering_agreed")
                yield remark(
                    Code.CLOUD_BLOCKS_OVERLAP, (where,), clouds.BlocksOverlap(named(tunnel), named(network), named(other), shared)
                )
                return


def _elsewhere(design: Design, rule: CloudRule) -> Iterator[Remark]:
    away = [
        member for member in rule.members if any(network.site_id != rule.site_id for network in design.member_networks(member))
    ]
    if not away:
        return
    where = Place(type=ObjectType.CLOUD_RULE, id=rule.id, name=rule.name, field="members")
    why = clouds.MemberElsewhere(
        named(rule), named(design.site_by_id[rule.site_id]), tuple(_name(design, member) for member in away)
    )
    yield remark(Code.CLOUD_MEMBER_ELSEWHERE, (where,), why, partial(_without_members, rule, away))


def _without_members(rule: CloudRule, away: Sequence[Member]) -> Iterator[Remedy]:
    stay = tuple(member for member in rule.members if member not in away)
    title = "Leave them out of the rule" if stay else "Remove the rule"
    operation = put(rule.changed(members=stay)) if stay else Remove(type=ObjectType.CLOUD_RULE, id=rule.id)
    yield Remedy(title=title, operations=(operation,))


def _name(design: Design, member: Member) -> str:
    return str(design.by_type[ObjectType(member.type.value)][member.id].name)
