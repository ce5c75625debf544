"""What hangs on an exit: the address that the outside sees, what holds or leaks, ports that meet, and access from inside."""

from __future__ import annotations

import json
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, parse_address, parse_prefix
from pontifex.core.catalogue import Code
from pontifex.core.design_file import write_design_file
from pontifex.core.exits.order import exit_order
from pontifex.core.exits.outside import OutsideFate, outside_of
from pontifex.core.exits.workloads import ExitTable, Hanging, SeenVerdict, exit_table
from pontifex.core.findings.check import findings
from pontifex.core.kinds import Host, HostClass, Member, MemberType, ObjectType, OnFailure, Outranking, Path, PathType, PrefixList
from pontifex.core.model import Design, Remove, apply_operations, put
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.all_flows.matrix import Reach
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.support.remedies import remedies

DEMO = demo_design()
EXIT = DEMO.exits[0]
RULE = next(rule for rule in DEMO.rules if rule.id == "dock-containers-exit")
BASALT = Address(*parse_address("192.0.2.130"))


def _table(design: Design) -> ExitTable:
    return exit_table(Tables(design), design.exits[0])


def _codes(design: Design) -> list[Code]:
    return [finding.code for finding in findings(design, TODAY) if finding.code.value.startswith(("exit.", "policy.list"))]


def test_the_exit_of_the_demo():
    """Three containers leave by Basalt, leak when the tunnel is down, and one of them was seen as somebody else."""
    table = _table(DEMO)
    assert [(workload.name, workload.how, workload.outside.address) for workload in table.workloads] == [
        (name, Hanging.SHARES, BASALT) for name in ("crane planner", "paint stock", "tide log")
    ]
    assert {workload.when_down.fate for workload in table.workloads} == {OutsideFate.LEAKS}
    assert {workload.restarting for workload in table.workloads} == {OutsideFate.LOST}  # they have no network meanwhile
    assert [workload.verdict for workload in table.workloads] == [
        SeenVerdict.NOT_SEEN,
        SeenVerdict.NOT_SEEN,
        SeenVerdict.OTHERWISE,
    ]
    assert {(str(entry.at), entry.reach) for entry in table.access} == {("172.23.0.2", Reach.REACHES)}
    assert _codes(DEMO) == [Code.EXIT_NOT_TAKEN]


def test_what_is_held_does_not_leak():
    """The rule holds: with the tunnel down nothing leaves; without the rule all of it leaves by the yard's own line."""
    held = apply_operations(DEMO, [put(RULE.changed(on_failure=OnFailure.HOLD))])
    assert {workload.when_down.fate for workload in _table(held).workloads} == {OutsideFate.HELD}
    open_ = apply_operations(DEMO, [Remove(type=ObjectType.RULE, id=RULE.id)])
    assert {(workload.outside.fate, workload.outside.uplink_id) for workload in _table(open_).workloads} == {
        (OutsideFate.LEAKS, "dock-yard-line")
    }


def test_a_second_exit_is_the_fall_back():
    """With two tunnels in the rule, the second one's address follows the first one's, and then what is left."""
    first = DEMO.tunnel_by_id["dock-exit"]
    second = first.with_valid(
        {
            "id": "dock-second",
            "name": "Dry Dock second exit",
            "right": first.right.changed(gateway_id="harbour-gateway", uplink_id="harbour-fibre"),
        }
    )
    paths = (*RULE.paths, Path(type=PathType.TUNNEL, id="dock-second"))
    design = apply_operations(DEMO, [put(second), put(RULE.changed(paths=paths, on_failure=OnFailure.HOLD))])
    (one, *_) = _table(design).workloads
    assert [str(outside.address) for outside in (one.outside, *one.fallbacks)] == ["192.0.2.130", "198.51.100.10", "None"]
    assert one.when_down.fate is OutsideFate.HELD


def test_a_workload_that_is_routed_goes_on_by_itself():
    """One that doesn't share the network has its own address and ports, and stops only with the tunnel."""
    alone = EXIT.changed(shared_by=EXIT.shared_by[:1])
    table = _table(apply_operations(DEMO, [put(alone)]))
    assert [(workload.name, workload.how) for workload in table.workloads] == [
        ("crane planner", Hanging.SHARES),
        ("paint stock", Hanging.ROUTED),
        ("tide log", Hanging.ROUTED),
    ]
    assert [str(entry.at) for entry in table.access] == ["172.23.0.2", "172.23.0.11", "172.23.0.12"]
    assert exit_order(DEMO, alone, table).restarting.endswith("paint stock, tide log go on by themselves once it is back")


@given(st.lists(st.integers(16, 250), min_size=1, max_size=12, unique=True), st.integers(25, 30), st.integers(0, 7))
def test_each_workload_leaves_as_it_would_by_itself(values, length, block):
    """However a rule cuts up the network: what is traced once for many is what each by itself would give."""
    containers = DEMO.network_by_id["dock-containers"].prefix
    size = 1 << (32 - length)
    cut = parse_prefix(f"172.23.0.{block * size % 256}/{length}")
    beside = RULE.changed(
        id="beside",
        name="beside",
        position=5,
        source_members=(),
        sources=(cut,),
        paths=(Path(type=PathType.UPLINK, id="dock-yard-line"),),
    )
    hosts = tuple(
        Host(
            id=f"c{value}",
            name=f"c{value}",
            network_id="dock-containers",
            address=Address(containers.family, containers.network + value),
            host_class=HostClass.CONTAINER,
        )
        for value in values
    )
    design = DEMO.changed(rules=(*DEMO.rules, beside), hosts=(*DEMO.hosts, *hosts))
    tables = Tables(design)
    found = {workload.host_id: workload.outside for workload in exit_table(tables, EXIT).workloads}
    for host in hosts:
        alone = outside_of(tables, Conditions(), host.address, design.network_by_id["dock-containers"])
        assert (found[host.id].fate, found[host.id].uplink_id) == (alone.fate, alone.uplink_id)
        assert (alone.uplink_id == "dock-yard-line") == cut.holds(host.address)


