"""What the outside sees of what hangs on an exit, by rehearsal: before its tunnel stands, after it, and in a restart."""

from __future__ import annotations

import json

import pytest
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.addressing import Address, Family, Prefix, Selector, parse_prefix
from pontifex.core.design_file import write_design_file
from pontifex.core.exits.outside import OutsideFate
from pontifex.core.kinds import OnFailure
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.rehearsal.exit_seen import ExitRehearsal, RehearsedWorkload, rehearse_exit
from pontifex.core.routing import Tables
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.support.exits import exit_by_ike

DEMO = demo_design()
RULE = next(rule for rule in DEMO.rules if rule.id == "dock-containers-exit")


def _seen(design: Design) -> list[RehearsedWorkload]:
    found: ExitRehearsal = rehearse_exit(Tables(design), design.exits[0], TODAY)
    return list(found.workloads)


@pytest.mark.parametrize("design", [exit_by_ike(), DEMO], ids=["by IKE", "over TLS"])
def test_the_address_changes_with_the_tunnel(design):
    """Before, the yard's own line is seen; with the tunnel up, Basalt's address; who shares a network has none in a restart."""
    workloads = _seen(design)
    assert [workload.name for workload in workloads] == ["crane planner", "paint stock", "tide log"]
    for candidate in workloads:
        assert candidate.agrees
        assert candidate.before
        assert candidate.after
        assert candidate.restarting
        assert (candidate.before.fate, candidate.before.uplink_id) == (OutsideFate.LEAKS, "dock-yard-line")
        assert (candidate.after.fate, str(candidate.after.address)) == (OutsideFate.LEAVES_BY_EXIT, "192.0.2.130")
        assert candidate.after.text.startswith("answered after")
        assert candidate.restarting.fate is OutsideFate.LOST


def test_what_is_held_is_not_seen_before():
    """A rule that holds: nothing is seen until the tunnel stands."""
    held = apply_operations(exit_by_ike(), [put(RULE.changed(on_failure=OnFailure.HOLD))])
    (first, *_) = _seen(held)
    assert first.agrees
    assert first.before
    assert (first.before.fate, first.before.address) == (OutsideFate.HELD, None)


def test_a_tunnel_that_does_not_come_up_shows_what_is_seen_without_it():
    """The yard's line lets TCP alone out: the outside goes on seeing it, which isn't what is foreseen with everything up."""
    (first, *_) = _seen(apply_operations(exit_by_ike(), [put(DEMO.uplink_by_id["dock-yard-line"])]))
    assert not first.agrees
    assert first.after
    assert first.after.uplink_id == "dock-yard-line"
    assert first.after.text == "the tunnel doesn't come up: a packet didn't arrive: only TCP 443 leaves here"


def test_what_is_routed_leaks_while_the_gateway_restarts_and_comes_back():
    """A workload with a network of its own falls through at once, and is seen by the exit again once the call stands."""
    alone = apply_operations(exit_by_ike(), [put(DEMO.exits[0].changed(host_id=None, shared_by=()))])
    tide_log = next(candidate for candidate in _seen(alone) if candidate.name == "tide log")
    assert tide_log.after
    assert str(tide_log.after.address) == "192.0.2.130"
    assert tide_log.restarting
    assert (tide_log.restarting.fate, tide_log.restarting.uplink_id) == (OutsideFate.LEAKS, "dock-yard-line")
    assert tide_log.restarting.text.startswith("answered again after")


def test_what_is_beyond_the_first_workloads_is_counted():
    """Of very many that hang on an exit the first are tried by one call, and how many are left is told."""
    network = DEMO.network_by_id["dock-containers"]
    known = len(_seen(exit_by_ike()))
    host = DEMO.host_by_id["dock-tide-log"]
    addresses = [Address(Family.V4, network.prefix.network + 20 + k) for k in range(60)]
    more = [
        put(host.changed(id=f"w{k}", name=f"w{k}", address=address, seen_outside=None)) for k, address in enumerate(addresses)
    ]
    design = apply_operations(exit_by_ike(), more)
    found = rehearse_exit(Tables(design), design.exits[0], TODAY)
    assert (len(found.workloads), found.untried) == (50, known + 60 - 50)
    assert all(workload.agrees and workload.after for workload in found.workloads)


def test_networks_that_leave_the_outside_out_carry_nothing_there():
    """Where the ends' networks don't hold the outside, the packets are refused: as the trace foresees."""
    private: tuple[Prefix, ...] = (parse_prefix("10.0.0.0/8"),)
    (first, *_) = _seen(exit_by_ike(remote=tuple(map(Selector.of, private))))
    assert first.after
    assert first.after.fate is not OutsideFate.LEAVES_BY_EXIT
    assert first.agrees


@pytest.mark.parametrize("as_json", [True, False])
def test_the_command_rehearses(as_json: bool, tmp_path):
    """The command prints what was seen, by whatever the exit is dialled."""
    file = tmp_path / "design.json"
    file.write_text(write_design_file(exit_by_ike()))
    arguments = ["exit", str(file), "--rehearse", *(["--json"] if as_json else [])]
    result = CliRunner().invoke(app, arguments)
    assert result.exit_code == 0, result.output
    if as_json:
        (exit_,) = json.loads(result.output)["exits"]
        assert {workload["after"]["address"] for workload in exit_["workloads"]} == {"192.0.2.130"}
    else:
        assert "tide log: before leaks" in result.output
        assert "after 192.0.2.130 (answered after" in result.output
    file.write_text(write_design_file(DEMO))
    plain = CliRunner().invoke(app, arguments[:3])
    assert "after 192.0.2.130 (answered after" in plain.output
    assert plain.exit_code == 0
