"""Readings of devices: three values of each setting, a verdict, and what mends it either way."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.design_file import write_design_file
from pontifex.core.handover.plan import change_plan
from pontifex.core.handover.readings import DriftVerdict, Reading, UnreadableReading, as_running, drift, intended, read_reading
from pontifex.core.handover.readings.drift import verdict_of
from pontifex.core.model import Design, apply_operations
from pontifex.demo import demo_design
from tests.support.designs import TODAY
from tests.support.revisions import REVISIONS

DEMO = demo_design()
GATEWAY = "harbour-gateway"
WANTED = {setting.path: setting.text for setting in intended(DEMO, GATEWAY)}
CHECKS = "tunnel/harbour-ostvik/left/dead_peer_s"


def _reading(running: dict[str, Any], after_restart: dict[str, Any] | None = None, **more: Any) -> Reading:
    fields = {"gateway_id": GATEWAY, "taken_at": "2026-11-27T02:00:00Z", "source": "sheet", "running": running}
    return Reading.model_validate({**fields, "after_restart": after_restart, **more})


def _verdicts(reading: Reading | None) -> dict[str, DriftVerdict]:
    return {line.path: line.verdict for line in drift(DEMO, GATEWAY, reading).lines}


@pytest.mark.parametrize(
    ("intends", "runs", "stays", "verdict"),
    [
        ("a", "a", "a", "as-intended"),
        ("a", "a", "b", "not-saved"),
        ("a", "a", "—", "not-saved"),
        ("a", "b", "a", "not-applied"),
        ("a", "—", "a", "not-applied"),
        ("a", "b", "b", "differs"),
        ("a", "—", "—", "not-entered"),
        ("—", "a", "a", "more"),
        ("—", "a", "—", "more"),
        ("a", "", "", "not-read"),
        ("a", "a", "", "as-intended"),
    ],
)
def test_three_values_have_one_verdict(intends, runs, stays, verdict):
    """The table of the three states: a dash for nothing there, and nothing for not read."""
    assert verdict_of(intends, runs, stays) is DriftVerdict(verdict)


@given(st.sampled_from(sorted(WANTED)), st.sampled_from(["", "other", "gone"]), st.sampled_from(["", "other", "gone"]))
def test_one_setting_that_is_otherwise_is_the_only_drift(path, runs, stays):
    """A reading of all that is intended has no drift; with one value changed, that value alone is named."""
    running, kept = dict(WANTED), dict(WANTED)
    for values, change in ((running, runs), (kept, stays)):
        if change == "other":
            values[path] = "something else"
        elif change == "gone":
            del values[path]
    found = _verdicts(_reading(running, kept))
    assert {candidate for candidate, verdict in found.items() if verdict is not DriftVerdict.AS_INTENDED} == (
        {path} if runs or stays else set()
    )


def test_values_may_come_as_a_design_file_has_them():
    """A number, a list and a word are the same as what the design writes, and so is its own form of text."""
    end = DEMO.tunnel_by_id["harbour-ostvik"].left
    raw = json.loads(end.model_dump_json())
    running = {path: raw[path.rsplit("/", 1)[1]] if "/harbour-ostvik/left/" in path else text for path, text in WANTED.items()}
    assert running[CHECKS] == 30
    assert set(_verdicts(_reading(running, running)).values()) == {DriftVerdict.AS_INTENDED}


def test_a_drift_is_mended_either_way():
    """What differs is entered at the device, or taken over into the design, which then intends it."""
    found = drift(DEMO, GATEWAY, _reading({**WANTED, CHECKS: 45}))
    line = found.lines[0]
    assert (found.count, line.path, line.verdict) == (1, CHECKS, DriftVerdict.DIFFERS)
    assert line.step.startswith("Enter 30 at Harbour firewall pair")
    assert line.take_over
    taken = apply_operations(DEMO, line.take_over.operations)
    assert drift(taken, GATEWAY, _reading({**WANTED, CHECKS: 45})).count == 0


def test_what_was_not_read_is_not_missing():
    """A part of a device says nothing of the rest; without any reading nothing is known."""
    part = _verdicts(_reading({CHECKS: 30}, complete=False))
    assert part.pop(CHECKS) is DriftVerdict.AS_INTENDED
    assert set(part.values()) == set(_verdicts(None).values()) == {DriftVerdict.NOT_READ}


def _with_value(value: str) -> str:
    """Return a reading with one value, as JSON."""
    head = '{"gateway_id": "harbour-gateway", "taken_at": "2026-11-27T02:00:00Z", "source": "s", '
    return f'{head}"running": {{"gateway/harbour-gateway/x": {value}}}}}'


@pytest.mark.parametrize(
    "text",
    [
        "",
        "{",
        "[]",
        '{"gateway_id": "x"}',
        '{"gateway_id": "harbour-gateway", "taken_at": "yesterday", "source": "s"}',
        '{"gateway_id": "harbour-gateway", "taken_at": "2026-11-27T02:00:00Z", "source": "s", "running": {"a": 1}}',
        "[" * 100_000,
        _with_value("[" * 450 + "]" * 450),
        _with_value("[" * 9 + "]" * 9),
        _with_value("9" * 6000),
        _with_value("9" * 30),
        _with_value("1e999"),
        _with_value('"\\u0000"'),
        _with_value('"\\ud800"'),
        _with_value('{"\\u0000": 1}'),
    ],
)
def test_a_reading_that_is_cut_off_is_refused(text):
    """The message says where it is wrong; nothing is taken of it."""
    with pytest.raises(UnreadableReading) as caught:
        read_reading(text)
    assert str(caught.value)


def test_the_command_tells_pipelines(tmp_path):
    """Exit 0 as intended, 1 for a drift, 2 for a reading of another design or none."""
    design, sound, off, other = (tmp_path / name for name in ("d.json", "sound.json", "off.json", "other.json"))
    design.write_text(write_design_file(DEMO))
    sound.write_text(_reading(WANTED, WANTED).model_dump_json())
    off.write_text(_reading(WANTED, {**WANTED, CHECKS: 45}).model_dump_json())
    other.write_text(_reading({}, gateway_id="elsewhere").model_dump_json())
    run = CliRunner().invoke
    assert run(app, ["drift", str(design), str(sound)]).exit_code == 0
    found = run(app, ["drift", str(design), str(sound), str(off), "--json"])
    assert (found.exit_code, [load["count"] for load in json.loads(found.stdout)]) == (1, [0, 1])
    assert "entered, not saved" in run(app, ["drift", str(design), str(off)]).stdout
    assert run(app, ["drift", str(design), str(other)]).exit_code == 2
    assert run(app, ["drift", str(design), str(tmp_path / "none.json")]).exit_code == 2


def test_a_plan_begins_from_what_a_device_runs(tmp_path):
    """What differs at the device is what a plan enters there, and nothing else; what can't be taken over is left as intended."""
    running = {**WANTED, CHECKS: 45, "gateway/harbour-gateway/route/10.99.0.0/24": "by elsewhere"}
    now = as_running(DEMO, [_reading(running)])
    assert now.tunnel_by_id["harbour-ostvik"].left.dead_peer_s == 45
    assert as_running(now, []) == now
    plan = change_plan(now, DEMO, TODAY)
    assert [(step.device.id, [value.text for value in step.values]) for step in plan.steps] == [
        ("harbour-gateway", ["Dead-peer check, s: 45 → 30"]),
        ("harbour-gateway", []),
    ]
    design, read = tmp_path / "d.json", tmp_path / "r.json"
    design.write_text(write_design_file(DEMO))
    read.write_text(_reading(running).model_dump_json())
    told = CliRunner().invoke(app, ["plan", str(design), "--reading", str(read)])
    assert (told.exit_code, "Dead-peer check, s: 45 → 30" in told.stdout) == (0, True)
    assert CliRunner().invoke(app, ["plan", str(design)]).exit_code == 2


