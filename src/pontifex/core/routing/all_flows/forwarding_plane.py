"""All flows at once: the decisions of all gateways as arrays, and the walks of many pairs of parts side by side.

Every gateway has a row of decisions, one for each part of the address space as a destination, for each class of sources
that its rules and tunnels tell apart. A walk looks its next step up there. What needs more than that (translations, and
classes that rules mark on the way) is left to be traced one by one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np

from pontifex.core.addressing import Address, Selector, Service
from pontifex.core.kinds import FilterDirection, Network
from pontifex.core.routing.all_flows.codes import BY_HAND, DELIVER, LOST, NONE, UNKNOWN, Codes, Numbers
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses, Flags
from pontifex.core.routing.all_flows.filter_flags import FilterFlags
from pontifex.core.routing.all_flows.selector_flags import SelectorFlags
from pontifex.core.routing.all_flows.walk_outcomes import BY_HAND_END, END_PLACE, Pairs, WalkOutcomes
from pontifex.core.routing.tables.first_hop import as_told, own_routes, routed_by_site, usual_router
from pontifex.core.routing.tables.tables import GatewayTable, Origin, TableEntry, Tables
from pontifex.core.routing.trace.decide import Decision, DecisionKind, about, by_rule, outcome
from pontifex.core.routing.trace.flow import Conditions, client_ports, has_ports
from pontifex.core.routing.trace.flow_path import End
from pontifex.core.routing.trace.trace import MOST_HOPS

_ROWS_AT_FIRST: Final = 256


@dataclass(frozen=True, slots=True)
class _DecisionRows:
    """A way of a gateway: the parts that it is for, and the code of where it leads; -1 where it can't be used."""

    entry: TableEntry
    where: slice
    code: int


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
        self.tables, self.parts, self.conditions, self.service, self.dscp = tables, parts, conditions, service, dscp
        self.source_ports = client_ports(service) if source_ports is None else source_ports
        design = tables.design
        self.gateways = design.gateways
        self.codes = Codes(design, conditions.unknown)
        self._network_place = {one.id: place for place, one in enumerate(design.networks)}
        site_place = {site.id: place for place, site in enumerate(design.sites)}
        self._site = np.array([site_place[one.site_id] for one in design.gateways] or [0], dtype=np.int32)
        peering = [not one.left.technology.traits.transitive for one in design.tunnels]
        self._peering = np.array(peering, dtype=np.bool_)
        self._filtering = [place for place, one in enumerate(design.gateways) if tables.of(one).filters]
        self._translating = [place for place, one in enumerate(design.gateways) if tables.of(one).translations]
        self._selectors = SelectorFlags(design.tunnels, parts, service, self.source_ports)
        self._row_of = np.full((len(design.gateways), len(parts)), NONE, dtype=np.int32)
        self._row_of_network = np.full(len(design.networks), NONE, dtype=np.int32)
        self._rows: Numbers = np.empty((_ROWS_AT_FIRST, len(parts)), dtype=np.int32)
        self._pending: list[Callable[[], Numbers] | None] = []  # how to make each row; None once it is made
        self._made = np.zeros(_ROWS_AT_FIRST, dtype=np.bool_)
        self._ways_of: dict[str, list[_DecisionRows]] = {}
        self._before = conditions  # whatever else fails for a while
        self._down_now: frozenset[str] = frozenset()
        self._networks_at: dict[str, list[int]] = defaultdict(list)
        for place, network in enumerate(design.networks):
            self._networks_at[network.site_id].append(place)
        self._classes_matter = any(rule.dscp for rule in design.rules)
        self._touched: dict[int, Flags] = {}
        self._filters = FilterFlags(tables, parts, service)
        self._shown_otherwise = parts.of_prefixes([one.inside for one in design.translations])
        owned = (tables.owner(Address(parts.family, first), None) is not None for first in parts.firsts)
        self._own = np.fromiter(owned, dtype=np.bool_, count=len(parts))

    @contextmanager
    def changed(self, conditions: Conditions, down: frozenset[str], gateways: Collection[str]) -> Iterator[None]:
        """Put the plane under other conditions for a while, in which more is down, of interest to some gateways alone."""
        places = [self.codes.gateway_place[id_] for id_ in gateways]
        hosts = self._network_places(gateways)
        kept = self.conditions, self._row_of[places], self._row_of_network[hosts], len(self._pending)
        self.conditions, self._down_now = conditions, down
        self._row_of[places], self._row_of_network[hosts] = NONE, NONE
        try:
            yield
        finally:
            self._down_now = frozenset()
            self.conditions, self._row_of[places], self._row_of_network[hosts], rows = kept
            del self._pending[rows:]
            self._made[rows:] = False
            for table in (self._row_of, self._row_of_network):
                table[table >= rows] = NONE  # of what was first met meanwhile

    def _network_places(self, gateways: Collection[str]) -> list[int]:
        """Return the places of the networks whose hosts' first step depends on some gateways."""
        sites = {self.tables.design.gateway_by_id[id_].site_id for id_ in gateways}
        found = {place for site_id in sites for place in self._networks_at[site_id]}
        for network_id, routes in self.tables.subnet_routes.items():
            if any(route.gateway_id in gateways for route in routes):
                found.add(self._network_place[network_id])
        return sorted(found)

    # Rows

    def _rows_at_hosts(self, source: Pairs) -> Numbers:
        """Return the rows that hosts of some parts decide by."""
        network = self.parts.network[source]
        for place in np.flatnonzero(np.bincount(network)):
            if self._row_of_network[place] == NONE:
                self._row_of_network[place] = self._reserve(partial(self._host_row, self.parts.networks[place]))
        return self._ready(self._row_of_network[network])

    def _rows_at(self, gateway: Numbers, source: Pairs) -> Numbers:
        """Return the rows that gateways decide by about what comes from some parts."""
        for place in np.flatnonzero(np.bincount(gateway)):
            if self._row_of[place, 0] == NONE:
                self._announce(int(place))
        return self._ready(self._row_of[gateway, source])

    def _ready(self, rows: Numbers) -> Numbers:
        """Make those of some rows that are not made yet."""
        wanted = np.flatnonzero(np.bincount(rows, minlength=1))
        for row in wanted[~self._made[wanted]]:
            make = self._pending[row]
            assert make
            self._rows[row] = make()
            self._made[row], self._pending[row] = True, None
        return rows

    def _reserve(self, make: Callable[[], Numbers]) -> int:
        place = len(self._pending)
        self._pending.append(make)
        if place == len(self._rows):
            self._rows = np.concatenate((self._rows, np.empty_like(self._rows)))
            self._made = np.concatenate((self._made, np.zeros_like(self._made)))
        return place

    def _announce(self, place: int) -> None:
        """Reserve a row for each class of sources that a gateway tells apart."""
        table = self.tables.of(self.gateways[place])
        limits = {clause.sources for clause in table.clauses if clause.sources is not None}
        named = {entry.sources for entry in table.entries if entry.sources}
        flags = [self.parts.of_prefixes(one) for one in limits] + [self.parts.of_selectors(one) for one in named]
        if not flags:
            self._row_of[place] = self._reserve(partial(self._row, table, 0))
            return
        packed = np.packbits(np.stack(flags), axis=0).T
        keys = np.ascontiguousarray(packed).view(np.dtype((np.void, packed.shape[1]))).ravel()
        _, example, class_ = np.unique(keys, return_index=True, return_inverse=True)
        rows = [self._reserve(partial(self._row, table, int(source))) for source in example]
        self._row_of[place] = np.array(rows, dtype=np.int32)[class_]

    def _row(self, table: GatewayTable, source: int) -> Numbers:
        """Return what a gateway does with what comes from a part, for each part as its destination."""
        gateway = table.gateway
        row: Numbers = np.full(len(self.parts), LOST, dtype=np.int32)
        if gateway.id in self.conditions.gateways or not gateway.forwarding:
            return row
        here = Address(self.parts.family, self.parts.firsts[source])
        ways = self._ways(table)
        policies = [one for one in ways if one.entry.origin is Origin.POLICY]
        routes = [one for one in ways if one.entry.origin is not Origin.POLICY]
        self._paint(row, table, here, routes)
        for clause in reversed(table.clauses):
            if clause.sources is not None and not any(one.holds(here) for one in clause.sources):
                continue
            if clause.classes is not None and self.dscp not in clause.classes:
                continue
            decided = by_rule(self.tables, gateway, clause, self.conditions)
            if clause.marks is not None and self._classes_matter:
                code = BY_HAND
            elif isinstance(decided, Decision):
                code = self.codes.of(decided)
            else:
                continue
            for first, last in self._boxes(clause.destinations):
                row[self.parts.within(first, last)] = code
        self._paint(row, table, here, [one for one in routes if table.outranks(one.entry)])
        self._paint(row, table, here, policies)
        return row

    def _boxes(self, destinations: Iterable[Selector] | None) -> Iterable[tuple[int, int]]:
        family = self.parts.family
        if destinations is None:
            return [(0, family.last)]
        named = (one for one in destinations if one.family is family and Service.of(one).contains(self.service))
        return [(one.first, one.last) for one in named]

    def _ways(self, table: GatewayTable) -> list[_DecisionRows]:
        """Return the ways of a gateway that this traffic may take, before anything more fails; what is asked first comes last."""
        found = self._ways_of.get(table.gateway.id)
        if found is None:
            family = self.parts.family
            found = self._ways_of[table.gateway.id] = []
            for entry in reversed(table.entries):
                if entry.to.family is family and entry.to.is_about(self.service.protocols, self.service.ports):
                    where = self.parts.within(entry.to.first, entry.to.last)
                    if where.start < where.stop:
                        found.append(_DecisionRows(entry, where, self._entry_code(table, entry, self._before)))
        return found

    def _entry_code(self, table: GatewayTable, entry: TableEntry, conditions: Conditions) -> int:
        decision = outcome(self.tables, table.gateway, entry, conditions)
        return self.codes.of(decision) if decision else NONE

    def _paint(self, row: Numbers, table: GatewayTable, here: Address, ways: Iterable[_DecisionRows]) -> None:
        """Lay the ways of a gateway over each other, what is asked first on top."""
        source = Selector(here.family, here.value, here.value, self.service.protocols, self.source_ports)
        down = self._down_now
        for one in ways:
            entry, code = one.entry, one.code
            if down and ((entry.tunnel and entry.tunnel.id in down) or (entry.uplink and entry.uplink.id in down)):
                code = self._entry_code(table, entry, self.conditions)
            if code == NONE or (entry.sources and not any(about(named, source) for named in entry.sources)):
                continue
            row[one.where] = code

    def _host_row(self, network: Network) -> Numbers:
        """Return where hosts of a network send what goes to each part."""
        row: Numbers = np.full(len(self.parts), LOST, dtype=np.int32)
        if network.own_table:
            for route, decision in reversed(own_routes(self.tables, network, self.conditions)):
                row[self.parts.within(route.prefix.network, route.prefix.last)] = self._code_from_host(decision)
        else:
            row[:] = self._code_from_host(usual_router(self.tables, network, self.conditions))
            for told in sorted(network.dhcp_routes, key=lambda one: one.prefix.length):
                if told.prefix.family is self.parts.family:
                    decision = as_told(self.tables, network, told.via)
                    row[self.parts.within(told.prefix.network, told.prefix.last)] = self._code_from_host(decision)
        for one in (network, *routed_by_site(self.tables, network)):
            if one.prefix.family is self.parts.family:
                row[self.parts.within(one.prefix.network, one.prefix.last)] = DELIVER
        for one in self.tables.within.get(network.id, ()):
            row[self.parts.within(one.prefix.network, one.prefix.last)] = LOST  # looked for on the host's own wire
        return row

    def _code_from_host(self, decision: Decision) -> int:
        gateway = decision.gateway
        down = gateway and (gateway.id in self.conditions.gateways or not gateway.forwarding)
        return LOST if down and decision.kind is not DecisionKind.ROUTER else self.codes.of(decision)

    # Walks

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
        size = len(self.parts)
        source = pairs // size
        destination = pairs - source * size
        gateway = np.full(len(pairs), NONE, dtype=np.int32)  # none yet: a host decides first
        came = np.full(len(pairs), NONE, dtype=np.int32)  # tunnel that it has come by
        # somebody may know it by another address, or a gateway answers for itself
        by_hand = self._shown_otherwise[destination] | self._own[destination] | self._own[source]
        walked.ends[pairs[by_hand]] = BY_HAND_END
        if by_hand.any():
            pairs, source, destination, gateway, came = (one[~by_hand] for one in (pairs, source, destination, gateway, came))
        for step in range(MOST_HOPS + 1):
            if not len(pairs):
                return
            at_host = step == 0
            rows = self._rows_at_hosts(source) if at_host else self._rows_at(gateway, source)
            chosen = self._rows.ravel().take(rows * size + destination)
            code = self._checked(chosen, gateway, came, source, destination, pairs, forward)
            changed = code != chosen
            walked.refused[pairs[changed]] = chosen[changed]
            walked.layer(walked.gateways, step)[pairs] = self.codes.acting[code] if at_host else gateway
            self._note(walked, pairs, code)
            site = self.parts.site[source] if at_host else self._site[gateway]
            self._finish(walked, pairs, code, site == self.parts.site[destination])
            on = np.flatnonzero(self.codes.next[code] >= 0)
            code = code[on]
            gateway, came = self.codes.next[code], self.codes.tunnel[code]
            pairs, source, destination = pairs[on], source[on], destination[on]
        walked.ends[pairs] = END_PLACE[End.LOST]  # round in circles

    def _checked(
        self,
        code: Numbers,
        gateway: Numbers,
        came: Numbers,
        source: Pairs,
        destination: Pairs,
        pairs: Pairs,
        forward: WalkOutcomes | None,
    ) -> Numbers:
        """Return decisions as they are carried out: what is left by hand, and what selectors, peerings and filters refuse."""
        code = code.copy()
        into = np.flatnonzero(self.codes.tunnel[code] >= 0)
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
                self._filter(place, code, acting == place, came, source, destination, pairs, forward)
        for place in self._translating:
            touched = self._touches(place)
            here = (gateway == place) | (self.codes.next[code] == place) | ((gateway < 0) & (self.codes.acting[code] == place))
            code[here & (touched[source] | touched[destination])] = BY_HAND
        return code

    def _touches(self, place: int) -> Flags:
        """Whether a translation of a gateway is about each class."""
        if place not in self._touched:
            translations = self.tables.of(self.gateways[place]).translations
            self._touched[place] = self.parts.of_prefixes([p for one in translations for p in (one.inside, one.outside)])
        return self._touched[place]

    def _filter(
        self,
        place: int,
        code: Numbers,
        here: Flags,
        came: Numbers,
        source: Pairs,
        destination: Pairs,
        pairs: Pairs,
        forward: WalkOutcomes | None,
    ) -> None:
        """Drop what the filters of a gateway don't let through."""
        goes_out = code >= self.codes.first_tunnel
        ends_here = (code == DELIVER) | (code == UNKNOWN)
        looked_at = here & (goes_out | (ends_here & (came >= 0)))
        if not looked_at.any():
            return
        looked_at &= ~self._known_at(place, looked_at, pairs, forward)
        ways = {
            FilterDirection.IN: looked_at & (came >= 0) & ~goes_out,
            FilterDirection.OUT: looked_at & (came < 0),
            FilterDirection.THROUGH: looked_at & (came >= 0) & goes_out,
        }
        refused = self._filters.refused(self.gateways[place], ways, source, destination, answers=forward is not None)
        code[refused] = LOST

    def _known_at(self, place: int, looked_at: Flags, pairs: Pairs, forward: WalkOutcomes | None) -> Flags:
        """The answers that are part of a connection that a gateway with state has seen begin."""
        known = np.zeros(len(pairs), dtype=np.bool_)
        if forward is not None and self.gateways[place].keeps_state:
            at = np.flatnonzero(looked_at)
            begun = self.turned(pairs[at])
            for layer in forward.gateways:
                known[at] |= layer[begun] == place
        return known

    def _note(self, walked: WalkOutcomes, pairs: Pairs, code: Numbers) -> None:
        """Note the tunnels and uplinks that walks go into."""
        tunnels = self.codes.tunnel[code]
        by_tunnel = np.flatnonzero(tunnels >= 0)
        using, tunnels = pairs[by_tunnel], tunnels[by_tunnel]
        if not len(using) and not (code >= self.codes.first_uplink).any():
            return
        counts = walked.counts[using]
        for count in range(int(counts.max(initial=0)) + 1):
            of_count = counts == count
            walked.layer(walked.tunnels, count)[using[of_count]] = tunnels[of_count]
        walked.counts[using] += 1
        out = code >= self.codes.first_uplink
        walked.uplinks[pairs[out]] = code[out] - self.codes.first_uplink

    def _finish(self, walked: WalkOutcomes, pairs: Pairs, code: Numbers, at_its_site: Flags) -> None:
        ends = self.codes.end[code]
        ends[(code == DELIVER) & ~at_its_site] = END_PLACE[End.LOST]
        walked.ends[pairs] = ends

    @property
    def answers_alike(self) -> bool:
        """Whether an answer goes as its counterpart would begin: no filter looks at it, and nothing asks for a port."""
        return not self._filtering and not (has_ports(self.service) and self.tables.ports_matter)
