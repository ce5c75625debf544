"""Devices that are reached from here, through HTTP, with stand-in gateways at the other end."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from pontifex.core.handover.readings import intended
from pontifex.demo import demo_design
from pontifex.standins import GatewayHabit
from tests.support.standins import served

LINE = "/api/designs/skerry-line"
HABITS = {
    "harbour-gateway": GatewayHabit.FORGETS,
    "ostvik-gateway": GatewayHabit.DROPS,
    "brenna-gateway": GatewayHabit.CUTS,
    "basalt-gateway": GatewayHabit.REFUSES,
}
FIRST = {id_: {setting.path: setting.text for setting in intended(demo_design(), id_)} for id_ in HABITS}


@pytest.fixture
def devices(tmp_path, client):
    with served(tmp_path, HABITS, FIRST) as servers:
        for gateway_id in HABITS:
            assert client.put(f"{LINE}/gateways/{gateway_id}/device", json=_way(servers, gateway_id)).status_code == 200
        yield servers


def _way(servers: Any, gateway_id: str, **changed: Any) -> dict[str, Any]:
    gateway = servers.gateways[gateway_id]
    way = {
        "protocol": "restconf",
        "address": gateway.address,
        "user": gateway.login.user,
        "secret": gateway.login.password,
        "fingerprint": gateway.fingerprint,
    }
    return {**way, **changed}


def _change(client: Any, **fields: Any) -> None:
    design = client.get(LINE).json()
    tunnel = next(candidate for candidate in design["tunnels"] if candidate["id"] == "harbour-ostvik")
    for side in ("left", "right"):
        tunnel[side].update(fields)
    body = {"base_revision": design["revision"], "note": "x", "operations": [{"op": "put-tunnel", "object": tunnel}]}
    assert client.post(f"{LINE}/changes", json=body).status_code == 200


def _made(client: Any, run: dict[str, Any], *, back: bool = False) -> Any:
    step = run["progress"]["done"][-1] if back else run["progress"]["next_step"]
    return client.post(f"{LINE}/runs/{run['id']}/steps/{step}/made", json={"seen": len(run["ticks"]), "back": back})


def test_a_plan_is_applied_and_what_does_not_take_is_found(client, devices):
    """Ostvik drops one of two values without a word: the step fails, entered again it takes; saved, it outlives a restart."""
    _change(client, dead_peer_s=45, child_lifetime_s=1800)
    run = client.post(f"{LINE}/runs", json={"since": "0"}).json()
    failed = []
    for _ in range(20):
        if run["progress"]["state"] == "done":
            break
        answer = _made(client, run)
        assert answer.status_code == 200, answer.text
        run = answer.json()
        failed += [tick["remark"] for tick in run["ticks"][-1:] if tick["result"] == "failed"]
    assert run["progress"]["state"] == "done"
    assert len(failed) == 1
    assert "dead peer s is 30, not 45" in failed[0]
    device = devices.gateways["ostvik-gateway"].device
    path = "tunnel/harbour-ostvik/right/dead_peer_s"
    assert (device.running[path], device.startup[path]) == ("45", "45")
    assert client.post(f"{LINE}/gateways/ostvik-gateway/device/restart").status_code == 200
    drift = client.get(f"{LINE}/gateways/ostvik-gateway/drift").json()
    assert {line["verdict"] for line in drift["lines"]} == {"as-intended"}


def test_a_step_is_taken_back_at_its_device(client, devices):
    """What was entered over the connection is entered as it was."""
    _change(client, dead_peer_s=45)
    run = _made(client, client.post(f"{LINE}/runs", json={"since": "0"}).json()).json()
    assert run["ticks"][-1]["result"] == "done"
    at = run["plan"]["steps"][0]["device"]["id"]
    side = run["plan"]["steps"][0]["side"]
    assert devices.gateways[at].device.running[f"tunnel/harbour-ostvik/{side}/dead_peer_s"] == "45"
    run = _made(client, run, back=True).json()
    assert run["progress"]["state"] == "taken-back"
    assert devices.gateways[at].device.running == FIRST[at]


def test_drift_is_mended_at_the_device(client, devices):
    """What somebody changed at the device by hand is read, entered as intended, and saved; a cut connection is taken up again."""
    device = devices.gateways["brenna-gateway"].device
    path = "tunnel/harbour-brenna/right/dead_peer_s"
    device.running[path] = "99"
    at = f"{LINE}/gateways/brenna-gateway"
    assert client.post(f"{at}/device/reading").json()["running"][path] == "99"
    assert next(line for line in client.get(f"{at}/drift").json()["lines"] if line["path"] == path)["verdict"] == "not-applied"
    entered = client.post(f"{at}/device/settings", json={"paths": [path]})
    assert (entered.status_code, entered.json()["missed"]) == (200, [])
    device.clock = lambda clock=device.clock: clock() + 3600  # what wasn't confirmed would be gone by now
    assert client.post(f"{at}/device/reading").json()["running"][path] == "30"
    device.running[path] = device.startup[path] = "98"
    assert client.post(f"{at}/device/settings", json={"paths": [path, "gateway/brenna-gateway/forwarding"]}).status_code == 200
    assert client.post(f"{at}/device/saving").json()["after_restart"][path] == "30"


def test_a_device_that_refuses_is_left_as_it_was(client, devices):
    """It doesn't know the new key exchange: the step isn't ticked, and nothing of it runs."""
    design = client.get(LINE).json()
    tunnel = next(candidate for candidate in design["tunnels"] if candidate["id"] == "harbour-basalt")
    hybrid = [{"transforms": [*tunnel["right"]["ike_proposals"][0]["transforms"], {"type": "ADDKE1", "id": 36}]}]
    for side in ("left", "right"):
        tunnel[side]["ike_proposals"] = hybrid
    body = {"base_revision": design["revision"], "note": "x", "operations": [{"op": "put-tunnel", "object": tunnel}]}
    assert client.post(f"{LINE}/changes", json=body).status_code == 200
    run = client.post(f"{LINE}/runs", json={"since": "0"}).json()
    for _ in range(10):
        answer = _made(client, run)
        if answer.status_code != 200:
            break
        run = answer.json()
    assert (answer.status_code, "no key exchange" in answer.json()["detail"]) == (422, True)
    assert devices.gateways["basalt-gateway"].device.running == FIRST["basalt-gateway"]


def test_what_opens_a_device_comes_out_nowhere(client, devices):
    """Not in the list, not in a refusal, not in an export; and nothing goes to a device that shows something else."""
    secret = devices.gateways["harbour-gateway"].login.password
    at = f"{LINE}/gateways/harbour-gateway/device"
    listed = client.get(f"{LINE}/devices")
    assert {access["gateway_id"] for access in listed.json()} == set(HABITS)
    refused = client.put(at, json={**_way(devices, "harbour-gateway"), "address": "nowhere", "secret": secret})
    assert refused.status_code == 422
    shown = client.post(
        f"{LINE}/devices/shown", json={"protocol": "restconf", "address": devices.gateways["harbour-gateway"].address}
    )
    assert shown.json()["fingerprint"] == devices.gateways["harbour-gateway"].fingerprint
    for protocol in ("restconf", "ssh"):
        asked = {"protocol": protocol, "address": f"{'a' * 70}.example:1"}  # longer than a label of a name may be
        assert client.post(f"{LINE}/devices/shown", json=asked).status_code == 503
    assert client.put(at, json=_way(devices, "harbour-gateway", fingerprint="AA:BB:CC:DD")).status_code == 200
    silent = client.post(f"{at}/reading")
    assert (silent.status_code, "another certificate" in silent.json()["detail"]) == (503, True)
    exported = client.get(f"{LINE}/export")
    assert all(secret not in answer.text for answer in (listed, refused, shown, silent, exported))
    assert client.delete(at).status_code == 204
    assert client.post(f"{at}/reading").status_code == 404
    assert client.put(f"{LINE}/gateways/nowhere/device", json=_way(devices, "harbour-gateway")).status_code == 404
    assert client.post(f"{LINE}/gateways/nowhere/device/settings", json={"paths": ["gateway"]}).status_code == 404


def test_two_people_are_not_at_one_device_at_once(client, tmp_path):
    """Whoever comes second is told so, and may come again."""
    gateway_id = "harbour-gateway"
    with served(tmp_path, {gateway_id: GatewayHabit.SLOW}, FIRST, late_s=2.0) as servers:
        assert client.put(f"{LINE}/gateways/{gateway_id}/device", json=_way(servers, gateway_id)).status_code == 200
        with ThreadPoolExecutor(2) as people:
            answers = people.map(client.post, [f"{LINE}/gateways/{gateway_id}/device/reading"] * 2)
        assert sorted(answer.status_code for answer in answers) == [200, 409]
