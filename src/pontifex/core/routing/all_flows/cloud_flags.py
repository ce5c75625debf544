"""What the rules of clouds let through, for many flows between parts at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from pontifex.core.addressing import Service
from pontifex.core.kinds import PacketDirection, RuleLevel
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses, Flags
from pontifex.core.routing.all_flows.walk_outcomes import Pairs
from pontifex.core.routing.tables.cloud_rules import PlacedCloudRule
from pontifex.core.routing.tables.tables import Tables


@dataclass(frozen=True, slots=True)
class _RuleFlags:
    """One rule as flags of parts."""

    members: tuple[tuple[Flags, Flags], ...]  # of each: its own addresses at the site, and those within its border
    far: Flags  # the addresses that it lets come or go


class CloudFlags:
    """The rules of all clouds as flags of parts, about traffic to one service."""

    def __init__(self, tables: Tables, parts: EquivalenceClasses, service: Service) -> None:
        self._tables, self._parts, self._service = tables, parts, service
        self._site_place = {site.id: place for place, site in enumerate(tables.design.sites)}
        self._flags = {key: [self._of(rule) for rule in some] for key, some in tables.cloud_rules.by_place.items()}

    @property
    def any(self) -> bool:
        """Whether there is a rule at all."""
        return bool(self._flags)

    def refused(self, way: PacketDirection, near: Pairs, far: Pairs, answers: bool) -> Flags:
        """Whether each packet is refused that begins or ends at a part; a group lets `answers` pass, since it keeps state."""
        found = np.zeros(len(near), dtype=np.bool_)
        for (_, level, direction), some in self._flags.items():
            if direction is not way or (answers and level is RuleLevel.GROUP):
                continue
            about, passes = (np.zeros(len(near), dtype=np.bool_) for _ in range(2))
            for flags in some:
                looks_at = np.zeros(len(near), dtype=np.bool_)
                for own, within in flags.members:
                    looks_at |= own[near] & ~within[far]
                about |= looks_at
                passes |= looks_at & flags.far[far]
            found |= about & ~passes
        return found

    def _of(self, placed: PlacedCloudRule) -> _RuleFlags:
        here = self._parts.site == self._site_place[placed.rule.site_id]
        nothing = np.zeros(len(self._parts), dtype=np.bool_)
        members = []
        for prefix in placed.members:
            held = self._parts.of_prefixes([prefix])
            members.append((held & here, held if placed.rule.level is RuleLevel.SUBNET else nothing))
        far = self._parts.of_prefixes(placed.rule.far) if placed.rule.far else ~nothing
        return _RuleFlags(tuple(members), far if placed.lets_service(self._service) else nothing)