def test_answers_to_the_inside_that_go_into_the_tunnel_are_told():
    """Once the rule is asked before the yard's own network, ports are published and never answered from there."""
    gateway = DEMO.gateway_by_id["dock-gateway"]
    cut = apply_operations(DEMO, [put(gateway.changed(outranking=Outranking.NOTHING))])
    assert {entry.reach for entry in _table(cut).access} == {Reach.ONE_WAY}
    told = [finding for finding in findings(cut, TODAY) if finding.code is Code.EXIT_ACCESS_CUT]
    assert [finding.where[0].id for finding in told] == [
        "dock-crane-planner",
        "dock-paint-stock",
        "dock-tide-log",
    ]  # each by itself
    assert "port 8090 of tide log at 172.23.0.2 isn't reached" in str(told[-1].why)


def test_ports_that_meet_at_the_exit_are_told_and_mended():
    """A host of another network that shares the exit's brings its port along."""
    rota = DEMO.host_by_id["harbour-rota"]
    joined = EXIT.changed(shared_by=(*EXIT.shared_by, Member(type=MemberType.HOST, id=rota.id)))
    design = apply_operations(DEMO, [put(joined), put(rota.changed(ports=(8090,)))])
    (told,) = [finding for finding in findings(design, TODAY) if finding.code is Code.EXIT_PORT_TWICE]
    assert "both publish port 8090" in str(told.why)
    assert Code.EXIT_PORT_TWICE not in _codes(apply_operations(design, remedies(design, told)[0].operations))


def test_the_order_of_attaching():
    """A port is taken off before the exit publishes it; then each is attached, and asked what the outside sees."""
    order = exit_order(DEMO, EXIT, _table(DEMO))
    assert order.starts == ("exit box", "crane planner", "paint stock", "tide log")
    what = [step.what for step in order.attaching]
    published = what.index("Publish 8080, 8090 at exit box, and start exit box anew")
    assert what.index("Take port 8080 off crane planner") < published
    assert what.index("Take port 8090 off tide log") < published
    attached = what.index("Attach tide log to the network of exit box, and start it after exit box")
    assert published < attached < what.index("Ask from within tide log which address the outside sees")
    assert order.attaching[-1].what == "Open 8080, 8090 of exit box from 10.72.0.0/24"


@pytest.mark.parametrize(("days", "told"), [(0, []), (89, []), (120, [Code.POLICY_LIST_OLD]), (None, [Code.POLICY_LIST_OLD])])
def test_a_list_of_prefixes_leads_where_the_rule_says_and_grows_old(days, told):
    """What the list names goes by the yard's own line, all else by the exit; a list of long ago is told."""
    as_of = None if days is None else TODAY - timedelta(days=days)
    region = PrefixList(id="pilots", name="Pilots' region", prefixes=(parse_prefix("203.0.113.64/26"),), as_of=as_of)
    beside = RULE.changed(
        id="pilots-direct",
        name="pilots directly",
        position=5,
        destination_members=(Member(type=MemberType.PREFIX_LIST, id="pilots"),),
        paths=(Path(type=PathType.UPLINK, id="dock-yard-line"),),
    )
    design = apply_operations(DEMO, [put(region), put(beside)])
    source = Address(*parse_address("172.23.0.10"))

    def leaves_by(text: str) -> str | None:
        way = trace(Tables(design), Flow(source, Address(*parse_address(text))), Conditions()).forward
        return way.hops[-1].uplink_id

    assert (leaves_by("203.0.113.70"), leaves_by("203.0.113.1")) == ("dock-yard-line", "basalt-front-door")
    assert [code for code in _codes(design) if code is Code.POLICY_LIST_OLD] == told


def test_exits_on_the_command_line(tmp_path):
    """Workload, outside address, held or leaking; what leaks or was seen otherwise ends with 1."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(DEMO))
    found = CliRunner().invoke(app, ["exit", str(file), "--json"])
    assert found.exit_code == 1
    (table,) = json.loads(found.output)["exits"]
    assert [
        (workload["name"], workload["outside"]["address"], workload["fallbacks"][-1]["fate"]) for workload in table["workloads"]
    ] == [(name, "192.0.2.130", "leaks") for name in ("crane planner", "paint stock", "tide log")]
    tide_log = DEMO.host_by_id["dock-tide-log"]
    sound = apply_operations(DEMO, [put(RULE.changed(on_failure=OnFailure.HOLD)), put(tide_log.changed(seen_outside=BASALT))])
    file.write_text(write_design_file(sound))
    held = CliRunner().invoke(app, ["exit", str(file)])
    assert held.exit_code == 0
    assert "tide log (shares): leaves by the exit as 192.0.2.130; when down: held, seen as 192.0.2.130: as" in held.output


def test_a_list_that_no_rule_names_is_not_told():
    """Not even where a site of the same id is named: ids are unique within a type."""
    site = DEMO.site_by_id["basalt"]
    undated = PrefixList(id=site.id, name="Northern region", prefixes=(parse_prefix("203.0.113.64/26"),))
    to_site = RULE.changed(id="to-site", name="to site", destination_members=(Member(type=MemberType.SITE, id=site.id),))
    assert Code.POLICY_LIST_OLD not in _codes(apply_operations(DEMO, [put(undated), put(to_site)]))
