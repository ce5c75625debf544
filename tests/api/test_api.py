"""The API as programs use it: answers, refusals, sessions, and what never leaves it."""

from __future__ import annotations

import json
import re

import pytest
import schemathesis
import structlog
from hypothesis import HealthCheck, given, settings
from schemathesis import checks
from schemathesis.core.result import Ok

from pontifex.demo.tunnels import DEMO_KEYS, key_reference
from tests.support.sessions import HOST, SESSIONS

DESIGN = "/api/designs/skerry-line"
AS_DESCRIBED = [
    checks.not_a_server_error,
    checks.status_code_conformance,
    checks.content_type_conformance,
    checks.response_schema_conformance,
]
SESSION = {"Host": HOST, "Cookie": f"pontifex={SESSIONS.open()}"}


def _put(type_, **fields):
    return {"op": f"put-{type_}", "object": fields}


def _change(client, base, *operations, **more):
    body = {"base_revision": base, "note": "test", "operations": list(operations), **more}
    return client.post(f"{DESIGN}/changes", json=body)


def test_an_unchanged_design_costs_no_body(client):
    """With the ETag of the current revision the answer is 304 and empty; after a change it is whole again."""
    for path in ("", "/analysis", "/tunnels/harbour-brenna/match"):
        first = client.get(DESIGN + path)
        again = client.get(DESIGN + path, headers={"If-None-Match": first.headers["etag"]})
        assert (first.status_code, again.status_code, again.content) == (200, 304, b"")
    tag = client.get(DESIGN).headers["etag"]
    assert _change(client, 0, _put("site", id="yard", name="Yard")).json()["revision"] == 1
    fresh = client.get(DESIGN, headers={"If-None-Match": tag})
    assert fresh.status_code == 200
    assert fresh.json()["revision"] == 1


def _named(finding):
    where = [{part: place[part] for part in ("type", "id", "field")} for place in finding["where"]]
    return {"code": finding["code"], "where": where}


def test_mend_undo_and_redo_through_the_api(client):
    """A finding's own operations mend it; undo brings it back, redo takes it away again."""

    def finding():
        found = client.get(f"{DESIGN}/analysis").json()["findings"]
        return next((candidate for candidate in found if candidate["code"] == "end.key-differs"), None)

    named = _named(finding())
    operations = client.post(f"{DESIGN}/remedies", json=named).json()[0]["operations"]
    tried = _change(client, 0, *operations, dry_run=True).json()
    assert tried["revision"] == 0
    assert [field["field"] for field in tried["fields"]] == ["Right end: Pre-shared key"]
    assert finding()
    assert _change(client, 0, *operations).status_code == 200
    assert finding() is None
    gone = client.post(f"{DESIGN}/remedies", json=named)
    assert (gone.status_code, gone.json()["title"]) == (404, "No such finding")
    history = client.get(f"{DESIGN}/changes").json()
    assert (history["undo"], history["redo"], history["changes"][0]["author"]) == ("test", None, "ann")
    assert client.post(f"{DESIGN}/undo", json={"base_revision": 1}).status_code == 200
    assert finding()
    assert client.post(f"{DESIGN}/redo", json={"base_revision": 2}).status_code == 200
    assert finding() is None
    assert client.post(f"{DESIGN}/redo", json={"base_revision": 3}).json()["detail"] == "There is nothing to redo."


