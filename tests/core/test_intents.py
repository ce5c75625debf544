"""Intents, the routes that they need, and findings about what doesn't arrive or come back."""

from __future__ import annotations

from typing import Any

import pytest

from pontifex.core.addressing import Address, parse_address, parse_prefix, parse_service
from pontifex.core.catalogue import Code, Severity
from pontifex.core.findings import analyse
from pontifex.core.kinds import Filter, Gateway, Intent, Network, ObjectType, Route, Tunnel
from pontifex.core.model import ChangeRefused, Remove, apply_operations, put
from pontifex.core.reasons import named, paths
from pontifex.core.routing import Conditions, Flow, Quality, Reach, Tables, matrix, trace
from pontifex.core.routing.all_flows.sweep import suspects
from pontifex.core.routing.links.capacity import IntentLoads
from pontifex.core.routing.links.choice import choices
from pontifex.core.routing.trace.moved_host import moved_host
from pontifex.core.routing.wanted.blocks import wanted_blocks
from pontifex.core.routing.wanted.exits import unmet_exits, wanted_exits
from pontifex.core.routing.wanted.generate import State, missing_routes, needed_routes
from pontifex.core.routing.wanted.intents import IntentTraces
from pontifex.demo import demo_design
from tests.support.designs import TODAY, bare_demo, mended
from tests.support.remedies import remedies

BARE = bare_demo()
DEMO = demo_design()


def _address(text: str) -> Address:
    return Address(*parse_address(text))


def _link(id_: str, left: str, right: str, **fields: Any) -> Tunnel:
    ends = {
        side: {"gateway_id": f"{site}-gateway", "mode": "route", **fields} for side, site in (("left", left), ("right", right))
    }
    return Tunnel.model_validate({"id": id_, "name": id_, **ends})


def _route(id_: str, site: str, prefix: str, **hop: Any) -> Route:
    return Route.model_validate({"id": id_, "gateway_id": f"{site}-gateway", "prefix": prefix, **hop})


def _gateway(site: str, **fields: Any) -> Gateway:
    return Gateway.model_validate({**BARE.gateway_by_id[f"{site}-gateway"].model_dump(), **fields})


def _network(id_: str, **fields: Any) -> Network:
    return Network.model_validate({**BARE.network_by_id[id_].model_dump(), **fields})


def _intent(source: str = "brenna-ticketing", destination: str = "basalt-booking-data", **fields: Any) -> Intent:
    members = {"sources": [{"type": "network", "id": source}], "destinations": [{"type": "network", "id": destination}]}
    return Intent.model_validate({"id": "want", "name": "Want", **members, **fields})


DIRECT = _link("direct", "brenna", "basalt")
THERE = _route("there", "brenna", "10.80.0.0/20", tunnel_id="direct")
BACK = _route("back", "basalt", "10.66.0.0/23", tunnel_id="direct")
ROUTED: list[Any] = [DIRECT, THERE, BACK]
PLANTED: list[tuple[str, list[Any], str, str, str]] = [
    ("sound", ROUTED, "", "", ""),
    ("no route", [DIRECT, BACK], Code.ROUTE_LEAVES_UNPROTECTED, "brenna-gateway", "sends it out by cable"),
    ("no return", [DIRECT, THERE], Code.ROUTE_NO_RETURN, "basalt-gateway", "the answer leaves unprotected"),
    (
        "own table",
        [*ROUTED, _network("basalt-booking-data", own_table=True)],
        Code.ROUTE_NO_RETURN,
        "basalt-booking-data",
        "own route table",
    ),
    (
        "forwarding",
        [*ROUTED, _gateway("basalt", forwarding=False)],
        Code.ROUTE_FORWARDING_OFF,
        "basalt-gateway",
        "does not forward",
    ),
    (
        "other router",
        [*ROUTED, _gateway("brenna", default_router=False, inside_address="10.66.0.2")],
        Code.ROUTE_OTHER_ROUTER,
        "brenna-ticketing",
        "the hosts use another router, of which the design knows nothing",
    ),
    (
        "selectors",
        [_link("direct", "brenna", "basalt", local_networks=["10.99.0.0/24"]), THERE, BACK],
        Code.ROUTE_SELECTORS_REFUSE,
        "direct",
        "don't name",
    ),
    (
        "loop",
        [*ROUTED, _route("round", "basalt", "10.80.4.0/24", tunnel_id="direct")],
        Code.ROUTE_LOOP,
        "basalt-gateway",
        "goes round in circles",
    ),
    (
        "filter",
        [
            *ROUTED,
            Filter.model_validate({"id": "f", "name": "f", "gateway_id": "basalt-gateway", "destinations": ["10.80.0.0/22"]}),
        ],
        Code.FILTER_BLOCKS,
        "basalt-gateway",
        "no filter of Basalt",
    ),
    ("next hop that nobody has", [*ROUTED, _route("bad", "brenna", "10.80.4.0/24", via="10.99.0.1")], "", "", ""),
]


