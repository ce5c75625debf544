"""People through HTTP: profiles followed, and a roll-out to stand-in devices that fetch over real TLS by their own tokens."""

from __future__ import annotations

import csv
import io
import ssl
from dataclasses import replace
from typing import Any

import httpx
import pytest
from joserfc.jwk import ECKey

from pontifex.core.kinds import Platform, PlatformFamily
from pontifex.demo import demo_design
from pontifex.demo.roll_out import dials
from pontifex.device_server import device_server
from pontifex.server import listen_for_devices
from pontifex.services.records import RecordServices
from pontifex.settings import Settings
from pontifex.standins import DeviceHabit, PersonDevice, ProfileSource

LINE = "/api/designs/skerry-line"
CREW = f"{LINE}/profiles/crew"
LIST = """\
person,group,device,platform
Runa Falk,Deck crew,bridge-1,tablet
Eskil Dahl,Deck crew,bridge-2,bridge tablet
Odd Lien,Deck crew,engine-1,laptop
Siv Moen,Rota clerks,rota-1,laptop
Nobody,Kitchen,kettle,laptop
"""


def test_a_call_is_rehearsed(client):
    """From home it comes up; a place that nobody knows is refused beside its field."""
    found = client.get(f"{CREW}/rehearsal").json()
    assert (found["outcome"]["up"], found["agrees"]) == (True, True)
    assert any("is given 10.64.30.1" in line["text"] for line in found["logs"])
    refused = client.get(f"{CREW}/rehearsal", params={"at": "the moon"})
    assert (refused.status_code, refused.json()["errors"][0]["pointer"]) == (422, "/at")
    assert client.get(f"{LINE}/profiles/nobody/rehearsal").status_code == 404


@pytest.fixture
def server(tmp_path, records: RecordServices, client):
    """Where devices fetch their profiles, as the application knows it."""
    settings = Settings(state=tmp_path)
    with device_server(records.provisioning, settings, listen_for_devices(settings)) as opened:
        client.app.state.device_server = opened
        yield opened


def _tokens(added: dict[str, Any]) -> dict[str, str]:
    return {row["device"]: row["token"] for row in csv.DictReader(io.StringIO(added["tokens"]))}


def _devices(client, server) -> tuple[dict[str, PersonDevice], ProfileSource]:
    added = client.post(f"{LINE}/people", json={"text": LIST}).json()
    assert (added["added"], added["faults_count"]) == (5, 0)
    info = client.get(f"{LINE}/people/provisioning").json()
    source = ProfileSource(info["address"], info["certificate"], ECKey.import_key(info["key"]))
    tablet = Platform(id="tablet", name="tablet", family=PlatformFamily.TABLET)
    return {name: PersonDevice(name, tablet, DeviceHabit.NONE, token) for name, token in _tokens(added).items()}, source


def _states(client) -> dict[str, str]:
    return {device["name"]: device["state"] for device in client.get(f"{CREW}/rollout").json()["devices"]}


def _dial(file) -> bool:
    design = demo_design()
    return dials(design, design.profiles[0], file)


def _visit(source: ProfileSource, *devices: PersonDevice) -> list[str]:
    with source.client() as client:
        return [line for device in devices for line in device.visit(source, client, _dial)]