def test_several_findings_are_mended_accepted_and_gone_back_from(client):
    """Findings are mended by one change and accepted until a day; a way back leads to the very design that was."""

    def findings():
        return client.get(f"{DESIGN}/analysis").json()["findings"]

    before = client.get(DESIGN).json()
    mendable = [candidate for candidate in findings() if candidate["mendable"]]
    mending = client.post(f"{DESIGN}/mending", json={"findings": [_named(finding) for finding in mendable]}).json()
    assert mending["mended"] > 1
    assert mending["fields"]
    assert _change(client, 0, *mending["operations"]).json()["revision"] == 1
    left = [_named(finding) for finding in findings()]
    assert sum(_named(finding) not in left for finding in mendable) >= mending["mended"]
    lived = left[0]
    at = {f"at_{part}": lived["where"][0][part] for part in ("type", "id", "field")}
    fields = {"id": "lived", "name": "lived", "code": lived["code"], **at, "until": "2099-12-31", "accepted_by": "Runa Falk"}
    refused = _change(client, 1, _put("acceptance", **fields, reason=" ")).json()["errors"]
    assert refused == [{"pointer": "/operations/0/object/reason", "detail": "must not be empty"}]
    assert _change(client, 1, _put("acceptance", **fields, reason="until the dock is rebuilt")).status_code == 200
    told = next(candidate for candidate in findings() if _named(candidate) == lived)["accepted"]
    assert (told["holds"], told["reason"], told["until"]) == (True, "until the dock is rebuilt", "2099-12-31")
    assert client.get(f"{DESIGN}/revisions/9/way-back").status_code == 404
    way = client.get(f"{DESIGN}/revisions/0/way-back").json()
    assert _change(client, 2, *way["operations"]).json()["revision"] == 3
    after = client.get(DESIGN).json()
    assert {key: value for key, value in after.items() if key != "revision"} == {
        key: value for key, value in before.items() if key != "revision"
    }
    assert client.get(f"{DESIGN}/revisions/3/way-back").json()["operations"] == []


@pytest.mark.parametrize(
    ("operation", "pointer", "detail"),
    [
        (
            _put("network", id="x", site_id="ostvik", name="x", prefix="10.64.0.1/22"),
            "/operations/0/object/prefix",
            "host bits are set in 10.64.0.1/22; did you mean 10.64.0.0/22?",
        ),
        (
            _put("network", id="x", site_id="ostvik", name="x", prefix="10.0.0.0/33"),
            "/operations/0/object/prefix",
            "out of range",
        ),
        (
            _put("network", id="x", site_id="none", name="x", prefix="10.9.0.0/24"),
            "/operations/0/object/site_id",
            "no site 'none'",
        ),
        (_put("network", id="x", site_id="ostvik", name="x"), "/operations/0/object/prefix", "is missing"),
        (_put("site", id="x", name="ostvik terminal"), "/operations/0/object/name", "another site is called 'Ostvik Terminal'"),
        (_put("site", id="X Y", name="x"), "/operations/0/object/id", "lower-case letters, digits and hyphens"),
        (_put("site", id="x", name="x", colour="red"), "/operations/0/object/colour", "no such field"),
        (
            _put("uplink", id="x", gateway_id="ostvik-gateway", name="x", dns_name="dotless"),
            "/operations/0/object/dns_name",
            "DNS",
        ),
        ({"op": "remove", "type": "site", "id": "ostvik"}, "/operations/0/id", "still needs site 'ostvik'"),
        (_put("site", id="x", name="a\nb"), "/operations/0/object/name", "one line without control characters"),
        ({"op": "paint"}, "/operations/0", "must be one of"),
    ],
)
def test_a_refused_operation_is_problem_details(client, operation, pointer, detail):
    """Each refused operation says by JSON pointer which field and why, and nothing is written."""
    answer = _change(client, 0, operation)
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    problem = answer.json()
    assert problem["errors"][0]["pointer"] == pointer
    assert detail in problem["errors"][0]["detail"]
    assert client.get(DESIGN).json()["revision"] == 0


def test_two_people_edit_the_same_field(client):
    """The second is told who changed what meanwhile, and nothing of the second's change is written."""
    _change(client, 0, _put("site", id="ostvik", name="Ostvik Quay"))
    answer = _change(client, 0, _put("site", id="ostvik", name="Ostvik Pier"))
    assert answer.status_code == 409
    assert "site 'Ostvik Quay'" in answer.json()["detail"]
    assert answer.json()["meanwhile"][0]["fields"][0]["before"] == "Ostvik Terminal"
    assert client.get(DESIGN).json()["revision"] == 1


