"""Handing over through HTTP: plans and their runs, sheets, readings and drift, and what is refused."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from pontifex.core.design_file import write_design_file
from tests.support.designs import migrated

LINE = "/api/designs/skerry-line"
CHECKS = "tunnel/harbour-ostvik/left/dead_peer_s"


def _change(client: Any, seconds: int) -> None:
    """Let both ends of a tunnel check each other otherwise."""
    design = client.get(LINE).json()
    tunnel = next(candidate for candidate in design["tunnels"] if candidate["id"] == "harbour-ostvik")
    for side in ("left", "right"):
        tunnel[side]["dead_peer_s"] = seconds
    body = {"base_revision": design["revision"], "note": "Checks", "operations": [{"op": "put-tunnel", "object": tunnel}]}
    assert client.post(f"{LINE}/changes", json=body).status_code == 200


def _tick(client: Any, run: dict[str, Any], step: int, result: str, seen: int | None = None) -> Any:
    body = {"seen": len(run["ticks"]) if seen is None else seen, "result": result, "remark": "so it is"}
    return client.post(f"{LINE}/runs/{run['id']}/steps/{step}", json=body)


def test_a_plan_is_walked_and_its_readings_follow(client):
    """Each tick is logged with who and when; what is entered runs, and what is saved is kept; the way back undoes it."""
    _change(client, 45)
    plan = client.get(f"{LINE}/plan", params={"since": "0"}).json()
    assert (plan["proved"], plan["title"]) == (True, "From revision 0 to revision 1")
    run = client.post(f"{LINE}/runs", json={"since": "0"}).json()
    kinds = [step["action"] for step in run["plan"]["steps"]]
    assert kinds == ["change", None, "change", None]
    left = next(step["number"] for step in run["plan"]["steps"] if step["side"] == "left")
    for step in range(1, left + 1):
        run = _tick(client, run, step, "done").json()
    line = _line(client, CHECKS)
    assert (line["running"], line["intended"], line["verdict"]) == ("45", "45", "as-intended")
    run = _tick(client, run, left + 1, "failed").json()
    assert run["progress"]["state"] == "stopped"
    for step in range(left + 1, 0, -1):
        run = _tick(client, run, step, "undone").json()
    assert run["progress"]["state"] == "taken-back"
    assert {tick["author"] for tick in run["ticks"]} != {""}
    assert _line(client, CHECKS)["verdict"] == "differs"
    assert client.get(f"{LINE}/runs").json()[0]["id"] == run["id"]


def _line(client: Any, path: str) -> dict[str, Any]:
    lines = client.get(f"{LINE}/gateways/harbour-gateway/drift").json()["lines"]
    found: dict[str, Any] = next(line for line in lines if line["path"] == path)
    return found


def test_two_people_do_not_tick_the_same_step_twice(client):
    """Who hasn't seen the last line of the log is told to look again; a step out of turn is refused."""
    _change(client, 45)
    run = client.post(f"{LINE}/runs", json={"since": "0"}).json()
    assert _tick(client, run, 1, "done").status_code == 200
    assert _tick(client, run, 2, "done").status_code == 409
    assert _tick(client, run, 4, "done", 1).status_code == 422
    assert _tick(client, run, 99, "done", 1).status_code == 422
    assert client.get(f"{LINE}/runs/{'0' * 8}-0000-4000-8000-{'0' * 12}").status_code == 404


def test_what_is_asked_of_no_design_is_not_there(client):
    """Runs, links, plans and devices of a design that isn't there are told so."""
    for path in ("runs", "partner-links", "plan?since=0", "drift", "review/html"):
        assert client.get(f"/api/designs/nowhere/{path}").status_code == 404


def test_a_tunnel_is_taken_down(client):
    """The plan that leaves nothing behind: the end that calls goes first."""
    plan = client.get(f"{LINE}/plan", params={"since": "tunnel/harbour-ostvik"}).json()
    assert plan["title"] == "Take down tunnel Harbour–Ostvik"
    assert [step["action"] for step in plan["plan"]["steps"] if step["action"]] == ["switch-off", "remove"]
    for wrong in ("99", "tunnel/nowhere", "planet/x", "x" * 90):
        assert client.get(f"{LINE}/plan", params={"since": wrong}).status_code in (404, 422)


