"""Rehearsals of whole tunnels: the demo's, one end's own view, NAT, sizes, certificates, and what a person is told."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.certificates import Certificate
from pontifex.core.design_file import write_design_file
from pontifex.core.kinds import NatTraversal, Side
from pontifex.core.matching import Stage
from pontifex.core.model import Design
from pontifex.core.rehearsal import NotRehearsed, Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.events import Carried, MarkKind
from pontifex.core.rehearsal.own_end import own_end
from pontifex.core.rehearsal.probes import PACKETS, ProbeKind
from pontifex.demo import demo_design
from tests.rehearsal.designs import certified
from tests.support.certificates import OTHER_ROOT, ROOT
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, PairData, design_of

# each planted fault of the demo: where it bites, and the error that is seen on the wire there
DEMO: dict[str, tuple[Stage | None, str]] = {
    "harbour-ostvik": (None, ""),
    "harbour-brenna": (Stage.AUTH, "AUTHENTICATION_FAILED"),
    "harbour-corvina": (Stage.AUTH, "AUTHENTICATION_FAILED"),
    "harbour-tarn": (Stage.INIT, "NO_PROPOSAL_CHOSEN"),
    "harbour-basalt": (Stage.REKEY, "NO_PROPOSAL_CHOSEN"),
    "harbour-aurelia": (Stage.REACH, ""),
    "basalt-gneiss": (Stage.REACH, ""),
    "brenna-basalt-cable": (None, ""),
    "brenna-basalt-radio": (None, ""),
}


def _dialled(design: Design, **more: Any) -> Rehearsal:
    found = rehearse(design, design.tunnels[0], TODAY, RehearsalConditions(**more))
    assert isinstance(found, Rehearsal)
    return found


def _pair(left: dict[str, Any], right: dict[str, Any]) -> PairData:
    return PairData(replace(AGREED.left, **left), replace(AGREED.right, **right))


@pytest.mark.parametrize("name", DEMO)
def test_each_tunnel_of_the_demo_ends_where_the_forecast_says(name):
    """Each planted fault is seen at the message where it bites."""
    stage, error = DEMO[name]
    found = rehearse(demo_design(), demo_design().tunnel_by_id[name], TODAY)
    assert isinstance(found, Rehearsal)
    assert (found.outcome.stopped_at, found.outcome.agrees) == (stage, True)
    told = [event.notify for event in found.messages if event.notify]
    assert (told[0] if told else "") == error
    if stage is None:
        assert not any(pair.before.passes for pair in found.probes)
        passing = {kind: {pair.after.passes for pair in found.probes if pair.after.kind is kind} for kind in PACKETS}
        assert passing == {ProbeKind.ACROSS: {True}, ProbeKind.LARGEST: {True}, ProbeKind.TOO_LARGE: {False}}
        assert all(pair.after.passes is pair.expected for pair in found.probes)


def test_what_can_not_be_rehearsed_says_why():
    """Other technologies and what isn't known are named."""
    demo = demo_design()
    planned = rehearse(demo, demo.tunnel_by_id["aurelia-corvina"], TODAY)
    assert isinstance(planned, NotRehearsed)
    assert any("proposals" in reason for reason in planned.reasons)


@given(st.sampled_from(["ike", "child", "local", "remote", "key", "remote_id", "ike_lifetime_s"]), st.data())
def test_a_device_knows_its_own_end_alone(field, data):
    """Changing the other end's values changes nothing in what a device has."""
    values: dict[str, list[Any]] = {
        "key": ["another key 77"],
        "remote_id": [("any", "")],
        "ike_lifetime_s": [900],
        "ike": [()],
        "child": [()],
    }
    value = data.draw(st.sampled_from(values.get(field, [AGREED.right.local, ()])))
    own = []
    for pair in (AGREED, _pair({}, {field: value})):
        design = design_of(pair)
        own.append(own_end(design, design.tunnels[0].left, (), _today, b"seed"))
    assert own[0] == own[1]


def _today(now: float) -> Any:
    return TODAY


def test_the_same_seed_gives_the_same_course():
    """A rehearsal can be repeated octet by octet; another seed gives other octets and the same outcome."""
    design = design_of(AGREED)
    first, again, other = (_dialled(design, seed=seed) for seed in (7, 7, 8))
    assert [sent.packet.octets() for sent in first.sent] == [sent.packet.octets() for sent in again.sent]
    assert first.sent[0].packet.octets() != other.sent[0].packet.octets()
    assert first.outcome == other.outcome


def test_a_nat_is_seen_and_floated_to_port_4500():
    """Behind a NAT both go on at port 4500, ESP goes in UDP, and keep-alives keep the NAT's memory fresh."""
    hidden = _pair({"address_kind": "behind-nat", "udp_arrives": False, "keepalive_s": 20}, {"role": "wait"})
    found = _dialled(design_of(hidden))
    assert found.outcome.up
    by_name = {event.exchange: event for event in found.messages if event.exchange}
    assert by_name["IKE_SA_INIT"].destination.endswith((":500", ":61000"))
    assert by_name["IKE_AUTH"].destination.endswith(":4500")
    assert any(event.translated for event in found.messages)
    assert {Carried.ESP, Carried.KEEPALIVE} <= {event.carries for event in found.messages}
    assert all(":4500" in event.source + event.destination for event in found.messages if event.carries is Carried.ESP)