def test_a_conflict_is_told_in_short(client):
    """After many large changes a conflict names what collides, the newest changes and how many there are, and no history."""
    for k in range(30):
        sites = [_put("site", id=f"site-{at}", name=f"Site {at} {k}") for at in range(100)]
        assert _change(client, k, *sites, _put("site", id="ostvik", name=f"Ostvik {k}")).is_success
    answer = _change(client, 0, _put("site", id="ostvik", name="Ostvik Pier"))
    body = answer.json()
    assert (answer.status_code, body["meanwhile_count"], len(body["meanwhile"])) == (409, 30, 20)
    assert {field["id"] for change in body["meanwhile"] for field in change["fields"]} == {"ostvik"}
    assert len(answer.content) < 20_000


def test_too_much_at_once(client):
    """Seventeen megabytes are refused with what to do, whether or not the request says how long it is."""
    body = json.dumps({"base_revision": 0, "note": "x" * 17_000_000, "operations": []}).encode()
    chunks = (body[at : at + 65536] for at in range(0, len(body), 65536))
    for content in (body, chunks):
        answer = client.post(f"{DESIGN}/changes", content=content, headers={"Content-Type": "application/json"})
        assert answer.status_code == 413
        assert "16 MB at most" in answer.json()["detail"]


def test_keys_go_in_and_come_out_once(client):
    """A key is set or generated, and shown once; it is in no other answer, export, log or change."""
    secret = "Kite-Anchor-7319 "
    facts = client.post(f"{DESIGN}/keys", json={"how": "set", "secret": secret}).json()
    assert (facts["length"], facts["end"]) == (17, "blank")
    tunnel = next(candidate for candidate in client.get(DESIGN).json()["tunnels"] if candidate["id"] == "harbour-ostvik")
    tunnel["left"]["key"] = facts
    assert _change(client, 0, {"op": "put-tunnel", "object": tunnel}).status_code == 200
    with structlog.testing.capture_logs() as lines:
        shown = client.post(f"{DESIGN}/keys/{facts['reference']}/show")
    assert {"event": "key shown", "person": "ann"}.items() <= lines[0].items()
    assert (shown.json(), shown.headers["cache-control"]) == ({"secret": secret}, "no-store")
    again = client.post(f"{DESIGN}/keys/{facts['reference']}/show")
    assert again.status_code == 409
    assert "to ann; set or generate a new one." in again.json()["detail"]
    generated = client.post(f"{DESIGN}/keys", json={"how": "generate"}).json()
    assert (generated["strength_bits"], generated["length"]) == (256, 56)
    refused = client.post(f"{DESIGN}/keys", json={"how": "set", "secret": "Kite" * 500})
    texts = [client.get(DESIGN + path).text for path in ("", "/export", "/analysis", "/changes")]
    for text in (*texts, refused.text, again.text, str(lines)):
        assert "Kite" not in text
        assert not [key for key in DEMO_KEYS.values() if key.strip() in text]


def test_the_demo_keys_are_in_the_vault(client):
    """What the demo's design says of its keys is true of the keys in the vault."""
    shown = client.post(f"{DESIGN}/keys/{key_reference('brenna-harbour')}/show").json()["secret"]
    assert shown == DEMO_KEYS["brenna-harbour"]
    assert shown.endswith(" ")


