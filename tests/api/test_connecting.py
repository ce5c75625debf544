"""Many sites at once, through HTTP: added, connected by a standard with keys in the vault, and changed by it."""

from __future__ import annotations

import pytest

LINES = "Harbour: 10.64.0.0/22, 198.51.100.10\nOstvik: 10.65.0.0/24, ostvik.dyn.example\nAurelia: 10.70.1.0/27, LTE"


@pytest.fixture
def line(client):
    """The address of an empty design."""
    return f"/api/designs/{client.post('/api/designs', json={'name': 'Line'}).json()['id']}"


def _connect(client, line, **fields):
    offer = client.get(f"{line}/connections/offer").json()
    sites = [site["id"] for site in client.get(line).json()["sites"]]
    standard = offer["standards"][0]["standard"]
    return {"site_ids": sites, "pattern": "hub", "hub_ids": ["harbour"], "standard": standard, **fields}


def test_from_nothing_to_green(client, line):
    """Lines become sites, sites are connected, each as one change with its keys; undo takes all of it back."""
    start = {"text": LINES, "supernets": ["10.64.0.0/11"]}
    assert client.post(f"{line}/sites-plan", json=start).json()["sites"] == 3
    assert client.get(line).json()["revision"] == 0
    added = client.post(f"{line}/sites", json={"base_revision": 0, "start": start})
    assert (added.status_code, added.json()["revision"]) == (200, 1)
    asked = _connect(client, line)
    preview = client.post(f"{line}/connections-plan", json=asked).json()
    assert (preview["plan"]["made"], preview["outlook"], preview["findings"]) == (2, [{"state": "holds", "tunnels": 2}], 0)
    made = client.post(f"{line}/connections", json={"base_revision": 1, "connect": asked})
    assert (made.status_code, made.json()["revision"]) == (200, 2)
    tunnels = client.get(line).json()["tunnels"]
    keys = [tunnel["left"]["key"] for tunnel in tunnels]
    assert len({key["fingerprint"] for key in keys}) == 2
    shown = client.post(f"{line}/keys/{keys[0]['reference']}/show").json()["secret"]
    assert len(shown) == keys[0]["length"] == 56
    assert shown not in client.get(f"{line}/export").text + client.get(f"{line}/changes").text
    analysis = client.get(f"{line}/analysis").json()
    assert ({foretold["state"] for foretold in analysis["forecasts"]}, analysis["findings"]) == ({"holds"}, [])
    assert client.get(f"{line}/next-steps").json() == []
    client.post(f"{line}/undo", json={"base_revision": 2})
    assert client.get(line).json()["tunnels"] == client.get(line).json()["standards"] == []


def test_a_changed_standard_is_seen_before_it_is_saved(client, line):
    """It says which tunnels change, and what becomes of each forecast; the change that it gives does so."""
    client.post(f"{line}/sites", json={"base_revision": 0, "start": {"text": LINES}})
    client.post(f"{line}/connections", json={"base_revision": 1, "connect": _connect(client, line)})
    (used,) = client.get(f"{line}/standards").json()
    assert (len(used["followers"]), used["departures"]) == (2, [])
    longer = {**used["standard"], "child_lifetime_s": 86_400, "ike_lifetime_s": 43_200}
    effect = client.post(f"{line}/standards/effect", json=longer).json()
    assert [(tunnel["before"], tunnel["after"]) for tunnel in effect["tunnels"]] == [("holds", "holds")] * 2
    assert client.get(line).json()["revision"] == 2
    change = {"base_revision": 2, "note": "Longer", "operations": effect["operations"]}
    assert client.post(f"{line}/changes", json=change).status_code == 200
    after = client.get(line).json()
    assert {tunnel[side]["ike_lifetime_s"] for tunnel in after["tunnels"] for side in ("left", "right")} == {43_200}
    one = after["tunnels"][0]
    one["left"]["dead_peer_s"] = 10
    client.post(f"{line}/changes", json={"base_revision": 3, "note": "x", "operations": [{"op": "put-tunnel", "object": one}]})
    match = client.get(f"{line}/tunnels/{one['id']}/match").json()
    assert match["departures"] == ["left/dead_peer_s"]
    body = {"standard": longer, "tunnel_ids": [one["id"]]}
    followed = client.post(f"{line}/standards/follow", json=body).json()
    assert followed["departures"] == []
    assert client.post(f"{line}/standards/follow", json={**body, "tunnel_ids": ["gone"]}).status_code == 404
    assert client.post(f"{line}/standards/effect", json={**longer, "id": "gone"}).status_code == 404


def test_what_cant_be_connected_is_refused_at_its_field_and_nothing_is_made(client, line):
    """Neither a tunnel nor a key; a text without a site adds nothing."""
    client.post(f"{line}/sites", json={"base_revision": 0, "start": {"text": LINES}})
    for fields, pointer in (({"hub_ids": []}, "/hub_ids"), ({"inner_prefix": "10.200.0.0/31"}, "/inner_prefix")):
        refused = client.post(f"{line}/connections", json={"base_revision": 1, "connect": _connect(client, line, **fields)})
        assert (refused.status_code, refused.json()["errors"][0]["pointer"]) == (422, pointer)
    nobody = client.post(f"{line}/connections", json={"base_revision": 1, "connect": _connect(client, line, hub_ids=["aurelia"])})
    assert nobody.status_code == 200  # Harbour and Ostvik can be called; the hub calls them
    nothing = client.post(f"{line}/sites", json={"base_revision": 2, "start": {"text": "# nothing"}})
    assert (nothing.status_code, nothing.json()["title"]) == (422, "Nothing to add")
    start = {"text": "Yard: 10.67.0.0/24"}
    other = client.post(f"{line}/sites", json={"base_revision": 2, "incarnation": "another", "start": start})
    assert other.status_code == 409


def test_a_form_is_read_into_the_partners_end(client):
    """Whose networks are whose follows from the design; the change fills one end, and a key in the form is not repeated."""
    text = "Your gateway: 198.51.100.10\nLifetime phase 1: 28,800 s\nNetworks: 10.64.0.0/22, 10.64.30.0/25"
    asked = {"side": "right", "text": text}
    tarn = "/api/designs/skerry-line/tunnels/harbour-tarn"
    plan = client.post(f"{tarn}/form", json=asked).json()
    assert plan["is_clear"], plan["lines"]
    (operation,) = plan["operations"]
    assert operation["object"]["right"]["remote_networks"] == ["10.64.0.0/22", "10.64.30.0/25"]
    assert "Right end: Remote networks" in {field["field"] for field in plan["fields"]}
    both = client.post(f"{tarn}/form", json={"side": "right", "text": "Networks: 10.64.8.0/24"}).json()  # it collides
    assert (both["is_clear"], both["lines"][0]["choices"][0]) == (False, "partner's networks: 10.64.8.0/24")
    secret = client.post(f"{tarn}/form", json={"side": "right", "text": "PSK: Kite-Anchor-7319"})
    assert (secret.json()["is_clear"], "Kite" in secret.text) == (False, False)
    assert client.post("/api/designs/skerry-line/tunnels/none/form", json=asked).status_code == 404