def test_a_roll_out_from_the_list_to_the_way_back(client, server):
    """Signed, offered to the first two, then to all, refused by one, taken back: each state by what devices asked and said."""
    devices, source = _devices(client, server)
    assert _visit(source, *devices.values()) == []
    assert set(_states(client).values()) == {"assigned"}
    assert client.post(f"{CREW}/rollout", json={"act": "all"}).status_code == 404
    assert client.post(f"{CREW}/versions", json={"remark": "the first"}).json()["number"] == 1
    client.post(f"{CREW}/rollout", json={"act": "first", "version": 1, "first": 2})
    assert _states(client) == {"bridge-1": "offered", "bridge-2": "offered", "engine-1": "assigned", "rota-1": "assigned"}
    assert _visit(source, *devices.values()) == ["bridge-1: version 1 active", "bridge-2: version 1 active"]
    client.post(f"{CREW}/rollout", json={"act": "all"})
    devices["engine-1"].habit = DeviceHabit.OLD_SYSTEM
    _visit(source, *devices.values())
    shown = client.get(f"{CREW}/rollout").json()
    told = {device["name"]: device for device in shown["devices"]}
    assert {name: one["state"] for name, one in told.items()} == {
        "bridge-1": "active", "bridge-2": "active", "engine-1": "refused", "rota-1": "active",
    }  # fmt: skip
    assert told["engine-1"]["report"]["reason"] == "proof by certificate needs a newer system"
    assert told["bridge-1"]["report"]["dialled"] is True
    assert shown["is_signed_as_it_stands"] is True
    design = client.get(LINE).json()
    profile = design["profiles"][0] | {"networks": ["10.64.0.0/14", "10.70.1.0/27", "10.80.0.0/20"]}
    change = {"base_revision": 0, "note": "the cloud, too", "operations": [{"op": "put-profile", "object": profile}]}
    assert client.post(f"{LINE}/changes", json=change).status_code == 200
    assert client.get(f"{CREW}/rollout").json()["is_signed_as_it_stands"] is False
    assert client.post(f"{CREW}/versions", json={"remark": "the cloud, too"}).json()["number"] == 2
    client.post(f"{CREW}/rollout", json={"act": "first", "version": 2, "first": 1})
    _visit(source, *devices.values())
    assert [devices[name].applied["crew"].version for name in ("bridge-1", "bridge-2")] == [2, 1]
    means = client.get(f"{CREW}/versions/2/difference", params={"since": 1}).json()["means"]
    assert means == ["10.80.0.0/20 goes through the tunnel now"]
    client.post(f"{CREW}/rollout", json={"act": "stop"})
    assert client.post(f"{CREW}/rollout", json={"act": "take-back"}).json()["version"] == 1
    assert _states(client)["bridge-1"] == "outdated"
    _visit(source, *devices.values())
    assert _states(client)["bridge-1"] == "active"
    assert devices["bridge-1"].applied["crew"].version == 1
    assert "kettle" not in _states(client)


def test_who_is_let_in(client, server):
    """A forged token, a removed device, one that is offered nothing, words that mean nothing, and too many of them."""
    devices, source = _devices(client, server)
    client.post(f"{CREW}/versions", json={})
    client.post(f"{CREW}/rollout", json={"act": "all"})
    with source.client() as devices_client:

        def asked(token: str, path: str = "/profiles", **report: Any) -> httpx.Response:
            headers = {"Authorization": f"Bearer {token}"}
            return (
                devices_client.post(path, headers=headers, json=report) if report else devices_client.get(path, headers=headers)
            )

        good = devices["bridge-1"].token
        forged = good[:-1] + ("A" if good[-1] != "A" else "B")
        assert [asked(cookie).status_code for cookie in (good, forged, "x")] == [200, 401, 401]
        assert devices_client.get("/profiles").status_code == 401
        assert asked(devices["kettle"].token).json() == {"profiles": []}
        assert asked(devices["kettle"].token, "/profiles/crew").status_code == 404
        refused = asked(good, "/profiles/crew/report", version=9, active=True)
        assert (refused.status_code, "there is no version 9 of this profile" in refused.text) == (422, True)
        assert asked(good, "/profiles/crew/report", version="x", active=True).status_code == 422
        assert asked(good, "/profiles/crew/report", version=1, active=True, reason="x" * 20_000).status_code == 413
        assert "offered" in _states(client).values()
        (mine,) = [
            candidate["id"] for candidate in client.get(f"{CREW}/rollout").json()["devices"] if candidate["name"] == "bridge-1"
        ]
        assert client.post(f"{LINE}/people/removed", json={"ids": [mine]}).status_code == 204
        assert asked(good).status_code == 401
        assert devices_client.get("/api/designs").status_code == 404  # nothing else is there
    stranger = ssl.create_default_context()
    with pytest.raises(httpx.ConnectError), httpx.Client(base_url=source.address, verify=stranger, trust_env=False) as other:
        other.get("/profiles")


