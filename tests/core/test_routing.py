"""Traces, the matrix and single failures: the rule that decided at each hop, there and back."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, parse_address, parse_prefix, parse_service
from pontifex.core.design_file import write_design_file
from pontifex.core.kinds import Gateway, Mode, ObjectType, Route, Rule, Side, Translation, Tunnel
from pontifex.core.model import apply_operations, put
from pontifex.core.routing import Conditions, Flow, Reach, failing_tunnels, matrix, sweep, trace
from pontifex.core.routing.all_flows.matrix import reach_of
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.space.translate import behind_one
from pontifex.demo import demo_design
from tests.support.designs import TODAY, bare_demo, without

run = CliRunner().invoke
DESIGN = bare_demo()


def _address(text):
    return Address(*parse_address(text))


def _trace(design: Any, source: str, destination: str, down: Any = (), service: str = "any", **asked: Any):
    flow = Flow(_address(source), _address(destination), parse_service(service), **asked)
    return trace(Tables(design), flow, Conditions.of(design, frozenset(down)))


def _with(*objects, design=DESIGN):
    return apply_operations(design, [put(item) for item in objects])


def _gateway(id_, **fields):
    return Gateway.model_validate({**DESIGN.gateway_by_id[id_].model_dump(), **fields})


def _route(id_, gateway, prefix, **hop):
    return Route.model_validate({"id": id_, "gateway_id": f"{gateway}-gateway", "prefix": prefix, **hop})


def _rule(id_, position=10, **fields):
    return Rule.model_validate({"id": id_, "gateway_id": "brenna-gateway", "name": id_, "position": position, **fields})


def _between(left, right, id_):
    """A route-based tunnel that names no networks."""
    pattern = DESIGN.tunnel_by_id["harbour-ostvik"]
    ends = {
        side: pattern.end(side).changed(
            gateway_id=f"{site}-gateway", uplink_id=None, mode=Mode.ROUTE, local_networks=(), remote_networks=()
        )
        for side, site in ((Side.LEFT, left), (Side.RIGHT, right))
    }
    return Tunnel(id=id_, name=id_, left=ends[Side.LEFT], right=ends[Side.RIGHT])


ROUTED = _with(_between("brenna", "basalt", "direct"))
THERE = _route("there", "brenna", "10.80.0.0/20", tunnel_id="direct")
BACK = _route("back", "basalt", "10.66.0.0/23", tunnel_id="direct")
DIRECT = [{"type": "tunnel", "id": "direct"}]
LAN: dict[str, Any] = {"sources": ["10.66.0.0/23"]}  # without it a rule takes what arrives from the tunnel, too
CABLE = [{"type": "uplink", "id": "brenna-cable"}]

CASES = [
    (DESIGN, ("10.64.0.5", "10.65.0.9"), (), "Arrives and returns by Harbour–Ostvik."),
    (DESIGN, ("10.64.0.5", "10.64.1.7"), (), "Arrives and returns within the site."),
    (DESIGN, ("10.64.0.5", "10.64.12.9"), (), "Arrives and returns within the site."),
    (DESIGN, ("10.65.0.9", "10.66.0.7"), (), "Leaves unprotected: Ostvik router sends it out by DSL"),
    (DESIGN, ("10.64.0.5", "9.9.9.9"), (), "Leaves to the Internet: Harbour firewall pair"),
    (DESIGN, ("10.99.0.1", "10.65.0.9"), (), "Is lost: no network holds 10.99.0.1."),
    (DESIGN, ("10.64.0.5", "10.65.0.9"), ("ostvik-dsl",), "Is lost: at Harbour firewall pair the policy of Harbour–"),
    (DESIGN, ("10.64.0.5", "10.65.0.9"), ("ostvik",), "Is lost: at Harbour firewall pair the policy of Harbour–Ostvik"),
    (DESIGN, ("10.64.0.5", "10.65.0.9"), ("harbour-gateway",), "Is lost: Harbour firewall pair is down: taken down."),
    (
        _with(_gateway("ostvik-gateway", forwarding=False)),
        ("10.64.0.5", "10.65.0.9"),
        (),
        "Is lost: Ostvik router does not forward what comes by Harbour–Ostvik.",
    ),
    (
        _with(_gateway("ostvik-gateway", default_router=False)),
        ("10.64.0.5", "10.65.0.9"),
        (),
        "Arrives by Harbour–Ostvik; of the answer it is not known yet: at ticketing at Ostvik Terminal",
    ),
    (_with(THERE, design=ROUTED), ("10.66.0.7", "10.80.4.10"), (), "Arrives by direct, and the answer leaves unprotected"),
    (_with(THERE, BACK, design=ROUTED), ("10.66.0.7", "10.80.4.10"), (), "Arrives and returns by direct."),
    (
        _with(THERE, BACK, design=ROUTED),
        ("10.66.0.7", "10.80.4.10"),
        ("direct",),
        "Leaves unprotected: Brenna router sends it out by cable: no route is narrower than the default one, by cable.",
    ),
    (
        _with(*(_route(site, site, "10.90.0.0/16", tunnel_id="direct") for site in ("brenna", "basalt")), design=ROUTED),
        ("10.66.0.7", "10.90.0.1"),
        (),
        "Is lost: it goes round in circles at Brenna router.",
    ),
    (_with(_route("x", "brenna", "10.90.0.0/16", via="10.99.0.1")), ("10.66.0.7", "10.90.0.1"), (), "Leaves unprotected"),
    (_with(_route("x", "brenna", "10.90.0.0/16", via="10.66.0.9")), ("10.66.0.7", "10.90.0.1"), (), "Is not known further: "),
    (_with(_rule("r", **LAN, paths=DIRECT), BACK, design=ROUTED), ("10.66.0.7", "10.80.4.10"), (), "Arrives and returns by"),
    (_with(_rule("r", paths=DIRECT), BACK, design=ROUTED), ("10.66.0.7", "10.80.4.10"), (), "Arrives by direct, and the answer"),
    (
        _with(_rule("r", paths=DIRECT, on_failure="hold"), BACK, design=ROUTED),
        ("10.66.0.7", "10.80.4.10"),
        ("direct",),
        "Is held: at Brenna router rule r holds: direct is down.",
    ),
    (
        _with(_rule("r", paths=DIRECT), BACK, design=ROUTED),
        ("10.66.0.7", "10.80.4.10"),
        ("direct",),
        "Leaves unprotected: Brenna router sends it out by cable: rule r falls through: direct is down; no route",
    ),
    (
        _with(_rule("r", paths=DIRECT + CABLE), BACK, design=ROUTED),
        ("10.66.0.7", "10.80.4.10"),
        ("direct",),
        "Leaves unprotected: Brenna router sends it out by cable: direct is down; rule r.",
    ),
    (
        _with(_rule("r", sources=["10.66.1.0/26"], paths=CABLE), THERE, BACK, design=ROUTED),
        ("10.66.0.7", "10.80.4.10"),
        (),
        "Arrives and returns by direct.",
    ),
    (
        _with(_rule("b", 20, paths=DIRECT), _rule("a", 5, sources=["10.66.0.0/24"], paths=CABLE), BACK, design=ROUTED),
        ("10.66.0.7", "10.80.4.10"),
        (),
        "Leaves unprotected: Brenna router sends it out by cable: rule a.",
    ),
]  # fmt: skip


@pytest.mark.parametrize(("design", "ends", "down", "verdict"), CASES, ids=[str(k) for k in range(len(CASES))])
def test_the_verdict_names_what_decided(design, ends, down, verdict):
    """Arriving, losing the answer, leaving unprotected, holding, looping: in one sentence with its place and cause."""
    assert str(_trace(design, ends[0], ends[1], down).verdict).startswith(verdict)


def test_a_rule_may_ask_for_protocol_and_port():
    """A rule for one port takes that flow and no other; a flow of any port is not taken."""
    design = _with(_rule("web", destinations=["10.80.0.0/20 tcp 443"], paths=CABLE), THERE, BACK, design=ROUTED)
    for service, by in (("tcp 443", "rule web"), ("tcp 80", "route"), ("udp 443", "route"), ("any", "route")):
        assert _trace(design, "10.66.0.7", "10.80.4.10", (), service).forward.hops[0].by.startswith(by)


def test_the_longest_prefix_then_the_metric():
    """Of routes the narrowest decides, then the lowest metric; one into a tunnel that is down is not there."""
    wide = _route("wide", "brenna", "10.80.0.0/12", uplink_id="brenna-cable")
    slow = _route("slow", "brenna", "10.80.0.0/20", uplink_id="brenna-radio-link", metric=9)
    design = _with(THERE, BACK, wide, slow, design=ROUTED)
    taken = [_trace(design, "10.66.0.7", "10.80.4.10", down).forward.hops[0].by for down in ((), ("direct",))]
    assert taken == ["route 10.80.0.0/20 into direct", "route 10.80.0.0/20 by radio link"]


def test_selectors_that_do_not_fit_drop_it():
    """A rule may lead into a tunnel whose networks don't name the flow: it ends there, and the trace says at which end."""
    rule = _rule("r", paths=[{"type": "tunnel", "id": "harbour-brenna"}])
    found = _trace(_with(rule), "10.66.0.7", "10.80.4.10")
    assert (
        str(found.verdict) == "Is lost: at Brenna router the networks of Harbour–Brenna at Brenna Terminal don't name 10.80.4.10."
    )


