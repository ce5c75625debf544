"""A Linux machine over SSH as the product reaches it: read, entered, saved, and tried, with the database and the vault."""

from __future__ import annotations

import pytest

from pontifex.core.handover import linux_plan
from pontifex.core.handover.readings import DriftVerdict, Reading, drift
from pontifex.core.kinds import Route
from pontifex.core.model import put
from pontifex.core.routing import Tables
from pontifex.demo import DEMO_ID, load_demo
from pontifex.services.devices import DeviceAct
from pontifex.services.runs import ProbePhase
from pontifex.store.hand_over import HandOverRecords
from tests.support.ssh_server import linux_machine

DOCK = "dock-gateway"
ROUTE = f"gateway/{DOCK}/route/10.80.0.0/20"


@pytest.fixture
def design(designs, keys):
    """The demo, with a route of its Linux machine into the tunnel."""
    load_demo(designs, keys)
    fields = {"id": "dock-to-booking", "gateway_id": DOCK, "prefix": "10.80.0.0/20", "tunnel_id": "dock-exit"}
    designs.change(designs.standing(DEMO_ID), [put(Route.model_validate(fields))], "A route", "engineer")
    return designs.get(DEMO_ID)


@pytest.fixture
def machine(tmp_path):
    tmp_path.chmod(0o755)
    with linux_machine(tmp_path, ("exit0", "enp1s0", "enp2s0", "br-yard")) as found:
        found.run("ip address add 10.72.0.1/24 dev enp1s0")
        yield found


def _verdicts(engine, design):
    reading = Reading.model_validate(HandOverRecords(engine).reading(DEMO_ID, DOCK))
    return {line.path: line.verdict for line in drift(design, DOCK, reading).lines}


def test_a_linux_machine_is_brought_to_what_is_intended(engine, records, design, machine):
    """Its route and its forwarding aren't entered; entered from here they run; saved, a restart would keep them."""
    devices = records.devices
    devices.keep_access(design, DOCK, machine.access, "engineer")

    devices.act(design, DOCK, DeviceAct.READING, "engineer")
    before = _verdicts(engine, design)
    assert (before[ROUTE], before[f"gateway/{DOCK}/forwarding"]) == (DriftVerdict.NOT_ENTERED, DriftVerdict.DIFFERS)
    assert before["tunnel/dock-exit/left/data_ciphers"] is DriftVerdict.NOT_READ
    entered = devices.enter(design, DOCK, [ROUTE, f"gateway/{DOCK}/forwarding"], "engineer")
    assert entered.missed == ()
    assert _verdicts(engine, design)[ROUTE] is DriftVerdict.NOT_SAVED
    devices.act(design, DOCK, DeviceAct.SAVING, "engineer")
    after = _verdicts(engine, design)
    assert {after[ROUTE], after[f"gateway/{DOCK}/forwarding"]} == {DriftVerdict.AS_INTENDED}
    assert "10.80.0.0/20 dev exit0" in machine.run("ip route")


def test_a_pair_is_tried_from_its_gateway(engine, records, design, machine):
    """What `ping` has printed there is kept with the run, and held against the trace."""
    records.devices.keep_access(design, DOCK, machine.access, "engineer")
    pair = {"tries": "ping 10.72.0.1 from 10.72.0.10", "before": False, "after": None}
    nothing: dict[str, list[object]] = {"steps": [], "at_first": [], "outages": []}
    plan = {**nothing, "is_least": True, "no_return": None, "kept_tunnels": 0, "kept_pairs": 0, "pairs": [pair]}
    run_id = HandOverRecords(engine).start_run(DEMO_ID, "A plan", "0", 1, plan, "engineer")
    run = records.devices.try_pair(design, run_id, pair["tries"], ProbePhase.BEFORE, "engineer")
    (seen,) = run.seen
    assert (seen.answered, seen.contradicts, "packets transmitted" in seen.text) == (True, True, True)


def test_rules_of_a_linux_machine_are_read_back(engine, records, design, machine):
    """Not there, as the commands of the design enter them, and otherwise once somebody has taken one out."""
    records.devices.keep_access(design, DOCK, machine.access, "engineer")
    path = f"gateway/{DOCK}/rule/dock-containers-exit"
    plan = linux_plan(Tables(design), DOCK)
    verdicts = []
    for command in ("true", "\n".join(["set -eu", *plan.apply]), "ip rule del pref 1003"):
        machine.run(command)
        records.devices.act(design, DOCK, DeviceAct.READING, "engineer")
        verdicts.append(_verdicts(engine, design)[path])
    assert verdicts == [DriftVerdict.NOT_ENTERED, DriftVerdict.AS_INTENDED, DriftVerdict.DIFFERS]
