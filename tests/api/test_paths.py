"""Paths over HTTP: answers, what is supposed, refusals at their field, and that nothing is written."""

from __future__ import annotations

import pytest

PATHS = "/api/designs/skerry-line/paths"


def test_the_matrix_and_what_is_supposed(client):
    """Letters row by row; what is down or slow changes them, and so does supposing that all tunnels come up."""
    found = client.get(f"{PATHS}/matrix").json()
    at = {id_: place for place, id_ in enumerate(found["network_ids"])}
    rows = found["rows"]
    assert len(rows) == len(at) == len(rows[0])
    assert rows[at["harbour-staff"]][at["ostvik-ticketing"]] == "r"
    assert rows[at["brenna-ticketing"]][at["harbour-servers"]] == "b"
    assert {"row": at["brenna-gate-controllers"], "column": at["basalt-booking-gate"]} in found["wanted"]
    assert {"any", "tcp 443", "tcp 8443"} <= set(found["services"])
    up = client.get(f"{PATHS}/matrix", params={"all_up": True, "down": ["harbour-ostvik"]}).json()["rows"]
    assert up[at["brenna-ticketing"]][at["harbour-servers"]] == "r"
    assert up[at["harbour-staff"]][at["ostvik-ticketing"]] == "b"


def test_an_intent_about_a_host_of_an_isolated_network_breaks_nothing(client):
    """Isolated networks have no cells; what is wanted of their hosts is told as a finding."""
    ends = {"sources": [{"type": "host", "id": "tablet"}], "destinations": [{"type": "network", "id": "aurelia-bridge"}]}
    operations = [
        {"op": "put-host", "object": {"id": "tablet", "network_id": "aurelia-passengers", "name": "t", "address": "172.22.16.9"}},
        {"op": "put-intent", "object": {"id": "want", "name": "Want", **ends}},
    ]
    body = {"base_revision": 0, "note": "isolated", "operations": operations}
    assert client.post("/api/designs/skerry-line/changes", json=body).status_code == 200
    findings = client.get("/api/designs/skerry-line/analysis").json()["findings"]
    assert [finding["where"][0]["id"] for finding in findings if finding["code"] == "route.isolated"] == ["aurelia-passengers"]
    found = client.get(f"{PATHS}/matrix").json()
    assert "aurelia-passengers" not in found["network_ids"]
    assert client.get(f"{PATHS}/links").status_code == 200
    ask = {"source": "tablet", "destination": "harbour-servers"}
    assert "is isolated" in client.get(f"{PATHS}/trace", params=ask).json()["verdict"]


def test_a_trace_of_networks_is_the_worst_of_their_parts(client):
    """Of two networks the pair of addresses that fares worst; of hosts and addresses those."""
    ask = {"source": "brenna-gate-controllers", "destination": "basalt-booking-gate"}
    assert "has no route to 10.66.1.0" in client.get(f"{PATHS}/trace", params=ask).json()["verdict"]
    ask = {"source": "gate one", "destination": "10.80.8.9", "service": "tcp 8443", "dscp": "EF"}
    assert client.get(f"{PATHS}/trace", params=ask).json()["forward"]["tunnels"] == ["brenna-basalt-cable"]
    slow = {**ask, "dscp": "AF41", "slow": "brenna-basalt-radio:delay=70"}
    assert "delay 70 ms, 60 allowed" in client.get(f"{PATHS}/trace", params=slow).json()["forward"]["hops"][0]["by"]


@pytest.mark.parametrize(
    ("path", "params", "status", "words"),
    [
        ("trace", {"source": "nobody", "destination": "rota"}, 422, "there is no host or network 'nobody'"),
        ("trace", {"source": "10.64.0.300", "destination": "rota"}, 422, "300"),
        ("matrix", {"service": "tcp 99999"}, 422, "is no port from 0 to 65535"),
        ("matrix", {"dscp": "GOLD"}, 422, "'GOLD' is no class"),
        ("matrix", {"slow": "harbour-fibre:speed=9"}, 422, "is not written as"),
        ("matrix", {"down": ["nothing"]}, 404, "there is no uplink, tunnel, gateway or site 'nothing'"),
        ("rules/none/move", {"place": 0}, 404, "there is no rule 'none'"),
        ("difference", {"since": 99}, 404, "there is no revision 99"),
        ("gateways/none/linux", {}, 404, "there is no gateway 'none'"),
    ],
)
def test_what_cannot_be_asked_is_refused_with_its_reason(client, path, params, status, words):
    """Problem details name the field and the reason."""
    answer = client.get(f"{PATHS}/{path}", params=params)
    assert answer.status_code == status
    assert words.lower() in answer.text.lower()


@pytest.mark.parametrize(
    ("path", "asked", "status", "words"),
    [
        ("brenna-basalt-radio", {"measure": "delay_ms", "point": ["0:20", "9"]}, 422, "'9' is no second, up to 3600"),
        (
            "brenna-basalt-radio",
            {"measure": "delay_ms", "point": ["5:20", "5:30"]},
            422,
            "a point at 5 s can't follow one at 5 s",
        ),
        ("brenna-basalt-radio", {"measure": "delay_ms", "point": ["0:nan"]}, 422, "is no second"),
        ("brenna-basalt-cable", {"measure": "delay_ms"}, 404, "with a limit of that measure"),
    ],
)
def test_a_course_that_cannot_be_played(client, path, asked, status, words):
    """Points that can't be read, and paths without a limit, are refused with the reason."""
    answer = client.get(f"{PATHS}/rules/brenna-gates-by-radio/paths/{path}/course", params=asked)
    assert answer.status_code == status
    assert words in answer.text