def test_translations_there_and_back():
    """Both sides see translated addresses, and the answer finds its way; behind one address, too."""
    fields = {"id": "t", "gateway_id": "harbour-gateway", "name": "t", "tunnel_id": "harbour-tarn", "side": "far"}
    shown = Translation.model_validate({**fields, "inside": "10.64.8.0/24", "outside": "10.64.200.0/24"})
    found = _trace(_with(shown), "10.64.0.5", "10.64.200.7")
    assert str(found.verdict) == "Arrives and returns by Harbour–Tarn."
    assert found.forward.hops[0].translated == "destination 10.64.200.7 becomes 10.64.8.7"
    assert found.back is not None
    assert found.back.hops[0].translated == "source 10.64.8.7 becomes 10.64.200.7"
    design = apply_operations(DESIGN, behind_one(DESIGN, DESIGN.network_by_id["ostvik-cameras"], parse_prefix("10.65.9.9/32")))
    hidden = _trace(design, "10.65.4.9", "10.64.8.10")
    assert str(hidden.verdict) == "Arrives and returns by Harbour–Ostvik."
    assert hidden.forward.hops[0].translated == "source 10.65.4.9 becomes 10.65.9.9"
    assert hidden.back is not None
    assert hidden.back.hops[0].translated == "destination 10.65.9.9 becomes 10.65.4.9"