def test_a_sheet_comes_in_three_forms(client):
    """JSON, a page and Markdown; no secret in any of them."""
    base = f"{LINE}/tunnels/harbour-tarn/sheets/right"
    assert client.get(base).json()["device"] == "Tarn firewall"
    assert client.get(f"{base}/html").headers["content-type"].startswith("text/html")
    assert client.get(f"{base}/md").text.startswith("# Harbour–Tarn")
    pdf = client.get(f"{base}/pdf")
    assert (pdf.headers["content-type"], pdf.content[:5]) == ("application/pdf", b"%PDF-")
    assert client.get(f"{LINE}/tunnels/nowhere/sheets/left").status_code == 404


def _reading(**fields: Any) -> dict[str, str]:
    taken_at = (datetime.now(UTC) - timedelta(minutes=1)).isoformat()
    reading = {
        "gateway_id": "harbour-gateway",
        "taken_at": taken_at,
        "source": "pasted",
        "complete": False,
        "running": {CHECKS: 45},
    }
    return {"text": json.dumps({**reading, **fields})}


def test_a_reading_shows_its_drift(client):
    """What differs is told with both ways to mend it, one of which is a change of the design."""
    assert client.post(f"{LINE}/readings", json=_reading()).status_code == 201
    line = _line(client, CHECKS)
    assert (line["verdict"], line["running"], line["intended"]) == ("differs", "45", "30")
    plan = client.get(f"{LINE}/plan", params={"since": "devices"}).json()["plan"]
    assert [step["device"]["id"] for step in plan["steps"]] == ["harbour-gateway", "harbour-gateway"]
    design = client.get(LINE).json()
    body = {"base_revision": design["revision"], "note": "As it runs", "operations": line["take_over"]["operations"]}
    assert client.post(f"{LINE}/changes", json=body).status_code == 200
    assert _line(client, CHECKS)["verdict"] == "as-intended"
    (drift,) = (candidate for candidate in client.get(f"{LINE}/drift").json() if candidate["gateway_id"] == "harbour-gateway")
    assert (drift["off"], drift["source"]) == (0, "pasted")


@pytest.mark.parametrize(
    ("fields", "status"),
    [
        ({"gateway_id": "nowhere"}, 422),
        ({"taken_at": "2999-01-01T00:00:00Z"}, 422),
        ({"taken_at": "2001-01-01T00:00:00Z"}, 409),
        ({"running": {"x": 1}}, 422),
        ({"nonsense": 1}, 422),
    ],
)
def test_a_wrong_reading_changes_nothing(client, fields, status):
    """Of another device, of a time to come, older than the last, cut off: told, and what was kept stands."""
    assert client.post(f"{LINE}/readings", json=_reading()).status_code == 201
    refused = client.post(f"{LINE}/readings", json=_reading(**fields))
    assert refused.status_code == status
    assert refused.json()["detail"]
    assert _line(client, CHECKS)["running"] == "45"


def test_a_gateway_is_written_by_published_models_and_templates(client):
    """Both models as JSON; a template with its text, or the line in which it is wrong."""
    gateway = f"{LINE}/gateways/harbour-gateway"
    assert "ietf-i2nsf-ike:ipsec-ike" in client.get(f"{gateway}/models/rfc9061").json()
    assert "ietf-interfaces:interfaces" in client.get(f"{gateway}/models/ietf-routing").json()
    assert client.post(f"{gateway}/rendering", json={"text": "{{ gateway.name }}"}).json()["text"] == "Harbour firewall pair"
    wrong = client.post(f"{gateway}/rendering", json={"text": "a\n{{ nothing }}"}).json()
    assert (wrong["line"], wrong["text"]) == (2, "")
    assert client.get(f"{LINE}/gateways/nowhere/models/rfc9061").status_code == 404


