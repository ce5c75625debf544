"""Sessions, and what stands before every request."""

from __future__ import annotations

import base64
import json
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from starlette.testclient import TestClient

from pontifex.api import Sessions, create_app
from pontifex.api.guard import Guard
from pontifex.api.rates import Rates
from pontifex.api.session import LIFETIME_S
from pontifex.api.whole import complete
from pontifex.demo import load_demo
from pontifex.store.spent_tokens import SpentTokens
from tests.support.sessions import HOST, MASTER_KEY, SESSIONS


def test_a_session_outlives_a_restart_but_not_its_day(monkeypatch):
    """A cookie of one run is accepted by the next; after its lifetime it is not, and neither is a ticket."""
    cookie, ticket = Sessions(MASTER_KEY, "ann").open(), Sessions(MASTER_KEY, "ann").ticket()
    again = Sessions(MASTER_KEY, "ben")
    assert _person(again, cookie) == "ann"
    assert again.session_of(ticket) is None, "a ticket is no session"
    assert again.redeem(cookie) is None, "a session is no ticket"
    later = time.time() + LIFETIME_S + 1
    monkeypatch.setattr("pontifex.api.session.time.time", lambda: later)
    assert _person(again, cookie) is None
    assert again.redeem(ticket) is None


def _person(sessions, cookie):
    session = sessions.session_of(cookie)
    return session and session.person


def test_a_ticket_opens_one_session(stranger, engine):
    """The second time it is refused, also after a restart; whoever has a session already just goes on."""
    address = f"/open/{SESSIONS.ticket()}"
    assert stranger.get(address).status_code == 303
    assert stranger.get(address).status_code == 303, "the same browser goes on"
    stranger.cookies.clear()
    refused = stranger.get(address)
    assert (refused.status_code, "pontifex ticket" in refused.json()["detail"]) == (403, True)
    first, second = (Sessions(MASTER_KEY, "ann", "/", SpentTokens(engine)) for _ in range(2))
    ticket = first.ticket()
    assert first.redeem(ticket)
    assert second.redeem(ticket) is None


def test_signing_out_ends_the_session(client, engine):
    """The cookie opens nothing any more, here and, a moment later, on another server; other sessions go on."""
    kept = SESSIONS.open()
    cookie = client.cookies["pontifex"]
    assert client.delete("/api/session").status_code == 204
    assert client.get("/api/designs").status_code == 401
    for one, status in ((cookie, 401), (kept, 200)):
        assert client.get("/api/designs", headers={"Cookie": f"pontifex={one}"}).status_code == status
    first, second = (Sessions(MASTER_KEY, "ann", "/", SpentTokens(engine)) for _ in range(2))
    first.end(kept)
    second.refresh()
    assert second.session_of(kept) is None


def test_too_many_requests_are_told_to_wait():
    """Each session has a bucket of its own, which is filled again as time goes by."""
    now = [0.0]
    rates = Rates(a_second=2, at_once=3, clock=lambda: now[0])
    assert [rates.wait_s("ann") for _ in range(4)] == [0, 0, 0, 1]
    assert rates.wait_s("ben") == 0
    now[0] = 0.5
    assert [rates.wait_s("ann"), rates.wait_s("ann")] == [0, 1]
    now[0] = 100
    assert [rates.wait_s("ann") for _ in range(4)] == [0, 0, 0, 1]


def test_a_flood_is_answered_with_when_to_come_again(app):
    """After a burst the answer is 429 with the seconds to wait; others are answered as before."""
    guard = Guard(app, SESSIONS, frozenset({HOST}), "pontifex", Rates(a_second=0.1, at_once=3))
    with TestClient(guard, base_url=f"http://{HOST}") as client:
        ann, ben = ({"Cookie": f"pontifex={SESSIONS.open()}"} for _ in range(2))
        assert [client.get("/api/session", headers=ann).status_code for _ in range(4)] == [200, 200, 200, 429]
        assert client.get("/api/session", headers=ann).headers["retry-after"] == "10"
        assert client.get("/api/session", headers=ben).status_code == 200


@pytest.mark.parametrize(
    "origin", ["http://127.0.0.1", "http://127.0.0.1:9999", "https://rival.example", "null", "file://127.0.0.1:8470"]
)
def test_a_page_on_another_port_is_foreign(client, origin):
    """The origin has to be the very address that was asked, port included."""
    assert client.get("/api/session", headers={"Origin": f"http://{HOST}"}).status_code == 200
    assert client.get("/api/session", headers={"Origin": origin}).status_code == 403


def test_the_cookie_is_secure_where_tls_is(app):
    """Over TLS the cookie is for TLS alone."""
    for scheme, secure in (("http", False), ("https", True)):
        with TestClient(app, base_url=f"{scheme}://{HOST}", follow_redirects=False) as client:
            cookie = client.get(f"/open/{SESSIONS.ticket()}").headers["set-cookie"]
            assert ("Secure" in cookie) is secure
            assert "HttpOnly" in cookie


def _with_other_claims(payload, signature):
    claims = {**json.loads(base64.urlsafe_b64decode(payload)), "person": "mallory"}
    return f"{base64.urlsafe_b64encode(json.dumps(claims).encode()).decode()}.{signature}"