def test_twins_are_told_apart():
    """Where two networks share addresses, a flow that ends in the other one is lost, and says so."""
    staff, *vessels = (DESIGN.network_by_id[id_] for id_ in ("harbour-staff", "aurelia-bridge", "corvina-bridge"))
    flow = Flow(_address("10.64.0.5"), _address("10.70.1.5"))
    verdicts = [str(trace(Tables(DESIGN), flow, Conditions.of(DESIGN), staff, vessel).verdict) for vessel in vessels]
    assert any("which has the addresses of bridge of MV" in verdict for verdict in verdicts)
    reaches = {_cells(DESIGN, Conditions.of(DESIGN))["harbour-staff", vessel.id].reach for vessel in vessels}
    assert reaches == {Reach.REACHES, Reach.BLOCKED}


def _cells(design, conditions):
    return {(cell.source.id, cell.destination.id): cell for cell in matrix(Tables(design), conditions).cells()}


@given(st.data())
def test_the_matrix_against_traces_of_sampled_addresses(data):
    """No address of a pair of networks fares worse than its cell says; where the cell is whole, none fares otherwise."""
    objects = data.draw(
        st.lists(
            st.sampled_from(
                [
                    THERE,
                    BACK,
                    _rule("a", sources=["10.66.0.64/26"], paths=CABLE, on_failure="hold"),
                    _rule("b", 20, destinations=["10.80.4.0/24"], paths=DIRECT),
                    _route("n", "brenna", "10.80.4.128/25", uplink_id="brenna-cable"),
                    _gateway("basalt-gateway", default_router=False),
                ]
            ),
            unique_by=id,
        )
    )
    design = _with(*objects, design=ROUTED)
    conditions = Conditions.of(
        design, data.draw(st.sampled_from([frozenset(), frozenset({"direct"}), frozenset({"brenna-cable"})]))
    )
    cells = _cells(design, conditions)
    source, destination = (design.network_by_id[id_] for id_ in ("brenna-ticketing", "basalt-booking-data"))
    cell = cells[source.id, destination.id]
    for _ in range(6):
        begin, end = (data.draw(st.integers(part.prefix.network, part.prefix.last)) for part in (source, destination))
        flow = Flow(Address(source.prefix.family, begin), Address(destination.prefix.family, end))
        if any(Tables(design).owner(address, None) for address in (flow.source, flow.destination)):
            continue  # cells are not about a gateway's own addresses
        reach = reach_of(trace(Tables(design), flow, conditions, source, destination))
        assert reach.rank <= cell.reach.rank
        assert not cell.whole or reach is cell.reach


