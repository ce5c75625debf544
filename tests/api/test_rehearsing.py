"""Rehearsals through HTTP: what happens, what is let happen, the capture with its keys, and what is refused."""

from __future__ import annotations

import base64

import pytest

LINE = "/api/designs/skerry-line/tunnels"


def test_a_rehearsal_says_what_happens(client):
    """Each planted fault is told at the message where it bites, and the forecast said so."""
    found = client.get(f"{LINE}/harbour-tarn/rehearsal").json()
    assert (found["outcome"]["stopped_at"], found["outcome"]["forecast_stage"], found["agrees"]) == ("init", "init", True)
    errors = [
        candidate["message"]["notify"]
        for candidate in found["packets"]
        if candidate["message"] and candidate["message"]["notify"]
    ]
    assert errors[0] == "NO_PROPOSAL_CHOSEN"
    assert {line["side"] for line in found["logs"]} == {"left", "right"}
    across = [pair for pair in found["probes"] if pair["after"]["kind"] != "outside"]
    assert {(pair["before"]["passes"], pair["after"]["passes"], pair["expected"]) for pair in across} == {(False, False, False)}
    outside = {pair["after"]["sender"]: pair for pair in found["probes"] if pair["after"]["kind"] == "outside"}
    assert outside["left"]["after"]["answers"] == outside["left"]["foreseen"] == ["198.51.100.10"]


def test_routine_is_counted(client):
    """Hours of checks stand as one line each; the marks stand on the time axis."""
    found = client.get(f"{LINE}/harbour-ostvik/rehearsal").json()
    assert found["outcome"]["up"]
    assert found["lasted_s"] > 3600
    assert len(found["packets"]) < 200
    assert any("checks and answers" in packet["routine"] for packet in found["packets"])
    assert {"dial", "up", "rekey", "restart"} <= {mark["kind"] for mark in found["marks"]}


def test_a_fault_is_let_happen(client):
    """An uplink that is down for a while: how long nothing passed, and no verdict on the forecast."""
    query = {"fault": ["60s uplink-down left", "5m uplink-up left"], "until": "15m"}
    found = client.get(f"{LINE}/harbour-ostvik/rehearsal", params=query).json()
    assert found["outcome"]["why"].startswith("Nothing passed for")
    assert (found["outcome"]["up"], found["outcome"]["is_judged"], found["agrees"]) == (True, False, True)
    assert [mark["at_s"] for mark in found["marks"] if mark["kind"] == "fault"] == [60, 300]
    assert {choice["kind"] for choice in found["choices"]} >= {"uplink-down", "restart", "nat-forgets"}


def test_what_can_not_be_rehearsed_says_so(client):
    """What isn't known is no error: it says why, and shows nothing else."""
    found = client.get(f"{LINE}/aurelia-corvina/rehearsal").json()
    assert any("proposals" in reason for reason in found["not_rehearsed"])
    assert (found["outcome"], found["packets"]) == (None, [])


def test_the_capture_comes_with_its_keys(client):
    """A file of pcapng, and the keys of each SA; the design's own keys are in neither."""
    found = client.get(f"{LINE}/harbour-ostvik/rehearsal/capture").json()
    octets = base64.b64decode(found["pcapng"])
    assert octets[:4] == bytes.fromhex("0a0d0d0a")
    assert len(found["keys"]["ike"]) >= 2
    assert {sa["receiver"] for sa in found["keys"]["esp"]} == {"left", "right"}


@pytest.mark.parametrize(
    ("query", "pointer", "said"),
    [
        ({"fault": "soon restart left"}, "/fault", "'soon' is no time"),
        ({"fault": "30s explode left"}, "/fault", "'explode' is nothing that can be let happen"),
        ({"fault": "30s restart middle"}, "/fault", "'middle' is no side"),
        ({"fault": "restart"}, "/fault", "is no fault"),
        ({"until": "a while"}, "/until", "'a while' is no time"),
        ({"until": "90h"}, "/until", "two days at most"),
    ],
)
def test_what_is_not_understood_is_refused_at_its_place(client, query, pointer, said):
    """A fault or a time that can't be read is refused, the word named."""
    answer = client.get(f"{LINE}/harbour-ostvik/rehearsal", params=query)
    assert answer.status_code == 422
    (error,) = answer.json()["errors"]
    assert error["pointer"] == pointer
    assert said in error["detail"]


def test_an_unknown_tunnel_is_not_found(client):
    """Neither a tunnel of another name, nor a capture of what can't be rehearsed."""
    assert client.get(f"{LINE}/nowhere/rehearsal").status_code == 404
    assert client.get(f"{LINE}/basalt-gneiss/rehearsal/capture").status_code == 422