FORGERIES = {
    "other claims": _with_other_claims,
    "other signature": lambda payload, signature: f"{payload}.{signature[:-4]}AAA=",
    "other master key": lambda payload, signature: Sessions(bytes(32), "ann").open(),
    "no signature": lambda payload, signature: f"{payload}.",
    "empty": lambda payload, signature: "",
    "only a dot": lambda payload, signature: ".",
    "not base64": lambda payload, signature: "a.b",
    "three parts": lambda payload, signature: "a.b.c",
    "no cookie at all": lambda payload, signature: "no cookie",
}


@pytest.mark.parametrize("forgery", FORGERIES)
def test_a_forged_session_is_none(forgery):
    """A cookie with other claims, another signature or of another master key opens nothing."""
    payload, _, signature = SESSIONS.open().partition(".")
    assert _person(SESSIONS, f"{payload}.{signature}") == "ann"
    assert _person(SESSIONS, FORGERIES[forgery](payload, signature)) is None


def test_every_answer_forbids_framing_and_foreign_script(stranger):
    """Refusals and answers alike carry the headers that keep foreign pages and scripts out."""
    for path in ("/api/health", "/api/designs", "/"):
        headers = stranger.get(path).headers
        assert "default-src 'self'" in headers["content-security-policy"]
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "no-referrer"


def test_views_and_files_of_the_front_end(designs, keys, workers, tmp_path):
    """Each view's address gives the page, files are served as they are, and nothing outside the folder is."""
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<title>Pontifex</title>")
    (tmp_path / "favicon.svg").write_text("<svg/>")
    (tmp_path / "assets" / "app.js").write_text("1")
    (tmp_path.parent / "outside.txt").write_text("outside")
    app = create_app(designs, keys, workers, SESSIONS, frozenset({HOST}), "pontifex", tmp_path, "build")
    with TestClient(app, base_url=f"http://{HOST}") as client:
        for view in ("/", "/d/skerry-line/match/harbour-brenna", "/d/skerry-line/survey/networks?at=x/y"):
            assert "<title>Pontifex</title>" in client.get(view).text
        assert client.get("/assets/app.js").text == "1"
        assert client.get("/favicon.svg").text == "<svg/>"
        assert "outside" not in client.get("/assets/..%2f..%2foutside.txt").text


def test_what_comes_before_the_whole_api_waits_for_it(designs, keys, records, workers, tmp_path):
    """The first page is answered at once; a request for anything else is answered once the rest of the API is there."""
    load_demo(designs, keys)
    app = create_app(designs, keys, workers, SESSIONS, frozenset({HOST}), "pontifex", tmp_path, "build")
    with TestClient(app, base_url=f"http://{HOST}") as client, ThreadPoolExecutor() as pool:
        client.get(f"/open/{SESSIONS.ticket()}")
        kinds, link = (pool.submit(client.get, path) for path in ("/api/kinds", "/partner/none"))
        assert client.get("/api/session").json() == {"person": "ann"}
        assert client.get("/api/designs/skerry-line").json()["name"] == "Skerry Line"
        assert not kinds.done()
        assert not link.done()
        complete(app, records)
        assert kinds.result().json()[0]["type"]
        assert link.result().status_code == 404


def test_addresses_that_are_none(client):
    """An address of the API that doesn't exist, a design or a tunnel that isn't there: problem details with 404."""
    for path in ("/api/none", "/api/designs/none", "/api/designs/skerry-line/tunnels/none/match"):
        answer = client.get(path)
        assert (answer.status_code, answer.headers["content-type"]) == (404, "application/problem+json")
    assert client.get("/api/designs/skerry-line/tunnels/none/match").json()["detail"].startswith("There is no tunnel 'none'")
    assert client.get("/").status_code == 503, "the front end of these tests is not built"


def test_the_registry_is_told(client):
    """The list of transforms holds IANA's names with what to make of each, for the editor of proposals."""
    rows = {(row["type"], row["id"]): row for row in client.get("/api/transforms").json()}
    assert rows["ENCR", 20]["name"] == "ENCR_AES_GCM_16"
    assert (rows["ENCR", 20]["combined_mode"], rows["ENCR", 20]["key_lengths"]) == (True, [128, 192, 256])
    assert rows["KE", 1]["level"] == "retired"


def test_text_is_read_word_by_word(client):
    """A partner's text comes back word by word with the proposals that follow; too long a text is refused."""
    read = client.post("/api/proposals/read", json={"text": "Phase 2: AES, SHA1, kindly", "protocol": "ike"}).json()
    assert [word["kind"] for word in read["words"]] == ["understood", "ambiguous", "understood", "unknown"]
    assert read["words"][1]["choices"] == ["AES-CBC-128", "AES-CBC-192", "AES-CBC-256"]
    assert (len(read["ike"]), len(read["child"])) == (0, 1)
    refused = client.post("/api/proposals/read", json={"text": "x" * 20_001, "protocol": "ike"})
    assert (refused.status_code, refused.json()["errors"][0]["pointer"]) == (422, "/text")