def test_export_and_import(client):
    """What Export writes, Import reads as a design of its own; a wrong file is refused with the place."""
    exported = client.get(f"{DESIGN}/export")
    assert exported.headers["content-disposition"] == 'attachment; filename="skerry-line.pontifex.json"'
    made = client.post("/api/designs/import", content=exported.content)
    assert (made.status_code, made.json()["id"]) == (201, "skerry-line-2")
    assert client.get("/api/designs/skerry-line-2/export").content == exported.content
    assert client.post(f"/api/designs/skerry-line-2/keys/{key_reference('harbour-ostvik')}/show").status_code == 404
    wrong = client.post("/api/designs/import", content=exported.text.replace("10.66.1.0/26", "10.66.1.0/99"))
    assert wrong.status_code == 422
    assert wrong.json()["errors"][0]["pointer"] == "design.networks[6].prefix"
    assert client.post("/api/designs/import", content=b"\xff\xfe{").json()["errors"][0]["detail"] == "not UTF-8"
    assert len(client.get("/api/designs").json()) == 2


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"Host": "pontifex.example"}, 421),
        ({"Origin": "http://pontifex.example"}, 403),
        ({"Sec-Fetch-Site": "cross-site"}, 403),
        ({"Cookie": "pontifex=forged.forged"}, 401),
        ({"Cookie": "pontifex="}, 401),
        ({"Origin": "http://127.0.0.1:8470", "Sec-Fetch-Site": "same-origin"}, 422),
    ],
)
def test_who_may_speak(client, headers, status):
    """A foreign Host or Origin is refused, and so is who has no session; the own page is let through."""
    if "Cookie" in headers:
        client.cookies.clear()
    answer = client.post(f"{DESIGN}/undo", json={}, headers=headers)
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"


def test_only_the_printed_address_opens_a_session(stranger):
    """Without the ticket there is no session, and no answer but that the server is alive."""
    assert stranger.get("/api/designs").status_code == 401
    assert stranger.get("/open/guess").status_code == 403
    assert stranger.get("/api/health").json() == {"alive": True, "failed_checks": 0}
    opened = stranger.get(f"/open/{SESSIONS.ticket()}")
    cookie = opened.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    assert stranger.get("/api/session").json() == {"person": "ann"}


def test_the_log_holds_no_ticket(stranger):
    """Requests are logged by method, path and status; the ticket is not in it."""
    with structlog.testing.capture_logs() as lines:
        stranger.get(f"/open/{SESSIONS.ticket()}")
        stranger.get("/api/health")
    assert [line["path"] for line in lines] == ["/open/…", "/api/health"]


def test_a_database_that_is_away(client, cluster, engine):
    """While the database is away the answer says so; back again, the same server answers without a restart."""
    assert client.get(DESIGN).status_code == 200
    port = cluster.url().rpartition(":")[2].partition("/")[0]
    cluster.stop()
    try:
        away = _change(client, 0, _put("site", id="yard", name="Yard"))
        assert away.status_code == 503
        assert "Nothing was written" in away.json()["detail"]
        assert client.get(DESIGN).status_code == 503
    finally:
        cluster.start(int(port))
    assert client.get(DESIGN).json()["revision"] == 0
    assert _change(client, 0, _put("site", id="yard", name="Yard")).json()["revision"] == 1


def test_the_description_is_complete(client):
    """Every operation has a summary and a description, and every model that it names by reference is there."""
    answer = client.get("/api/openapi.json")
    document = answer.json()
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            assert operation.get("summary"), (path, method)
            assert operation.get("description"), (path, method)
            assert "422" in operation["responses"]
    named = set(re.findall(r'"#/components/schemas/([^"]+)"', answer.text))
    assert {"DesignFile", "RehearsalShown"} <= named <= document["components"]["schemas"].keys()


BIG = "9" * 5000
ODD_REQUESTS = {
    "a number of thousands of digits": (f"{DESIGN}/changes", f'{{"base_revision": {BIG}, "note": "x", "operations": []}}', 400),
    "half of a pair": (f"{DESIGN}/changes", '{"base_revision": 0, "note": "\\ud800", "operations": []}', 422),
    "half of a pair as a key": ("/api/designs", '{"\\ud800": 1, "name": "x"}', 422),
    "NUL in a name": ("/api/designs", '{"name": "a\\u0000b"}', 422),
    "a design file with a large number": ("/api/designs/import", f'{{"format": {BIG}}}', 422),
    "a design file with half of a pair": ("/api/designs/import", '{"format": "x", "\\ud800": "\\ud800"}', 422),
    "no text at all": ("/api/designs/import", b"\xff\xfe\x00", 422),
}