def test_a_restart_and_a_rekey_stand_on_the_time_axis():
    """Marks in the order of time: dial, up, rekey, and each gateway's restart."""
    marks = _dialled(design_of(AGREED)).marks
    assert [mark.at_s for mark in marks] == sorted(mark.at_s for mark in marks)
    kinds = [mark.kind for mark in marks]
    assert kinds.index(MarkKind.DIAL) < kinds.index(MarkKind.UP) < kinds.index(MarkKind.REKEY) < kinds.index(MarkKind.RESTART)
    assert {mark.side for mark in marks if mark.kind is MarkKind.RESTART} == set(Side)


@pytest.mark.parametrize(("anchors", "stage"), [((ROOT,), None), ((OTHER_ROOT,), Stage.AUTH)])
def test_certificates_are_mirrored_with_their_chain(anchors: tuple[Certificate, ...], stage: Stage | None):
    """A mirrored chain leads to the mirrored anchor that the other end trusts, and to no other."""
    found = _dialled(certified(trust_anchors=anchors))
    assert (found.outcome.stopped_at, found.outcome.agrees) == (stage, True)
    assert any(line.name == "CERT" for event in found.messages for line in event.payloads)


def test_an_answer_that_is_lost_is_not_the_end():
    """With a fifth of the packets lost the tunnel comes up all the same, by what is sent again."""
    design = design_of(AGREED)
    lossy = tuple(uplink.changed(loss_percent=10.0) for uplink in design.uplinks)
    found = _dialled(design.changed(uplinks=lossy))
    assert any(mark.kind is MarkKind.UP for mark in found.marks)
    assert any(event.dropped == "lost on the way" for event in found.messages)


def test_the_command_tells_pipelines(tmp_path):
    """Exit 0 for a tunnel that comes up, 1 for one that doesn't, 2 for what can't be read; keys and capture are written."""
    file, capture, keys = tmp_path / "line.json", tmp_path / "out.pcapng", tmp_path / "keys.json"
    file.write_text(write_design_file(demo_design()))
    run = CliRunner().invoke
    good = run(app, ["rehearse", str(file), "harbour-ostvik", "--pcap", str(capture), "--keys", str(keys), "--json"])
    answer = json.loads(good.stdout)
    assert (good.exit_code, answer["up"], answer["agrees"], answer["stopped_at"]) == (0, True, True, None)
    assert answer["events"][0]["exchange"] == "IKE_SA_INIT"
    assert [probe["after"]["passes"] for probe in answer["probes"]] == [probe["expected"] for probe in answer["probes"]]
    assert capture.read_bytes()[:4] == bytes.fromhex("0a0d0d0a")
    assert json.loads(keys.read_text())["ike"]
    bad = run(app, ["rehearse", str(file), "Harbour–Tarn"])
    assert bad.exit_code == 1
    assert "Stopped at Init" in bad.stdout
    assert run(app, ["rehearse", str(file), "nowhere"]).exit_code == 2
    every = json.loads(run(app, ["rehearse", str(file), "--all", "--json"]).stdout)
    assert len(every) == len(demo_design().tunnels)
    assert all(answer.get("agrees", True) for answer in every)


_TRAVERSALS = [None, NatTraversal.AS_NEEDED, NatTraversal.ALWAYS, NatTraversal.OFF]


@pytest.mark.parametrize("near", _TRAVERSALS)
@pytest.mark.parametrize("far", _TRAVERSALS)
@pytest.mark.parametrize("hidden", [False, True])
@pytest.mark.parametrize("esp_passes", [False, True])
def test_whether_esp_passes_is_forecast(near, far, hidden, esp_passes):
    """NAT traversal of both ends, a NAT or none, and whether ESP itself passes: it carries traffic where the forecast says so."""
    design = design_of(_pair({"address_kind": "behind-nat"} if hidden else {}, {"role": "wait"}))
    (tunnel,) = design.tunnels
    changed = tunnel.with_end(Side.LEFT, nat_traversal=near).with_end(Side.RIGHT, nat_traversal=far)
    uplinks = tuple(uplink.changed(esp_passes=esp_passes or uplink.id == "right") for uplink in design.uplinks)
    found = _dialled(design.changed(tunnels=(changed,), uplinks=uplinks), until_s=None)
    in_udp = NatTraversal.OFF not in (near, far) and (hidden or NatTraversal.ALWAYS in (near, far))
    assert found.outcome.agrees
    assert found.outcome.stopped_at is (None if in_udp or (esp_passes and not hidden) else Stage.TRAFFIC)
    assert found.outcome.up or "ESP" in found.outcome.why