@pytest.mark.parametrize(("name", "objects", "code", "id_", "words"), PLANTED, ids=[case[0] for case in PLANTED])
def test_planted_faults_of_routes(name, objects, code, id_, words):
    """Each planted fault is told once, at its place; each remedy mends it, and brings no new blocker."""
    design = apply_operations(BARE, [put(item) for item in (*objects, _intent())])
    found = [finding for finding in analyse(design, TODAY).findings if any(place.id == "want" for place in finding.where)]
    assert [finding.code for finding in found] == ([code] if code else [])
    if not code:
        return
    assert found[0].where[0].id == id_
    assert words in str(found[0].why)
    blockers = {
        (finding.code, finding.where[0].id) for finding in analyse(design, TODAY).findings if finding.severity is Severity.BLOCKER
    }
    assert remedies(design, found[0])
    for remedy in remedies(design, found[0]):
        after = analyse(apply_operations(design, remedy.operations), TODAY).findings
        assert not [
            candidate for candidate in after if candidate.code == code and any(place.id == "want" for place in candidate.where)
        ], remedy.title
        assert {
            (candidate.code, candidate.where[0].id) for candidate in after if candidate.severity is Severity.BLOCKER
        } <= blockers


def test_idle_routes_are_told():
    """A route that a wider one makes superfluous, one into a tunnel of others, and a tunnel that nothing leads into."""
    wide = _route("wide", "brenna", "10.80.0.0/12", tunnel_id="direct")
    foreign = _route("foreign", "ostvik", "10.80.0.0/20", tunnel_id="direct")
    nobody = _route("nobody", "ostvik", "10.90.0.0/16", via="10.99.0.1")
    routes: list[Any] = [wide, THERE, foreign, nobody]
    design = apply_operations(BARE, [put(DIRECT), *map(put, routes)])
    found = {candidate.code: candidate for candidate in analyse(design, TODAY).findings if candidate.code.startswith("route.")}
    assert found[Code.ROUTE_SUPERFLUOUS].where[0].id == "there"
    assert found[Code.ROUTE_BLACK_HOLE].where[0].id == "foreign"
    assert found[Code.ROUTE_NEXT_HOP].where[0].id == "nobody"
    led = found[Code.ROUTE_NONE_INTO_TUNNEL].why.reason
    assert led == paths.NothingLeadsInto(named(design.gateway_by_id["basalt-gateway"]), named(design.tunnel_by_id["direct"]))
    for code, finding in found.items():
        after = apply_operations(design, remedies(design, finding)[0].operations)
        assert code not in {finding.code for finding in analyse(after, TODAY).findings}


def test_generated_routes_give_what_is_wanted_and_no_more():
    """With all of its routes gone, those that are generated give all that was given, and none of them can be left out."""
    gone = [Remove(type=ObjectType.ROUTE, id=route.id) for route in DEMO.routes]
    bare = apply_operations(
        mended(DEMO), [candidate for candidate in gone if candidate.id != "basalt-booking-gate-to-10-64-0-0-16-0"]
    )
    tables = Tables(bare)
    added = list(missing_routes(bare, needed_routes(tables, wanted_blocks(bare))))
    design = apply_operations(bare, [put(route) for route in added])
    wanted = IntentTraces(Tables(design), Conditions())
    reaches = {want: wanted.reach(want)[0] for want in wanted.all}
    unmet = {
        (want.source.id, want.destination.id) for want, reach in reaches.items() if reach not in (Reach.REACHES, Reach.ASYMMETRIC)
    }
    assert not unmet
    assert not [
        candidate for candidate in needed_routes(Tables(design), wanted_blocks(design)) if candidate.state is not State.THERE
    ]
    for route in added:
        less = IntentTraces(Tables(apply_operations(design, [Remove(type=ObjectType.ROUTE, id=route.id)])), Conditions())
        assert any(less.reach(want)[0] is not reach for want, reach in reaches.items()), route


