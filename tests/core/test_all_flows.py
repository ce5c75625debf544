"""All flows at once against single traces, and the sweep against doing everything anew, on designs drawn at random."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Service, parse_service
from pontifex.core.kinds import Filter, Gateway, Network, Route, Rule, Translation, Tunnel
from pontifex.core.model import apply_operations, put
from pontifex.core.routing import Conditions, Tables, matrix, sweep, trace
from pontifex.core.routing.all_flows.matrix import REACHES, flow_between, reach_of
from pontifex.core.routing.all_flows.sweep import suspects
from pontifex.core.routing.trace.flow import Failing
from tests.support.designs import bare_demo

DESIGN = bare_demo()
SITES = ("harbour", "ostvik", "brenna", "basalt", "aurelia")
GATEWAYS = st.sampled_from([f"{site}-gateway" for site in SITES])
LINKS = ("harbour-ostvik", "harbour-brenna", "harbour-basalt", "harbour-aurelia", "x1", "x2")
PREFIXES = st.sampled_from(
    [
        "10.64.0.0/22",
        "10.64.0.128/25",
        "10.64.8.0/23",
        "10.65.0.0/24",
        "10.65.4.0/24",
        "10.66.0.0/23",
        "10.66.1.0/26",
        "10.80.0.0/20",
        "10.80.4.0/24",
        "10.80.8.0/24",
        "10.70.1.0/27",
        "0.0.0.0/0",
        "10.64.0.0/10",
    ]
)
SERVICES = st.sampled_from(["any", "tcp", "tcp 443", "udp 53"])
BOXES = st.builds(lambda prefix, service: prefix if service == "any" else f"{prefix} {service}", PREFIXES, SERVICES)


def _some(strategy, most=2):
    return st.lists(strategy, max_size=most, unique=True)


def _of(type_: Any, **fields: Any) -> Any:
    return st.tuples(st.just(type_), st.fixed_dictionaries(fields))


TUNNEL_PATHS = st.sampled_from(LINKS).map(lambda id_: {"type": "tunnel", "id": id_})
UPLINK_PATHS = st.sampled_from([one.id for one in DESIGN.uplinks]).map(lambda id_: {"type": "uplink", "id": id_})
OBJECTS = st.one_of(
    _of(Route, gateway_id=GATEWAYS, prefix=PREFIXES, tunnel_id=st.sampled_from(LINKS), metric=st.integers(0, 2)),
    _of(Route, gateway_id=GATEWAYS, prefix=PREFIXES, via=st.sampled_from(["10.64.0.1", "10.66.0.9", "10.80.4.9", "10.64.8.8"])),
    _of(
        Route,
        gateway_id=st.just("basalt-gateway"),
        network_id=st.just("basalt-booking-gate"),
        prefix=PREFIXES,
        tunnel_id=st.sampled_from([None, "harbour-basalt", "x1", "x2"]),
    ),
    _of(
        Rule,
        gateway_id=GATEWAYS,
        position=st.integers(1, 9),
        sources=_some(PREFIXES),
        destinations=_some(BOXES),
        dscp=st.sampled_from([[], [], ["EF"], ["DF"]]),
        marks=st.sampled_from([None, None, "EF"]),
        paths=_some(st.one_of(TUNNEL_PATHS, UPLINK_PATHS).map(lambda one: tuple(sorted(one.items()))), 2).map(
            lambda some: [dict(one) for one in some]
        ),
        on_failure=st.sampled_from(["hold", "fall-through"]),
    ),
    _of(
        Filter,
        gateway_id=GATEWAYS,
        direction=st.sampled_from(["in", "out", "through"]),
        sources=_some(PREFIXES),
        destinations=_some(BOXES),
    ),
    _of(
        Translation,
        gateway_id=GATEWAYS,
        tunnel_id=st.sampled_from([None, *LINKS]),
        side=st.sampled_from(["own", "far"]),
        kind=st.just("one-to-one"),
        inside=st.sampled_from(["10.64.8.0/24", "10.66.0.0/24", "10.70.1.0/27"]),
        outside=st.sampled_from(["10.99.0.0/24", "10.98.0.0/24", "10.97.0.0/27"]),
    ),
    st.tuples(
        st.just(Gateway),
        st.builds(
            lambda id_, **fields: {**DESIGN.gateway_by_id[id_].model_dump(), **fields},
            GATEWAYS,
            forwarding=st.sampled_from([True, True, False]),
            default_router=st.booleans(),
            outranking=st.sampled_from(["nothing", "connected", "specific"]),
            inside_address=st.sampled_from([None, "10.64.0.1", "10.66.0.9"]),
        ),
    ),
    st.tuples(
        st.just(Network),
        st.builds(
            lambda id_, told, own: {**DESIGN.network_by_id[id_].model_dump(), "dhcp_routes": told, "own_table": own},
            st.sampled_from(["harbour-staff", "brenna-ticketing", "basalt-booking-gate"]),
            st.lists(st.builds(lambda prefix, via: f"{prefix} via {via}", PREFIXES, st.just("10.64.0.1")), max_size=2),
            st.booleans(),
        ),
    ),
)


def _links(kinds):
    """Two more tunnels, of a technology each, so that there are ways round."""
    pattern = DESIGN.tunnel_by_id["harbour-ostvik"]
    for id_, ends, kind in (("x1", ("brenna", "basalt"), kinds[0]), ("x2", ("ostvik", "basalt"), kinds[1])):
        fields: dict[str, Any] = {"mode": "route", "local_networks": (), "remote_networks": (), "uplink_id": None}
        left, right = (
            {**pattern.left.model_dump(), **fields, "gateway_id": f"{site}-gateway", "technology": kind} for site in ends
        )
        yield Tunnel.model_validate({"id": id_, "name": id_, "left": left, "right": right})


def _design(drawn, kinds):
    objects = list(_links(kinds))
    for k, (type_, fields) in enumerate(drawn):
        named = {"id": f"o{k}", "name": f"o{k}"} | fields
        try:
            objects.append(type_.model_validate(named))
        except ValueError:
            continue  # a route without a next hop
    return apply_operations(DESIGN, [put(one) for one in objects])


DRAWN = (
    st.lists(OBJECTS, max_size=14),
    st.tuples(*[st.sampled_from(["ipsec-ikev2", "ipsec-ikev2", "cloud-peering"])] * 2),
    _some(st.sampled_from([*LINKS, "harbour-fibre", "brenna-cable", "basalt-gateway", "ostvik"])),
)
QUICK = settings(max_examples=40, suppress_health_check=list(HealthCheck), deadline=None)


@QUICK
@given(*DRAWN, SERVICES, st.data())
def test_the_matrix_says_what_traces_say(drawn, kinds, down, service, data):
    """No address of a pair of networks fares worse, or better, than its cell says."""
    design = _design(drawn, kinds)
    tables, conditions = Tables(design), Conditions.of(design, frozenset(down))
    asked: Service = parse_service(service)
    found = matrix(tables, conditions, asked)
    for _ in range(12):
        row, column = (data.draw(st.integers(0, len(found.networks) - 1)) for _ in range(2))
        source, target = found.networks[row], found.networks[column]
        begin, end = (data.draw(st.integers(one.prefix.network, one.prefix.last)) for one in (source, target))
        inner = [
            one
            for network, value in ((source, begin), (target, end))
            for one in design.networks_of_site(network.site_id)
            if network.prefix.contains(one.prefix) and one is not network and one.prefix.network <= value <= one.prefix.last
        ]
        ends = Address(source.prefix.family, begin), Address(target.prefix.family, end)
        if row == column or inner or any(tables.owner(one, None) for one in ends):
            continue  # of a narrower network, which has cells of its own, or a gateway's own, which cells are not about
        flow = flow_between(tables, source, ends[0], target, ends[1], asked)
        reach = reach_of(trace(tables, flow, conditions, source, target))
        cell = found.at(row, column)
        assert reach.rank <= cell.reach.rank, (source.id, target.id, reach, cell.reach)
        assert reach.rank >= int(found.best[row, column]), (source.id, target.id, reach)
        assert not cell.whole or reach is cell.reach


@QUICK
@given(*DRAWN)
def test_a_failure_costs_what_doing_all_anew_says(drawn, kinds, down):
    """Walking again only what uses what fails finds the very pairs that two matrices, before and during, differ in."""
    design = _design(drawn, kinds)
    tables = Tables(design)
    tunnels = [id_ for id_ in down if id_ in design.tunnel_by_id]
    failing = Failing(dict.fromkeys(tunnels[::2], "fails"), dict.fromkeys(tunnels[1::2], "not known yet"))
    before = matrix(tables, Conditions.of(design, failing=failing))
    gone = {one.id: one.gone for one in suspects(design)}
    for failure in sweep(tables, failing):
        during = matrix(tables, Conditions.of(design, frozenset({failure.id}), failing))
        worse = [
            (one.source.id, one.destination.id, REACHES[was], one.reach)
            for one, was in zip(during.cells(), before.worst[before.worst != len(REACHES)], strict=True)
            if one.reach.rank > was and not {one.source.id, one.destination.id} & gone[failure.id]
        ]
        assert [(one.source_id, one.destination_id, one.before, one.during) for one in failure.pairs] == worse
        assert failure.lost == len(worse)
