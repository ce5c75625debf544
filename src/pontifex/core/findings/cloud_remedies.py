"""Cloud rules that would let through what is wanted, and what comes back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from pontifex.core.addressing import Prefix, Service
from pontifex.core.kinds import CloudRule, Member, PacketDirection, RuleLevel
from pontifex.core.model import Design, Operation, put
from pontifex.core.model.ids import free_name, fresh_id
from pontifex.core.routing.trace.flow import answer_service
from pontifex.core.routing.trace.flow_path import End
from pontifex.core.routing.wanted.blocks import WantedFlow
from pontifex.core.routing.wanted.intents import UnmetWants


@dataclass(frozen=True, slots=True)
class _Refusal:
    """Where a cloud doesn't let something through."""

    network_id: str
    direction: PacketDirection
    far: Prefix
    service: Service


def let_by_cloud(design: Design, some: Sequence[UnmetWants]) -> Iterator[tuple[Operation, ...]]:
    """Yield the rules that may let it through: of subnets, of groups, and of both. Which of them it needs is tried."""
    refusals = list(dict.fromkeys(_refusal(wants, want) for wants in some for want in wants.flows()))
    by_level = [tuple(_rules(design, level, refusals, some[0].block.intent.name)) for level in RuleLevel]
    for rules in (*by_level, tuple(rule for of_level in by_level for rule in of_level)):
        if rules:
            yield tuple(put(rule) for rule in rules)


def _refusal(unmet: UnmetWants, want: WantedFlow) -> _Refusal:
    """Return where it ends: the way there at its begin or end, or the answer at one of these."""
    answers = unmet.trace.forward.end is End.ARRIVES and unmet.trace.back is not None
    way = unmet.trace.back if answers and unmet.trace.back else unmet.trace.forward
    at_source = way.last_network_id == want.source.id
    leaving = at_source is not answers  # out of where this way begins
    return _Refusal(
        network_id=want.source.id if at_source else want.destination.id,
        direction=PacketDirection.OUT if leaving else PacketDirection.IN,
        far=want.end if at_source else want.begin,
        service=answer_service(want.service) if answers else want.service,
    )


def _rules(design: Design, level: RuleLevel, refusals: list[_Refusal], name: str) -> Iterator[CloudRule]:
    """Yield one rule for each subnet, direction and service, with all that it lets come or go.

    It holds for those that other rules hold for: whoever has none is not looked at, and shall stay so.
    """
    ids = {rule.id for rule in design.cloud_rules}
    names = {(rule.site_id, rule.name) for rule in design.cloud_rules}
    for place in dict.fromkeys((refusal.network_id, refusal.direction, refusal.service) for refusal in refusals):
        network_id, direction, service = place
        members = _looked_at(design, network_id, level, direction)
        if not members:
            continue
        far = dict.fromkeys(
            refusal.far for refusal in refusals if (refusal.network_id, refusal.direction, refusal.service) == place
        )
        site_id = design.network_by_id[network_id].site_id
        new_id = fresh_id(f"{network_id[:40]} {level.value} {direction.value}", ids)
        here = {text for site, text in names if site == site_id}
        called = free_name(f"{name} {direction.value} at the {level.value}", here)
        ids.add(new_id)
        names.add((site_id, called))
        yield CloudRule(
            id=new_id,
            name=called,
            site_id=site_id,
            level=level,
            direction=direction,
            members=members,
            far=tuple(far),
            services=() if service.is_any else (service,),
        )


def _looked_at(design: Design, network_id: str, level: RuleLevel, direction: PacketDirection) -> tuple[Member, ...]:
    """Return the members of rules of a level and direction that stand in a network, or hold it."""
    network = design.network_by_id[network_id]
    found: dict[Member, None] = {}
    for rule in design.cloud_rules:
        if (rule.site_id, rule.level, rule.direction) == (network.site_id, level, direction):
            found |= {
                member: None
                for member in rule.members
                if any(network.prefix.overlaps(held) for held in design.member_prefixes(member))
            }
    return tuple(found)