def test_a_peering_is_not_transitive():
    """What comes by a tunnel doesn't go on into a peering; what begins beside it does."""
    peering = _link("peering", "basalt", "tarn", technology="cloud-peering", peering_agreed=True)
    routes = [
        _route("far", "basalt", "10.64.8.0/24", tunnel_id="peering"),
        _route("home", "tarn", "10.80.0.0/20", tunnel_id="peering"),
    ]
    beyond = _route("beyond", "brenna", "10.64.8.0/24", tunnel_id="direct")
    objects: list[Any] = [*ROUTED, peering, *routes, beyond]
    # these would take what their networks name, before any route
    by_policy = [Remove(type=ObjectType.TUNNEL, id=id_, cascade=True) for id_ in ("harbour-basalt", "harbour-brenna")]
    design = apply_operations(BARE, [*by_policy, *(put(item) for item in objects)])
    beside = trace(Tables(design), Flow(_address("10.80.4.9"), _address("10.64.8.9")), Conditions())
    assert str(beside.verdict) == "Arrives and returns by peering."
    through = trace(Tables(design), Flow(_address("10.66.0.9"), _address("10.64.8.9")), Conditions())
    assert str(through.verdict).endswith(
        "peering takes only what begins in Basalt's own networks alone: a peering is not transitive."
    )


def test_answers_that_come_another_way_meet_a_filter():
    """A filter that hasn't seen a connection begin drops its answers; one that has lets them through."""
    second: list[Any] = [_link("second", "harbour", "basalt"), _route("away", "basalt", "10.66.0.0/23", tunnel_id="second")]
    home: list[Any] = [_link("third", "harbour", "brenna"), _route("home", "harbour", "10.66.0.0/23", tunnel_id="third")]
    keeper = Filter.model_validate({"id": "f", "name": "f", "gateway_id": "harbour-gateway", "direction": "through"})
    design = apply_operations(BARE, [put(item) for item in (DIRECT, THERE, *second, *home)])
    asked = Flow(_address("10.66.0.9"), _address("10.80.4.9"))
    assert (
        str(trace(Tables(design), asked, Conditions()).verdict)
        == "Arrives by direct, and returns another way by second and third."
    )
    kept = apply_operations(design, [put(keeper)])
    verdict = str(trace(Tables(kept), asked, Conditions()).verdict)
    assert verdict.endswith("Harbour firewall pair keeps state, and has not seen this connection begin.")


def test_hosts_find_the_tunnel_by_dhcp_or_by_their_router():
    """Where hosts use another router, a route by DHCP, or one at that router, leads to the tunnel's gateway."""
    aside = _gateway("brenna", default_router=False, inside_address="10.66.0.2")
    told = _network("brenna-ticketing", dhcp_routes=["10.80.0.0/20 via 10.66.0.2"])
    flow = Flow(_address("10.66.0.9"), _address("10.80.4.9"))
    by_dhcp = apply_operations(BARE, [put(item) for item in (*ROUTED, aside, told)])
    assert str(trace(Tables(by_dhcp), flow, Conditions()).verdict) == "Arrives and returns by direct."
    router = Gateway.model_validate({"id": "lan", "site_id": "brenna", "name": "LAN router"})
    on = Route.model_validate({"id": "on", "gateway_id": "lan", "prefix": "10.80.0.0/20", "via": "10.66.0.2"})
    by_router = apply_operations(BARE, [put(item) for item in (*ROUTED, aside, router, on)])
    found = trace(Tables(by_router), flow, Conditions())
    assert [hop.where for hop in found.forward.hops] == ["LAN router", "Brenna router", "Basalt cloud gateway"]
    without = apply_operations(by_router, [Remove(type=ObjectType.ROUTE, id="on"), put(_intent())])
    (missing,) = [finding for finding in analyse(without, TODAY).findings if any(place.id == "want" for place in finding.where)]
    repaired = apply_operations(without, remedies(without, missing)[0].operations)
    assert str(trace(Tables(repaired), flow, Conditions()).verdict) == "Arrives and returns by direct."