@pytest.mark.parametrize("what", ODD_REQUESTS)
def test_odd_requests_are_refused_in_words(client, what):
    """Numbers, texts and octets that nothing can be are refused as problem details, with all headers."""
    path, body, status = ODD_REQUESTS[what]
    answer = client.post(path, content=body, headers={"Content-Type": "application/json"})
    assert answer.status_code == status
    assert answer.json()["detail"]
    assert answer.headers["cache-control"] == "no-store"
    assert "base-uri 'none'" in answer.headers["content-security-policy"]


def test_no_request_breaks_the_server(app, client):
    """Requests drawn from the description, right and wrong ones, are answered as described and never by a 500."""
    assert client.get("/api/health").is_success
    described = schemathesis.openapi.from_asgi("/api/openapi.json", app, headers=SESSION)
    operations = [operation.ok() for operation in described.get_all_operations() if isinstance(operation, Ok)]
    assert len(operations) >= 15
    for operation in operations:

        @settings(max_examples=8, suppress_health_check=list(HealthCheck), deadline=None)
        @given(case=operation.as_strategy())
        def answers(case):
            case.call_and_validate(headers=SESSION, checks=AS_DESCRIBED)

        answers()


def test_the_address_space_through_http(client):
    """Usage, room, plans, ways out, translations and importing are answered; none of them writes anything."""
    assert client.get(f"{DESIGN}/space").json()["supernets"][0]["prefix"] == "10.64.0.0/11"
    room = client.get(f"{DESIGN}/sites/ostvik/room", params={"length": 24}).json()
    assert room[0] == {"prefix": "10.65.1.0/24", "summary": "10.65.0.0/21", "foreign": 0}
    plan = client.post(f"{DESIGN}/networks/ostvik-ticketing/renumbering", json={}).json()
    assert (plan["before"], plan["after"]) == ("10.65.0.0/24", "10.65.1.0/24")
    bad = client.post(f"{DESIGN}/networks/ostvik-ticketing/renumbering", json={"prefix": "10.90.0.1/24"})
    assert (bad.status_code, bad.json()["errors"][0]["pointer"]) == (422, "/prefix")
    sized = client.post(f"{DESIGN}/networks/ostvik-ticketing/renumbering", json={"prefix": "10.90.0.0/25"})
    assert "a network moves to a prefix of its own size" in sized.json()["detail"]
    assert client.post(f"{DESIGN}/networks/nothing/renumbering", json={}).status_code == 404
    assert client.get(f"{DESIGN}/sites/nothing/room", params={"length": 24}).status_code == 404
    out = client.get(f"{DESIGN}/ways-out").json()
    assert all(group["exact"] for group in out["groups"])
    options = client.get(f"{DESIGN}/networks/tarn-berth-system/translations").json()
    assert options[0]["plans"][0]["seen_by"] == "Harbour House"
    assert client.get(f"{DESIGN}/translations/nothing").status_code == 404
    imported = client.post(f"{DESIGN}/import-plan", json={"text": "kiosks 10.65.8.0/24", "site_id": "ostvik"}).json()
    assert imported["lines"][0]["became"] == "network kiosks 10.65.8.0/24 at Ostvik Terminal"
    assert client.get(DESIGN).json()["revision"] == 0
    assert _change(client, 0, *out["operations"]).status_code == 200
    assert not client.get(f"{DESIGN}/ways-out").json()["groups"]
    assert _change(client, 1, *imported["operations"]).json()["revision"] == 2


def test_a_translation_is_told_and_kept(client):
    """A translation that was put is there again after reading, and its plan says what is seen as what."""
    fields = {"id": "t", "gateway_id": "ostvik-gateway", "name": "t", "inside": "10.65.0.0/24", "outside": "10.90.0.0/24"}
    assert _change(client, 0, _put("translation", **fields)).status_code == 200
    plan = client.get(f"{DESIGN}/translations/t").json()
    assert plan["table"][0] == {"what": "ticketing", "real": "10.65.0.0/24", "seen": "10.90.0.0/24"}
    refused = _change(client, 1, _put("translation", **{**fields, "outside": "10.90.0.0/25"}))
    assert "one-to-one needs two prefixes of one size" in refused.json()["detail"]
