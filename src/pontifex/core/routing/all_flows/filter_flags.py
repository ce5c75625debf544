"""What the filters of gateways let through, for many flows between parts at once."""

from __future__ import annotations

import numpy as np

from pontifex.core.addressing import Address, Service
from pontifex.core.kinds import Filter, FilterDirection, Gateway
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses, Flags
from pontifex.core.routing.all_flows.walk_outcomes import Pairs
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Flow


class FilterFlags:
    """The filters of all gateways as flags of parts, about traffic to one service."""

    def __init__(self, tables: Tables, parts: EquivalenceClasses, service: Service) -> None:
        self._tables, self._parts, self._service = tables, parts, service
        self._flags: dict[str, tuple[Flags, Flags]] = {}
        nowhere = Address(parts.family, 0)
        self._answered_newly = Flow(nowhere, nowhere, service).answered_newly

    def refused(
        self, gateway: Gateway, ways: dict[FilterDirection, Flags], source: Pairs, destination: Pairs, answers: bool
    ) -> Flags:
        """The flows that the filters of a gateway drop, of those that go each way; it knows none of them yet."""
        found = np.zeros(len(source), dtype=np.bool_)
        cut = answers and gateway.keeps_state and not self._answered_newly
        for way, flags in ways.items():
            rules = [candidate for candidate in self._tables.of(gateway).filters if candidate.direction is way]
            if not rules:
                continue
            at = np.flatnonzero(flags)
            passes = np.zeros(len(at), dtype=np.bool_)
            for rule in () if cut else rules:
                from_, to = self._named(rule)
                passes |= from_[source[at]] & to[destination[at]]
            found[at[~passes]] = True
        return found

    def _named(self, filter_: Filter) -> tuple[Flags, Flags]:
        """Whether a filter names each class of addresses as a source, and as a destination of this traffic."""
        if filter_.id not in self._flags:
            every = np.ones(len(self._parts), dtype=np.bool_)
            boxes = [box for box in filter_.destinations if Service.of(box).contains(self._service)]
            from_ = self._parts.of_prefixes(filter_.sources) if filter_.sources else every
            self._flags[filter_.id] = from_, self._parts.of_selectors(boxes) if filter_.destinations else every
        return self._flags[filter_.id]
