"""All flows at once: the decisions of all gateways as arrays, and the walks of many pairs of parts side by side.

Every gateway has a row of decisions, one for each part of the address space as a destination, for each class of sources
that its rules and tunnels tell apart (`decision_rows`). A walk looks its next step up there. What needs more than that
(translations, and classes that rules mark on the way) is left to be traced one by one.
"""

from __future__ import annotations

from collections.abc import Collection
from contextlib import AbstractContextManager
from dataclasses import dataclass

import numpy as np

from pontifex.core.addressing import Address, Service
from pontifex.core.kinds import FilterDirection, PacketDirection
from pontifex.core.routing.all_flows.cloud_flags import CloudFlags
from pontifex.core.routing.all_flows.codes import BY_HAND, BY_HAND_END, DELIVER, END_PLACE, LOST, NONE, UNKNOWN, Codes, Numbers
from pontifex.core.routing.all_flows.decision_rows import DecisionRows, Traffic
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses, Flags
from pontifex.core.routing.all_flows.filter_flags import FilterFlags
from pontifex.core.routing.all_flows.selector_flags import SelectorFlags
from pontifex.core.routing.all_flows.walk_outcomes import Pairs, WalkOutcomes
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.flow import Conditions, answer_service, client_ports, has_ports
from pontifex.core.routing.trace.flow_path import End
from pontifex.core.routing.trace.trace import MOST_HOPS


@dataclass(frozen=True, slots=True)
class UnderWay:
    """Packets that are still on their way, one for each pair, and where they are."""

    pairs: Pairs
    source: Pairs
    destination: Pairs
    gateway: Numbers  # that they have come to; NONE while a host decides
    came: Numbers  # tunnel that they have come by

    def of(self, places: Pairs) -> UnderWay:
        """Return those at some places."""
        columns = (self.pairs, self.source, self.destination, self.gateway, self.came)
        return UnderWay(*(column[places] for column in columns))

    def joined(self, other: UnderWay) -> UnderWay:
        """Return these and others."""
        columns = (self.pairs, self.source, self.destination, self.gateway, self.came)
        others = (other.pairs, other.source, other.destination, other.gateway, other.came)
        return UnderWay(*(np.concatenate(both) for both in zip(columns, others, strict=True)))