@settings(max_examples=20)
@given(REVISIONS)
def test_what_devices_run_is_taken_over(revisions):
    """Whatever another revision intends, read at the devices in these words, is what the design then intends.

    Keys are known by their fingerprints alone, the design may know nothing of a tunnel, and rules are worded.
    """
    design, other = revisions.before, revisions.after
    readings = [_whole(other, gateway.id) for gateway in other.gateways if gateway.id in design.gateway_by_id]
    taken = as_running(design, readings)
    unknown = {tunnel.name for tunnel in other.tunnels} - {tunnel.name for tunnel in design.tunnels}
    for reading in readings:
        for line in drift(taken, reading.gateway_id, reading).lines:
            kind, id_, *rest = line.path.split("/")
            is_read = kind == "tunnel" and id_ in design.tunnel_by_id and rest[-1] != "key"
            if (is_read and id_ in other.tunnel_by_id) or rest[0] in ("route", "forwarding", "service_on"):
                is_known = not any(name in line.running for name in unknown)
                assert not is_known or line.verdict is DriftVerdict.AS_INTENDED, line


def _whole(design: Design, gateway_id: str) -> Reading:
    running = {setting.path: setting.text for setting in intended(design, gateway_id)}
    return Reading(gateway_id=gateway_id, taken_at=datetime.now(UTC), source="test", running=running, after_restart=running)


def test_routes_of_a_device_are_taken_over():
    """Other ways, another metric, none at all, a prefix more: the design then intends what runs; a name unknown is left."""
    gateway, head = "basalt-gateway", "gateway/basalt-gateway/route"
    reading = _whole(DEMO, gateway)
    more = {
        f"{head}/10.66.0.0/24": "by tunnel Brenna–Basalt radio metric 5",
        f"{head}/10.97.0.0/16": "by 10.80.0.9; by uplink front door metric 7",
    }
    running = {**reading.running, **more}
    del running[f"{head}/10.81.0.0/20"]
    read = reading.changed(running=running, after_restart=running)
    taken = as_running(DEMO, [read])
    assert drift(taken, gateway, read).count == 0
    odd = {**reading.running, f"{head}/10.97.0.0/16": "by tunnel Nowhere"}
    assert as_running(DEMO, [reading.changed(running=odd, after_restart=odd)]) == DEMO
