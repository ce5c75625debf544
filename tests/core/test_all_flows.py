"""All flows at once against single traces, and the sweep against doing everything anew, on designs drawn at random."""

from __future__ import annotations

from typing import Any
from unittest.mock import patch

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Service, parse_service
from pontifex.core.kinds import Intent
from pontifex.core.model import apply_operations, put
from pontifex.core.routing import Conditions, Tables, matrix, sweep, trace
from pontifex.core.routing.all_flows.matrix import REACHES, flow_between, reach_of
from pontifex.core.routing.all_flows.sweep import suspects
from pontifex.core.routing.trace.flow import Failing
from pontifex.core.routing.trace.flow_path import End, Trace
from pontifex.core.routing.wanted import intents
from tests.support.drawn import DRAWN, SERVICES, SITES, drawn_design

QUICK = settings(max_examples=40, suppress_health_check=list(HealthCheck), deadline=None)


@QUICK
@given(*DRAWN, SERVICES, st.data())
def test_the_matrix_says_what_traces_say(drawn, kinds, down, service, data):
    """No address of a pair of networks fares worse, or better, than its cell says."""
    design = drawn_design(drawn, kinds)
    tables, conditions = Tables(design), Conditions.of(design, frozenset(down))
    asked: Service = parse_service(service)
    found = matrix(tables, conditions, asked)
    for _ in range(12):
        row, column = (data.draw(st.integers(0, len(found.networks) - 1)) for _ in range(2))
        source, destination = found.networks[row], found.networks[column]
        begin, end = (data.draw(st.integers(part.prefix.network, part.prefix.last)) for part in (source, destination))
        inner = [
            candidate
            for network, value in ((source, begin), (destination, end))
            for candidate in design.networks_of_site(network.site_id)
            if network.prefix.contains(candidate.prefix)
            and candidate is not network
            and candidate.prefix.network <= value <= candidate.prefix.last
        ]
        ends = Address(source.prefix.family, begin), Address(destination.prefix.family, end)
        if row == column or inner or any(tables.owner(address, None) for address in ends):
            continue  # of a narrower network, which has cells of its own, or a gateway's own, which cells are not about
        flow = flow_between(tables, source, ends[0], destination, ends[1], asked)
        reach = reach_of(trace(tables, flow, conditions, source, destination))
        cell = found.at(row, column)
        assert reach.rank <= cell.reach.rank, (source.id, destination.id, reach, cell.reach)
        assert reach.rank >= int(found.best[row, column]), (source.id, destination.id, reach)
        assert not cell.whole or reach is cell.reach


@QUICK
@given(*DRAWN)
def test_a_failure_costs_what_doing_all_anew_says(drawn, kinds, down):
    """Walking again only what uses what fails finds the very pairs that two matrices, before and during, differ in."""
    design = drawn_design(drawn, kinds)
    tables = Tables(design)
    tunnels = [id_ for id_ in down if id_ in design.tunnel_by_id]
    failing = Failing(dict.fromkeys(tunnels[::2], "fails"), dict.fromkeys(tunnels[1::2], "not known yet"))
    before = matrix(tables, Conditions.of(design, failing=failing))
    gone = {suspect.id: suspect.gone for suspect in suspects(design)}
    for failure in sweep(tables, failing):
        during = matrix(tables, Conditions.of(design, frozenset({failure.id}), failing))
        worse = [
            (candidate.source.id, candidate.destination.id, REACHES[was], candidate.reach)
            for candidate, was in zip(during.cells(), before.worst[before.worst != len(REACHES)], strict=True)
            if candidate.reach.rank > was and not {candidate.source.id, candidate.destination.id} & gone[failure.id]
        ]
        assert [(pair.source_id, pair.destination_id, pair.before, pair.during) for pair in failure.pairs] == worse
        assert failure.lost == len(worse)


@QUICK
@given(*DRAWN[:2])
def test_what_is_told_of_wants_doesn_t_depend_on_how_many_there_are(drawn, kinds):
    """Of wants that go one course one is traced: the cause and place of each are those of its own trace."""
    members = [[{"type": "site", "id": id_} for id_ in sites] for sites in (SITES[:3], SITES[2:])]
    fields = {"id": "all", "name": "all", "both_ways": True, "sources": members[0], "destinations": members[1]}
    design = apply_operations(drawn_design(drawn, kinds), [put(Intent.model_validate(fields))])
    told = []
    for few in (0, 1_000_000):
        with patch.object(intents, "_FEW", few):
            unmet = list(intents.IntentTraces(Tables(design), Conditions()).unmet())
        told.append(
            {
                (want.source.id, want.destination.id): (wanted.reach, *_cause_and_place(wanted.trace))
                for wanted in unmet
                for want in wanted.flows()
            }
        )
    assert told[0] == told[1]


def _cause_and_place(traced: Trace) -> tuple[Any, ...]:
    """The cause of what ends a flow or its answer, and the objects that it is told of."""
    way = traced.back if traced.back and traced.forward.end is End.ARRIVES else traced.forward
    gateways = [hop.gateway_id for hop in way.hops if hop.gateway_id]
    return way.end, way.cause, way.last_rule_id, way.last_tunnel_id, way.last_network_id, gateways[-1:]