def test_failures_routes_links_and_plans(client):
    """The worst failure first; the missing route with its change; what rules choose and uplinks carry; a machine's commands."""
    failures = client.get(f"{PATHS}/sweep", params={"all_up": True}).json()["failures"]
    assert failures[0]["id"] == "harbour-gateway"
    assert failures[0]["lost"] >= len(failures[0]["pairs"]) > 0
    needed = client.get(f"{PATHS}/routes").json()
    (missing,) = [candidate for candidate in needed["routes"] if candidate["state"] == "missing"]
    assert (missing["subnet_id"], missing["prefix"]) == ("basalt-booking-gate", "10.66.1.0/26")
    assert needed["operations"][0]["object"]["network_id"] == "basalt-booking-gate"
    links = client.get(f"{PATHS}/links").json()
    assert {"brenna-radio-link", "harbour-fibre"} <= {load["uplink_id"] for load in links["loads"]}
    assert [path["taken"] for path in links["rules"][0]["paths"]] == [True, False]
    course = f"{PATHS}/rules/brenna-gates-by-radio/paths/brenna-basalt-radio/course"
    played = client.get(course, params={"measure": "delay_ms"}).json()
    assert [span["name"] for span in played["spans"]] == ["Brenna–Basalt radio", "Brenna–Basalt cable", "Brenna–Basalt radio"]
    played = client.get(course, params={"measure": "delay_ms", "point": ["0:20", "10:70", "30:70"]}).json()
    assert [span["from_s"] for span in played["spans"]] == [0, 9]
    plan = client.get(f"{PATHS}/gateways/dock-gateway/linux").json()
    assert "ip -4 rule add pref 1003 from 172.23.0.0/24 table 1000 protocol 112" in plan["apply"]
    assert "ip -4 rule flush protocol 112" in plan["back"]


def test_a_moved_rule_a_moved_host_and_a_difference(client):
    """What a move would change, the operations that carry it out, and what differs since the revision before."""
    move = client.get(f"{PATHS}/rules/brenna-terminal-by-cable/move", params={"place": 0}).json()
    assert move["changes"][0]["traffic"] == "10.66.1.0/26 to 10.80.8.0/24, class AF41"
    body = {"base_revision": 0, "note": "move", "operations": move["operations"]}
    assert client.post("/api/designs/skerry-line/changes", json=body).json()["revision"] == 1
    assert client.get(f"{PATHS}/difference", params={"since": 0}).json()["cells"] == []  # the unmarked class goes as before
    there = {"network_id": "ostvik-ticketing", "address": "10.65.0.20"}
    moved = client.post(f"{PATHS}/hosts/harbour-rota/move", json=there).json()
    assert moved["operations"][0]["object"]["address"] == "10.65.0.20"
    assert {"network_id": "harbour-voice", "begins": True} in [
        {key: pair[key] for key in ("network_id", "begins")} for pair in moved["pairs"]
    ]
    down = client.get("/api/designs/skerry-line").json()["gateways"][0] | {"forwarding": False}
    body = {"base_revision": 1, "note": "off", "operations": [{"op": "put-gateway", "object": down}]}
    assert client.post("/api/designs/skerry-line/changes", json=body).json()["revision"] == 2
    assert not client.get(f"{PATHS}/difference", params={"since": 0, "until": 1, "all_up": True}).json()["cells"]
    cells = client.get(f"{PATHS}/difference", params={"since": 1, "all_up": True}).json()["cells"]
    assert cells
    assert {cell["after"] for cell in cells} <= {"blocked", "one-way", "unprotected"}


def test_a_split_and_its_octets(client):
    """The routes of another split, what it forgets, and its octets, which are read back as they were."""
    wanted = {"mode": "only", "networks": ["10.64.0.0/14"], "router": "10.64.30.1", "most": 4}
    plan = client.post(f"{PATHS}/split/crew", json=wanted).json()
    assert plan["routes"]["prefixes"] == ["10.64.0.0/14"]
    assert "basalt-booking" in plan["forgotten"]
    assert (plan["people"], plan["pool_room"]) == (180, 126)
    read = client.post("/api/dhcp-routes", json={"octets": plan["option"]}).json()["routes"]
    assert read == ["10.64.0.0/14 via 10.64.30.1"]
    full = client.post(f"{PATHS}/split/crew", json=wanted | {"default_inside": True}).json()
    read = client.post("/api/dhcp-routes", json={"octets": full["option"]}).json()["routes"]
    assert read == ["0.0.0.0/0 via 10.64.30.1", "10.64.0.0/14 via 10.64.30.1"]
    beside = client.post(f"{PATHS}/split/crew", json=wanted | {"router": "10.99.0.1"}).json()
    assert beside["trouble"] == "10.99.0.1 is not in 10.64.30.0/25: the clients can't reach it"
    wrong = client.post("/api/dhcp-routes", json={"octets": "21 0a"})
    assert wrong.status_code == 422
    assert wrong.json()["errors"][0]["detail"].startswith("octet 0: the width 33")