def test_quality_chooses_the_path_and_says_when_it_moves():
    """Gates keep to the radio link while it is good; beyond a limit they move to the cable, and say below which they return."""
    gates = Flow(_address("10.66.1.11"), _address("10.80.8.9"), parse_service("tcp 8443"), 34)
    for slow, taken in (
        ({}, "brenna-basalt-radio"),
        ({"brenna-basalt-radio": Quality(delay_ms=61)}, "brenna-basalt-cable"),
        ({"brenna-radio-link": Quality(loss_percent=2.5)}, "brenna-basalt-cable"),
        ({"brenna-basalt-radio": Quality(delay_ms=60)}, "brenna-basalt-radio"),
    ):
        conditions = Conditions.of(DEMO, slow=slow)
        assert trace(Tables(DEMO), gates, conditions).forward.tunnels == (taken,)
        choice = next(
            candidate for candidate in choices(Tables(DEMO), conditions) if candidate.rule_id == "brenna-gates-by-radio"
        )
        assert [path.id for path in choice.paths if path.taken] == [taken]
    delay = choice.paths[0].measures[0]
    assert (delay.leaves_above, delay.returns_below, choice.marked_by) == (60, 48, ("Gate control",))


def test_loads_count_the_tunnels_overhead_and_failures_move_them():
    """An uplink carries more than intents ask for, by what the tunnel adds; a failure that is too much for another is told."""
    found = {load.uplink_id: load for load in IntentLoads(Tables(DEMO), Conditions()).loads()}
    tickets = 2.0  # half of the rate: the other half is Ostvik's
    gates, booking = 1.0, 1.5
    assert found["brenna-radio-link"].up_mbit_s == pytest.approx(gates / 2, rel=0.1)  # one way of two arrives
    assert tickets + booking < found["brenna-cable"].up_mbit_s < 1.1 * (tickets + booking)
    narrow = DEMO.uplink_by_id["brenna-radio-link"].changed(rate_up_mbit_s=0.8, rate_down_mbit_s=0.8)
    design = apply_operations(DEMO, [put(narrow)])
    assert not [candidate for candidate in IntentLoads(Tables(design), Conditions()).loads() if candidate.over]
    over = {load.id: load for load in IntentLoads(Tables(design), Conditions()).over_after(suspects(design))}
    assert [load.uplink_id for load in over["brenna-basalt-cable"].uplinks] == ["brenna-radio-link"]


def test_a_host_that_moves():
    """The rota in Ostvik's network is no longer reached from Brenna, and is a hop nearer to the ticket printers."""
    host, network = DEMO.host_by_id["harbour-rota"], DEMO.network_by_id["ostvik-ticketing"]
    after, pairs = moved_host(DEMO, host, network, _address("10.65.0.20"), Conditions())
    by_pair = {(pair.network_id, pair.begins): pair for pair in pairs}
    brenna = by_pair["brenna-ticketing", False]
    assert (brenna.before, brenna.after) == (Reach.REACHES, Reach.UNPROTECTED)
    assert str(by_pair["ostvik-ticketing", True].verdict_after) == "Arrives and returns within the site."
    assert str(after.host_by_id["harbour-rota"].address) == "10.65.0.20"


def test_what_hangs_on_a_member_is_known():
    """A network that an intent names can't go without it."""
    with pytest.raises(ChangeRefused, match="still needs network 'gneiss-reporting'"):
        apply_operations(DEMO, [Remove(type=ObjectType.NETWORK, id="gneiss-reporting")])
    alone = apply_operations(DEMO, [Remove(type=ObjectType.NETWORK, id="gneiss-reporting", cascade=True)])
    assert "reports" not in {intent.id for intent in alone.intents}