def test_a_device_that_reports_an_older_version(client, server):
    """It keeps what it has, and is told as outdated."""
    devices, source = _devices(client, server)
    client.post(f"{CREW}/versions", json={})
    client.post(f"{CREW}/rollout", json={"act": "all"})
    devices["rota-1"].habit = DeviceHabit.KEEPS_OLD
    _visit(source, *devices.values())
    client.post(f"{CREW}/versions", json={"remark": "again"})
    client.post(f"{CREW}/rollout", json={"act": "all", "version": 2})
    _visit(source, *devices.values())
    shown = client.get(f"{CREW}/rollout", params={"state": "outdated"}).json()
    assert [(device["name"], device["report"]["active"], device["offered"]) for device in shown["devices"]] == [("rota-1", 1, 2)]
    assert shown["devices_count"] == 1
    assert {(platform["platform"], platform["version"]): platform["count"] for platform in shown["platforms"]} == {
        ("laptop", 1): 1, ("laptop", 2): 1, ("tablet", 2): 2,
    }  # fmt: skip


def test_a_file_that_was_changed_on_its_way_is_left_alone(client, server, monkeypatch):
    """The device goes on with what it has."""
    devices, source = _devices(client, server)
    client.post(f"{CREW}/versions", json={})
    client.post(f"{CREW}/rollout", json={"act": "all"})
    file = client.get(f"{CREW}/versions/1/file")
    assert file.headers["content-type"] == "application/jose"
    changed = file.text[:40] + ("A" if file.text[40] != "A" else "B") + file.text[41:]
    rollouts = client.app.state.rollouts
    monkeypatch.setattr(rollouts._records.__class__, "version", _with(rollouts._records.__class__.version, changed))
    (line,) = _visit(source, devices["bridge-1"])
    assert "its signature doesn't hold" in line
    assert devices["bridge-1"].applied == {}


def _with(version: Any, text: str) -> Any:
    return lambda self, *of: replace(version(self, *of), signed=text)


def test_no_token_is_kept_and_none_is_told_twice(client, server, records, engine):
    """What stands in the database opens nothing."""
    devices, _ = _devices(client, server)
    with engine.connect() as connection:
        dumped = str([tuple(row) for row in connection.exec_driver_sql("select * from person_device").fetchall()])
    for device in devices.values():
        assert device.token not in dumped
    again = client.post(f"{LINE}/people", json={"text": LIST}).json()
    assert (again["added"], again["tokens"], again["faults_count"]) == (0, "", 5)


def test_questions_about_a_profile(client):
    """Both ends, all flows, one packet; and what can't be read is refused at its field."""
    match = client.get(f"{CREW}/match").json()
    assert match["forecast"]["state"] == "holds"
    flows = client.get(f"{CREW}/flows").json()
    assert len(flows["rows"]) == len(flows["destinations"])
    found = client.get(f"{CREW}/trace", params={"to": "timetable", "at": "hotel", "platform": "tablet"}).json()
    assert (found["is_dialled"], found["way"]) == (False, "held")
    for params, pointer in (
        ({"to": "the moon"}, "/to"),
        ({"to": "timetable", "at": "the moon"}, "/at"),
        ({"to": "timetable", "service": "x"}, "/service"),
    ):
        refused = client.get(f"{CREW}/trace", params=params)
        assert (refused.status_code, refused.json()["errors"][0]["pointer"]) == (422, pointer)
    assert client.get(f"{LINE}/profiles/nobody/flows").status_code == 404
    assert client.get(f"{CREW}/trace", params={"to": "timetable", "platform": "toaster"}).status_code == 404
    for part in ("file", "page"):
        assert client.get(f"{CREW}/versions/7/{part}").status_code == 404
    client.post(f"{CREW}/versions", json={})
    assert "Date and signature" in client.get(f"{CREW}/versions/1/page").text
    assert client.get(f"{LINE}/people/provisioning").json() is None