def test_single_failures_are_ranked_by_what_they_break():
    """Harbour's firewall and its fibre break most; a spare that carries nothing breaks nothing; each lost pair was better off."""
    failing = failing_tunnels(DESIGN, TODAY)
    assert failing.down.keys() >= {"harbour-brenna", "harbour-tarn"}
    found = sweep(Tables(DESIGN), failing)
    assert {found[0].id, found[1].id} == {"harbour-gateway", "harbour-fibre"}
    assert [failure.lost for failure in found] == sorted((failure.lost for failure in found), reverse=True)
    by_id = {failure.id: failure for failure in found}
    assert not by_id["harbour-lte-spare"].lost
    pairs = {(cell.source_id, cell.destination_id) for cell in by_id["harbour-ostvik"].pairs}
    assert ("ostvik-cameras", "harbour-servers") in pairs
    assert all(pair.during.rank > pair.before.rank for failure in found for pair in failure.pairs)


def test_the_commands(tmp_path):
    """Trace, matrix and sweep print sentences or JSON, and exit by what they found; what is unknown is refused."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(without(demo_design(), ObjectType.RULE, ObjectType.ROUTE)))
    sound = run(app, ["trace", str(file), "--from", "ticket printer", "--to", "rota.skerry.example", "--json"])
    assert (sound.exit_code, json.loads(sound.stdout)["verdict"]) == (0, "Arrives and returns by Harbour–Ostvik.")
    down = run(
        app,
        ["trace", str(file), "--from", "10.65.0.9", "--to", "rota", "--protocol", "tcp", "--port", "443", "--down", "ostvik-dsl"],
    )
    assert (down.exit_code, down.stdout.startswith("Is lost: at Ostvik router the policy of Harbour–Ostvik")) == (1, True)
    for wrong in (["--from", "nobody", "--to", "rota"], ["--from", "rota", "--to", "10.65.0.9", "--down", "x"]):
        assert run(app, ["trace", str(file), *wrong]).exit_code == 2
    assert run(app, ["trace", str(file), "--from", "rota", "--to", "rota", "--protocol", "x"]).exit_code == 2
    cells = json.loads(run(app, ["matrix", str(file), "--json"]).stdout)["cells"]
    assert {"reaches", "blocked", "unprotected"} <= {cell["reach"] for cell in cells}
    assert "harbour-staff to ostvik-ticketing: reaches\n" in run(app, ["matrix", str(file)]).stdout
    assert run(app, ["sweep", str(file)]).stdout.startswith("gateway Harbour firewall pair (harbour-gateway): ")
    assert json.loads(run(app, ["sweep", str(file), "--json"]).stdout)["failures"][0]["id"] == "harbour-gateway"
    assert run(app, ["matrix", str(tmp_path / "none.json")]).exit_code == 2


def test_the_commands_with_classes_and_slow_links(tmp_path):
    """A class and a slow link move a flow; what can't be read is refused; a machine's plan is printed with its way back."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(demo_design()))
    ask = ["trace", str(file), "--from", "gate one", "--to", "10.80.8.9", "--protocol", "tcp", "--port", "8443", "--json"]
    for more, tunnel in (
        (["--dscp", "AF41"], "brenna-basalt-radio"),
        (["--dscp", "AF41", "--slow", "brenna-basalt-radio:delay=90,loss=1"], "brenna-basalt-cable"),
        ([], "brenna-basalt-cable"),
    ):
        found = run(app, [*ask, *more])
        assert (found.exit_code, json.loads(found.stdout)["forward"]["tunnels"]) == (1, [tunnel])  # the answer is lost
    for wrong in (["--dscp", "GOLD"], ["--slow", "brenna-basalt-radio:speed=1"], ["--slow", "nothing:delay=1"]):
        assert run(app, [*ask, *wrong]).exit_code == 2
    assert run(app, ["matrix", str(file), "--service", "tcp 99999"]).exit_code == 2
    plan = run(app, ["linux-plan", str(file), "dock-gateway"])
    assert "ip -4 rule add pref 1003 from 172.23.0.0/24 table 1000 protocol 112" in plan.stdout
    assert "ip -4 rule flush protocol 112" in run(app, ["linux-plan", str(file), "dock-gateway", "--back"]).stdout
    asked = run(app, ["linux-plan", str(file), "ostvik-gateway"])
    assert asked.exit_code == 1
    assert "what is the interface of uplink DSL called? --interface uplink/ostvik-dsl=…" in asked.stderr
    names = ["--interface", "uplink/ostvik-dsl=ppp0", "--interface", "tunnel/harbour-ostvik=t0"]
    assert run(app, ["linux-plan", str(file), "ostvik-gateway", *names]).exit_code == 0
    assert run(app, ["linux-plan", str(file), "ostvik-gateway", "--interface", "ppp0"]).exit_code == 2
    assert run(app, ["linux-plan", str(file), "nobody"]).exit_code == 2
