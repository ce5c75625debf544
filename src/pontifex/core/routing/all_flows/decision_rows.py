"""What every gateway and host does with what goes to each part of the address space: rows of decisions, made when needed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np

from pontifex.core.addressing import Address, Selector, Service
from pontifex.core.kinds import Network
from pontifex.core.routing.all_flows.codes import BY_HAND, DELIVER, LOST, NONE, Codes, Numbers, StoredNumbers
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses
from pontifex.core.routing.all_flows.walk_outcomes import Pairs
from pontifex.core.routing.tables.first_hop import as_told, own_routes, routed_by_site, usual_router
from pontifex.core.routing.tables.tables import GatewayTable, Origin, TableEntry, Tables
from pontifex.core.routing.trace.decide import Decision, DecisionKind, about, by_rule, outcome
from pontifex.core.routing.trace.flow import Conditions

_ROWS_AT_FIRST: Final = 256


@dataclass(frozen=True, slots=True)
class Traffic:
    """Traffic of one kind: what is asked for, from which ports, in which class."""

    service: Service
    source_ports: tuple[int, int]
    dscp: int


@dataclass(frozen=True, slots=True)
class _Ways:
    """The ways of a gateway, what is asked first last: those of policies, the others, and of these what no rule comes before."""

    policies: tuple[_Way, ...]
    routes: tuple[_Way, ...]
    outranking: tuple[_Way, ...]


@dataclass(frozen=True, slots=True)
class _Way:
    """A way of a gateway: the parts that it is for, and the code of where it leads; -1 where it can't be used."""

    entry: TableEntry
    where: slice
    code: int


