"""What clouds let into and out of their subnets and hosts, ready to be asked."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.kinds import CloudRule, PacketDirection, RuleLevel
from pontifex.core.model import Design


@dataclass(frozen=True, slots=True)
class PlacedCloudRule:
    """A rule with the addresses that it holds for."""

    rule: CloudRule
    members: tuple[Prefix, ...]

    def is_about(self, near: Address, far: Address) -> bool:
        """Whether it looks at packets between an address of its own and another: a subnet's only at what crosses its border."""
        at_border = self.rule.level is RuleLevel.SUBNET
        return any(member.holds(near) and not (at_border and member.holds(far)) for member in self.members)

    def lets(self, far: Address, service: Service) -> bool:
        """Whether it lets packets of a service pass, that come from or go to an address."""
        named = not self.rule.far or any(prefix.holds(far) for prefix in self.rule.far)
        return named and self.lets_service(service)

    def lets_service(self, service: Service) -> bool:
        """Whether it lets packets of a service pass, wherever they come from or go to."""
        return not self.rule.services or any(allowed.contains(service) for allowed in self.rule.services)


class CloudRules:
    """The rules of all clouds of a design."""

    def __init__(self, design: Design) -> None:
        self.placed = tuple(
            PlacedCloudRule(rule, tuple(prefix for member in rule.members for prefix in design.member_prefixes(member)))
            for rule in design.cloud_rules
        )

    @cached_property
    def by_place(self) -> dict[tuple[str, RuleLevel, PacketDirection], list[PlacedCloudRule]]:
        """The rules by site, level and direction: each of these lets a packet pass for itself."""
        found: dict[tuple[str, RuleLevel, PacketDirection], list[PlacedCloudRule]] = defaultdict(list)
        for rule in self.placed:
            found[rule.rule.site_id, rule.rule.level, rule.rule.direction].append(rule)
        return dict(found)

    def refusing(
        self, site_id: str, way: PacketDirection, near: Address, far: Address, service: Service, answers: bool
    ) -> RuleLevel | None:
        """Return the level at which a packet is refused; None where it passes.

        A group keeps state, so that `answers` pass it: their connection has passed it already.
        """
        for level in RuleLevel:
            if answers and level is RuleLevel.GROUP:
                continue
            about = [rule for rule in self.by_place.get((site_id, level, way), ()) if rule.is_about(near, far)]
            if about and not any(rule.lets(far, service) for rule in about):
                return level
        return None