def test_the_matrix_knows_services_apart():
    """A filter for one service lets that one through alone; the matrix of any traffic says so."""
    one = Filter.model_validate(
        {"id": "f", "name": "f", "gateway_id": "basalt-gateway", "destinations": ["10.80.0.0/20 tcp 443"]}
    )
    tables = Tables(apply_operations(BARE, [put(item) for item in (*ROUTED, one)]))
    for service, reach in (("tcp 443", Reach.REACHES), ("tcp 80", Reach.BLOCKED), ("any", Reach.BLOCKED)):
        found = matrix(tables, Conditions(), parse_service(service))
        assert found.at(found.place["brenna-ticketing"], found.place["basalt-booking-data"]).reach is reach


def _out(source: str, gateway: str, **fields: Any) -> Intent:
    """What is to leave to the Internet by a gateway."""
    members = {"sources": [{"type": "network", "id": source}], "destinations": [{"type": "gateway", "id": gateway}]}
    return Intent.model_validate({"id": "out", "name": "Out", **members, **fields})


@pytest.mark.parametrize(
    ("source", "gateway", "says"),
    [
        ("dock-containers", "basalt-gateway", None),  # by a rule, through the tunnel to the exit
        ("dock-containers", "dock-gateway", "it leaves by Basalt cloud gateway instead"),
        ("dock-yard", "basalt-gateway", "it leaves by Dock container host instead"),
        ("dock-yard", "dock-gateway", None),
    ],
)
def test_the_internet_is_wanted_by_an_exit(source, gateway, says):
    """What leaves by the exit that is wanted is quiet; what leaves elsewhere is told, with where."""
    design = apply_operations(DEMO, [put(_out(source, gateway))])
    found = [str(finding.why) for finding in analyse(design, TODAY).findings if finding.code is Code.ROUTE_OTHER_EXIT]
    assert found == [] if says is None else says in found[0]


def test_any_of_several_exits_will_do():
    """Where two exits are named, what leaves by either is quiet; what leaves by a third is told with both."""
    exits = [{"type": "gateway", "id": gateway_id} for gateway_id in ("basalt-gateway", "harbour-gateway")]
    for source, says in (("dock-containers", []), ("dock-yard", ["by Basalt cloud gateway or Harbour firewall"])):
        design = apply_operations(DEMO, [put(_out(source, "basalt-gateway", destinations=exits))])
        found = [str(finding.why) for finding in analyse(design, TODAY).findings if finding.code is Code.ROUTE_OTHER_EXIT]
        assert [words in one for one, words in zip(found, says, strict=True)] == [True] * len(says)


def test_what_holds_what_should_leave():
    """Where nothing leads out, it is told why; what goes through a tunnel with troubles of its own waits."""
    uplinks = [uplink for uplink in DEMO.uplinks if uplink.gateway_id == "dock-gateway"]
    design = apply_operations(DEMO, [put(_out("dock-yard", "dock-gateway"))])
    gone = apply_operations(design, [Remove(type=ObjectType.UPLINK, id=uplink.id, cascade=True) for uplink in uplinks])
    (found,) = [finding for finding in analyse(gone, TODAY).findings if finding.code is Code.ROUTE_OTHER_EXIT]
    assert "wants Dry Dock's yard to reach the Internet by Dock container host; it" in str(found.why)


def test_a_gateway_is_no_source():
    """An exit is only reached: it can't be where traffic begins, nor in a rule."""
    with pytest.raises(ValueError, match="a gateway is an exit"):
        Intent.model_validate({**_out("dock-yard", "dock-gateway").model_dump(), "sources": [{"type": "gateway", "id": "x"}]})


def test_a_design_that_holds_every_address_has_no_exit_to_ask():
    """Where a network is all of IPv4, nothing leaves: the exits are not asked about, and nothing is raised."""
    demo = demo_design()
    whole = demo.networks[0].with_valid({"prefix": parse_prefix("0.0.0.0/0")})
    source, exits = {"type": "network", "id": demo.networks[1].id}, [{"type": "gateway", "id": "basalt-gateway"}]
    leaves = Intent.model_validate({"id": "leaves", "name": "Leaves", "sources": [source], "destinations": exits})
    wanted = demo.changed(intents=(leaves,))
    assert list(unmet_exits(Tables(wanted), Conditions()))
    filled = wanted.changed(networks=(whole, *demo.networks[1:]))
    assert list(wanted_exits(filled))
    assert not list(unmet_exits(Tables(filled), Conditions()))