def test_a_review_says_what_changed_and_what_is_open(client):
    """A page, Markdown and a table: the change, findings open and accepted, algorithms, and what fails alone."""
    _change(client, 45)
    page = client.get(f"{LINE}/review/html", params={"since": "0"})
    assert page.headers["content-type"].startswith("text/html")
    for said in (
        "Dead-peer check, s",
        "the keys differ",
        "3DES",
        "weak by the standards",
        "Reviewed by",
        "tunnel Harbour–Ostvik",
    ):
        assert said in page.text
    assert "## Algorithms in use" in client.get(f"{LINE}/review/md", params={"since": "1"}).text
    rows = client.get(f"{LINE}/review/csv", params={"since": "0"}).text.splitlines()
    assert rows[0] == "object,name,field,before,after"
    assert 'tunnel/harbour-ostvik,Harbour–Ostvik,"Left end: Dead-peer check, s",30,45' in rows
    assert client.get(f"{LINE}/review/pdf", params={"since": "0"}).content[:5] == b"%PDF-"
    assert client.get(f"{LINE}/review/html", params={"since": "99"}).status_code == 404
    assert client.get(f"{LINE}/review/html", params={"since": "tunnel/x"}).status_code == 422


def test_what_is_seen_before_and_after_is_held_against_the_trace(client):
    """Typed or pasted; what contradicts the trace is marked; a text that doesn't say is refused, and nothing is kept of it."""
    _change(client, 45)
    run = client.post(f"{LINE}/runs", json={"since": "0"}).json()
    pair = next(candidate for candidate in run["plan"]["pairs"] if candidate["before"])
    probes = f"{LINE}/runs/{run['id']}/probes"
    pasted = "4 packets transmitted, 0 received, 100% packet loss"
    lost = client.post(probes, json={"tries": pair["tries"], "phase": "before", "text": pasted}).json()["seen"]
    assert [(probe["answered"], probe["contradicts"]) for probe in lost] == [(False, True)]
    seen = client.post(probes, json={"tries": pair["tries"], "phase": "before", "text": "answered"}).json()["seen"]
    assert [(probe["answered"], probe["contradicts"], probe["text"]) for probe in seen] == [(True, False, "answered")]
    for text in ("hm", "answered\0", "x" * 9000):
        assert client.post(probes, json={"tries": pair["tries"], "phase": "after", "text": text}).status_code == 422
    assert client.post(probes, json={"tries": "ping 1.1.1.1", "phase": "after", "text": "ok"}).status_code == 422
    assert len(client.get(f"{LINE}/runs/{run['id']}").json()["seen"]) == 1


def test_a_large_plan_says_how_far_it_has_come(client):
    """While a migration of many tunnels is planned, others are told its progress; then every step of it is proved."""
    before, changed = migrated(120)
    made = client.post("/api/designs/import", content=write_design_file(before)).json()
    line = f"/api/designs/{made['id']}"
    body = {"base_revision": 0, "note": "x", "operations": [operation.model_dump(mode="json") for operation in changed]}
    assert client.post(f"{line}/changes", json=body).status_code == 200
    with ThreadPoolExecutor(1) as somebody:
        asked = somebody.submit(client.get, f"{line}/plan", params={"since": "0"})
        told: list[dict[str, int]] = []
        while not asked.done():
            told.append(client.get(f"{line}/plan/progress").json())
    plan = asked.result().json()
    assert (plan["proved"], len(plan["plan"]["steps"])) == (True, 4 * 120 + 121)
    seen = [candidate["done"] for candidate in told if candidate["of"] == 2 * 4 * 120]
    assert seen == sorted(seen)
    assert seen


def test_files_of_a_linux_machine_are_told(client):
    """Those of a machine whose interfaces have names; of any other the reason, at its field."""
    files = client.get(f"{LINE}/gateways/dock-gateway/models/linux-files")
    assert (files.status_code, "==> /etc/sysctl.d/60-pontifex.conf <==" in files.text) == (200, True)
    refused = client.get(f"{LINE}/gateways/harbour-gateway/models/linux-files")
    assert (refused.status_code, "has no name in the design" in refused.json()["errors"][0]["detail"]) == (422, True)