class ForwardingPlane:
    """The decisions of all gateways under some conditions, about traffic of one kind."""

    def __init__(
        self,
        tables: Tables,
        parts: EquivalenceClasses,
        conditions: Conditions,
        service: Service,
        dscp: int = 0,
        source_ports: tuple[int, int] | None = None,
    ) -> None:
        """Without `source_ports`, the traffic is that of whoever asks for the service."""
        self.tables, self.parts, self.service, self.dscp = tables, parts, service, dscp
        traffic = Traffic(service, client_ports(service) if source_ports is None else source_ports, dscp)
        design = tables.design
        self.gateways = design.gateways
        self.codes = Codes(design, conditions.unknown)
        self._rows = DecisionRows(tables, parts, conditions, traffic, self.codes)
        site_place = {site.id: place for place, site in enumerate(design.sites)}
        self._site = np.array([site_place[gateway.site_id] for gateway in design.gateways] or [0], dtype=np.int64)
        peering = [not tunnel.left.technology.traits.transitive for tunnel in design.tunnels]
        self._peering = np.array(peering, dtype=np.bool_)
        self._filtering = [place for place, gateway in enumerate(design.gateways) if tables.of(gateway).filters]
        self._translating = [place for place, gateway in enumerate(design.gateways) if tables.of(gateway).translations]
        self._selectors = SelectorFlags(design.tunnels, parts, service, traffic.source_ports)
        self._touched: dict[int, Flags] = {}
        self._filters = FilterFlags(tables, parts, service)
        self._cloud = CloudFlags(tables, parts, service)
        self._shown_otherwise = parts.of_prefixes([translation.inside for translation in design.translations])
        owned = (tables.owner(Address(parts.family, first), None) is not None for first in parts.firsts)
        self._own = np.fromiter(owned, dtype=np.bool_, count=len(parts))

    def of_answers(self) -> ForwardingPlane:
        """Return the decisions about what answers this traffic."""
        return ForwardingPlane(
            self.tables, self.parts, self.conditions, answer_service(self.service), self.dscp, self.service.ports
        )

    @property
    def conditions(self) -> Conditions:
        """The conditions that it is under."""
        return self._rows.conditions

    def changed(self, conditions: Conditions, down: frozenset[str], gateways: Collection[str]) -> AbstractContextManager[None]:
        """Put it under other conditions for a while, in which more is down, of interest to some gateways alone."""
        return self._rows.changed(conditions, down, gateways)

    def all_pairs(self) -> Pairs:
        """Return every ordered pair of two different parts."""
        size = len(self.parts)
        pairs = np.arange(size * size, dtype=np.int64)
        return np.delete(pairs, np.arange(size, dtype=np.int64) * (size + 1))

    def turned(self, pairs: Pairs) -> Pairs:
        """Return the pairs the other way round."""
        size = len(self.parts)
        return pairs % size * size + pairs // size

    def walk(self, walked: WalkOutcomes, pairs: Pairs, forward: WalkOutcomes | None = None) -> None:
        """Follow pairs to where they end. With `forward`, they are the answers to what was walked there."""
        under_way = self._begun(pairs)
        # somebody may know it by another address, or a gateway answers for itself
        own = self._own[under_way.source] | self._own[under_way.destination]
        by_hand = self._shown_otherwise[under_way.destination] | own
        walked.ends[pairs[by_hand]] = BY_HAND_END
        under_way = under_way.of(np.flatnonzero(~by_hand))
        for step in range(MOST_HOPS + 1):
            if not len(under_way.pairs):
                return
            under_way = self._step(walked, under_way, step, forward)
        walked.ends[under_way.pairs] = END_PLACE[End.LOST]  # round in circles

    def walk_on(self, walked: WalkOutcomes, pairs: Pairs, steps: Numbers) -> None:
        """Follow pairs to where they end that have gone a number of steps already, each to a gateway if it is not 0."""
        order = np.argsort(steps, kind="stable")
        counts = np.searchsorted(steps[order], np.arange(MOST_HOPS + 2))
        under_way = self._begun(pairs[:0])
        for step in range(MOST_HOPS + 1):
            if counts[step] < counts[step + 1]:
                joining = self._begun(pairs[order[counts[step] : counts[step + 1]]])
                if step:
                    joining = self._onwards(joining, walked.code_at(step - 1, joining.pairs))
                under_way = under_way.joined(joining)
            if len(under_way.pairs):
                under_way = self._step(walked, under_way, step, None)
        walked.ends[under_way.pairs] = END_PLACE[End.LOST]

    def _begun(self, pairs: Pairs) -> UnderWay:
        """Return pairs where they begin: at a host."""
        source = pairs // len(self.parts)
        nowhere = np.full(len(pairs), NONE, dtype=np.int64)
        return UnderWay(pairs, source, pairs - source * len(self.parts), nowhere, nowhere)

    def _step(self, walked: WalkOutcomes, under_way: UnderWay, step: int, forward: WalkOutcomes | None) -> UnderWay:
        """Decide about each packet where it is, note what becomes of it, and return those that go on."""
        gateway, source = under_way.gateway, under_way.source
        rows = self._rows.at_hosts(source) if step == 0 else self._rows.at_gateways(gateway, source)
        chosen = self._rows.decided(rows, under_way.destination)
        code = self._checked(chosen, under_way, forward)
        self._keep_in_clouds(walked, code, under_way, forward)
        changed = (code != chosen).nonzero()[0]
        walked.refused[under_way.pairs[changed]] = chosen[changed]
        walked.note_step(step, under_way.pairs, code)
        goes_on = self.codes.next[code] >= 0
        over, on = (some.nonzero()[0] for some in (~goes_on, goes_on))
        self._finish(walked, under_way.of(over), code[over])
        return self._onwards(under_way.of(on), code[on])

    def _onwards(self, under_way: UnderWay, code: Numbers) -> UnderWay:
        """Return packets where decisions about them lead."""
        next_, tunnel = self.codes.next[code], self.codes.tunnel[code]
        return UnderWay(under_way.pairs, under_way.source, under_way.destination, next_, tunnel)

    def _keep_in_clouds(self, walked: WalkOutcomes, code: Numbers, under_way: UnderWay, forward: WalkOutcomes | None) -> None:
        """Drop what the rules of clouds don't let out of where it begins, or into where it is delivered."""
        if not self._cloud.any:
            return
        source, destination = under_way.source, under_way.destination
        leaving = (PacketDirection.OUT, source, destination, (under_way.gateway < 0) & (code != BY_HAND))
        arriving = (PacketDirection.IN, destination, source, code == DELIVER)
        for way, near, far, looked_at in (leaving, arriving):
            at = np.flatnonzero(looked_at & (code != LOST))
            kept = at[self._cloud.refused(way, near[at], far[at], answers=forward is not None)]
            code[kept] = LOST
            walked.note_network(under_way.pairs[kept], self.parts.network[near[kept]])

    def _checked(self, code: Numbers, under_way: UnderWay, forward: WalkOutcomes | None) -> Numbers:
        """Return decisions as they are carried out: what is left by hand, and what selectors, peerings and filters refuse."""
        code = code.copy()
        gateway, came, source, destination = under_way.gateway, under_way.came, under_way.source, under_way.destination
        into = (self.codes.tunnel[code] >= 0).nonzero()[0]
        side = code[into] - self.codes.first_tunnel
        lets = self._selectors.lets(side, source[into], destination[into])
        if self._peering.any():
            lets &= ~(self._peering[side // 2] & (came[into] >= 0))
            code[(code >= self.codes.first_tunnel) & (came >= 0) & self._peering[came]] = LOST
        code[into[~lets]] = LOST
        if not self._filtering and not self._translating:
            return code
        acting = np.where(gateway < 0, self.codes.acting[code], gateway)
        met = np.bincount(acting[acting >= 0], minlength=len(self.gateways))
        for place in self._filtering:
            if met[place]:
                self._filter(place, code, acting == place, under_way, forward)
        for place in self._translating:
            touched = self._touches(place)
            here = (gateway == place) | (self.codes.next[code] == place) | ((gateway < 0) & (self.codes.acting[code] == place))
            code[here & (touched[source] | touched[destination])] = BY_HAND
        return code

    def _touches(self, place: int) -> Flags:
        """Whether a translation of a gateway is about each class."""
        if place not in self._touched:
            translations = self.tables.of(self.gateways[place]).translations
            self._touched[place] = self.parts.of_prefixes(
                [p for translation in translations for p in (translation.inside, translation.outside)]
            )
        return self._touched[place]

    def _filter(self, place: int, code: Numbers, here: Flags, under_way: UnderWay, forward: WalkOutcomes | None) -> None:
        """Drop what the filters of a gateway don't let through."""
        came = under_way.came
        goes_out = code >= self.codes.first_tunnel
        ends_here = (code == DELIVER) | (code == UNKNOWN)
        looked_at = here & (goes_out | (ends_here & (came >= 0)))
        if not looked_at.any():
            return
        looked_at &= ~self._known_at(place, looked_at, under_way.pairs, forward)
        ways = {
            FilterDirection.IN: looked_at & (came >= 0) & ~goes_out,
            FilterDirection.OUT: looked_at & (came < 0),
            FilterDirection.THROUGH: looked_at & (came >= 0) & goes_out,
        }
        refused = self._filters.refused(
            self.gateways[place], ways, under_way.source, under_way.destination, answers=forward is not None
        )
        code[refused] = LOST

    def _known_at(self, place: int, looked_at: Flags, pairs: Pairs, forward: WalkOutcomes | None) -> Flags:
        """The answers that are part of a connection that a gateway with state has seen begin."""
        known = np.zeros(len(pairs), dtype=np.bool_)
        if forward is not None and self.gateways[place].keeps_state:
            at = np.flatnonzero(looked_at)
            begun = self.turned(pairs[at])
            for step in range(len(forward.steps)):
                known[at] |= forward.gateway_at(step, begun) == place
        return known

    def _finish(self, walked: WalkOutcomes, ended: UnderWay, code: Numbers) -> None:
        """Note how walks end."""
        site = np.where(ended.gateway < 0, self.parts.site[ended.source], self._site[ended.gateway])
        ends = self.codes.end[code]
        ends[(code == DELIVER) & (site != self.parts.site[ended.destination])] = END_PLACE[End.LOST]
        walked.ends[ended.pairs] = ends

    @property
    def answers_alike(self) -> bool:
        """Whether an answer goes as its counterpart would begin: no filter looks at it, and nothing asks for a port."""
        return not self._filtering and not self._cloud.any and not (has_ports(self.service) and self.tables.ports_matter)