class DecisionRows:
    """The decisions of gateways and hosts under some conditions, about traffic of one kind, by row and destination."""

    def __init__(self, tables: Tables, parts: EquivalenceClasses, conditions: Conditions, traffic: Traffic, codes: Codes) -> None:
        self.tables, self.parts, self.conditions, self.traffic, self.codes = tables, parts, conditions, traffic, codes
        design = tables.design
        self._gateways = design.gateways
        self._network_place = {network.id: place for place, network in enumerate(design.networks)}
        self._row_of = np.full((len(design.gateways), len(parts)), NONE, dtype=np.int32)
        self._row_of_network = np.full(len(design.networks), NONE, dtype=np.int32)
        self._rows: StoredNumbers = np.empty((_ROWS_AT_FIRST, len(parts)), dtype=np.int32)
        self._pending: list[Callable[[], StoredNumbers] | None] = []  # how to make each row; None once it is made
        self._made = np.zeros(_ROWS_AT_FIRST, dtype=np.bool_)
        self._ways_of: dict[str, _Ways] = {}
        self._before = conditions  # whatever else fails for a while
        self._down_now: frozenset[str] = frozenset()
        self._networks_at: dict[str, list[int]] = defaultdict(list)
        for place, network in enumerate(design.networks):
            self._networks_at[network.site_id].append(place)
        self._classes_matter = any(rule.dscp for rule in design.rules)

    def decided(self, rows: Numbers, destination: Pairs) -> Numbers:
        """Return the codes of the decisions in some rows, each about one destination."""
        decided: Numbers = self._rows.ravel()[rows * len(self.parts) + destination].astype(np.int64)
        return decided

    @contextmanager
    def changed(self, conditions: Conditions, down: frozenset[str], gateways: Collection[str]) -> Iterator[None]:
        """Put them under other conditions for a while, in which more is down, of interest to some gateways alone."""
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

    def at_hosts(self, source: Pairs) -> Numbers:
        """Return the rows that hosts of some parts decide by."""
        network = self.parts.network[source]
        for place in np.flatnonzero(np.bincount(network)):
            if self._row_of_network[place] == NONE:
                self._row_of_network[place] = self._reserve(partial(self._host_row, self.parts.networks[place]))
        return self._ready(self._row_of_network[network].astype(np.int64))

    def at_gateways(self, gateway: Numbers, source: Pairs) -> Numbers:
        """Return the rows that gateways decide by about what comes from some parts."""
        met = np.bincount(gateway).nonzero()[0]
        for place in met[self._row_of[met, 0] == NONE].tolist():
            self._announce(place)
        return self._ready(self._row_of.ravel()[gateway * len(self.parts) + source].astype(np.int64))

    def _ready(self, rows: Numbers) -> Numbers:
        """Make those of some rows that are not made yet."""
        wanted = np.bincount(rows, minlength=1).nonzero()[0]
        for row in wanted[~self._made[wanted]]:
            make = self._pending[row]
            assert make
            self._rows[row] = make()
            self._made[row], self._pending[row] = True, None
        return rows

    def _reserve(self, make: Callable[[], StoredNumbers]) -> int:
        place = len(self._pending)
        self._pending.append(make)
        if place == len(self._rows):
            self._rows = np.concatenate((self._rows, np.empty_like(self._rows)))
            self._made = np.concatenate((self._made, np.zeros_like(self._made)))
        return place

    def _announce(self, place: int) -> None:
        """Reserve a row for each class of sources that a gateway tells apart."""
        table = self.tables.of(self._gateways[place])
        limits = {clause.sources for clause in table.clauses if clause.sources is not None}
        named = {entry.sources for entry in table.entries if entry.sources}
        flags = [self.parts.of_prefixes(limit) for limit in limits] + [self.parts.of_selectors(region) for region in named]
        if not flags:
            self._row_of[place] = self._reserve(partial(self._row, table, 0))
            return
        packed = np.packbits(np.stack(flags), axis=0).T
        keys = np.ascontiguousarray(packed).view(np.dtype((np.void, packed.shape[1]))).ravel()
        _, example, class_ = np.unique(keys, return_index=True, return_inverse=True)
        rows = [self._reserve(partial(self._row, table, int(source))) for source in example]
        self._row_of[place] = np.array(rows, dtype=np.int32)[class_]

    def _row(self, table: GatewayTable, source: int) -> StoredNumbers:
        """Return what a gateway does with what comes from a part, for each part as its destination."""
        gateway = table.gateway
        row: StoredNumbers = np.full(len(self.parts), LOST, dtype=np.int32)
        if gateway.id in self.conditions.gateways or not gateway.forwarding:
            return row
        here = Address(self.parts.family, self.parts.firsts[source])
        ways = self._ways(table)
        self._paint(row, table, here, ways.routes)
        for clause in reversed(table.clauses):
            if clause.sources is not None and not any(prefix.holds(here) for prefix in clause.sources):
                continue
            if clause.classes is not None and self.traffic.dscp not in clause.classes:
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
        if table.clauses:
            self._paint(row, table, here, ways.outranking)
        self._paint(row, table, here, ways.policies)
        return row

    def _boxes(self, destinations: Iterable[Selector] | None) -> Iterable[tuple[int, int]]:
        family = self.parts.family
        if destinations is None:
            return [(0, family.last)]
        named = (
            destination
            for destination in destinations
            if destination.family is family and Service.of(destination).contains(self.traffic.service)
        )
        return [(selector.first, selector.last) for selector in named]

    def _ways(self, table: GatewayTable) -> _Ways:
        """Return the ways of a gateway that this traffic may take, before anything more fails."""
        found = self._ways_of.get(table.gateway.id)
        if found is None:
            ways = tuple(self._made_ways(table))
            routes = tuple(way for way in ways if way.entry.origin is not Origin.POLICY)
            found = self._ways_of[table.gateway.id] = _Ways(
                policies=tuple(way for way in ways if way.entry.origin is Origin.POLICY),
                routes=routes,
                outranking=tuple(route for route in routes if table.outranks(route.entry)),
            )
        return found

    def _made_ways(self, table: GatewayTable) -> Iterator[_Way]:
        for entry in reversed(table.entries):
            service = self.traffic.service
            if entry.to.family is self.parts.family and entry.to.is_about(service.protocols, service.ports):
                where = self.parts.within(entry.to.first, entry.to.last)
                if where.start < where.stop:
                    yield _Way(entry, where, self._entry_code(table, entry, self._before))

    def _entry_code(self, table: GatewayTable, entry: TableEntry, conditions: Conditions) -> int:
        decision = outcome(self.tables, table.gateway, entry, conditions)
        return self.codes.of(decision) if decision else NONE

    def _paint(self, row: StoredNumbers, table: GatewayTable, here: Address, ways: Iterable[_Way]) -> None:
        """Lay the ways of a gateway over each other, what is asked first on top."""
        source = Selector(here.family, here.value, here.value, self.traffic.service.protocols, self.traffic.source_ports)
        down = self._down_now
        for way in ways:
            entry, code = way.entry, way.code
            if down and ((entry.tunnel and entry.tunnel.id in down) or (entry.uplink and entry.uplink.id in down)):
                code = self._entry_code(table, entry, self.conditions)
            if code == NONE or (entry.sources and not any(about(named, source) for named in entry.sources)):
                continue
            row[way.where] = code

    def _host_row(self, network: Network) -> StoredNumbers:
        """Return where hosts of a network send what goes to each part."""
        row: StoredNumbers = np.full(len(self.parts), LOST, dtype=np.int32)
        if network.own_table:
            for route, decision in reversed(own_routes(self.tables, network, self.conditions)):
                row[self.parts.within(route.prefix.network, route.prefix.last)] = self._code_from_host(decision)
        else:
            row[:] = self._code_from_host(usual_router(self.tables, network, self.conditions))
            for told in sorted(network.dhcp_routes, key=lambda route: route.prefix.length):
                if told.prefix.family is self.parts.family:
                    decision = as_told(self.tables, network, told.via)
                    row[self.parts.within(told.prefix.network, told.prefix.last)] = self._code_from_host(decision)
        for near in (network, *routed_by_site(self.tables, network)):
            if near.prefix.family is self.parts.family:
                row[self.parts.within(near.prefix.network, near.prefix.last)] = DELIVER
        for inner in self.tables.within.get(network.id, ()):
            row[self.parts.within(inner.prefix.network, inner.prefix.last)] = LOST  # looked for on the host's own wire
        return row

    def _code_from_host(self, decision: Decision) -> int:
        gateway = decision.gateway
        down = gateway and (gateway.id in self.conditions.gateways or not gateway.forwarding)
        return LOST if down and decision.kind is not DecisionKind.ROUTER else self.codes.of(decision)
