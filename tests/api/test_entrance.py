"""Sessions, and what stands before every request."""

from __future__ import annotations

import base64
import json
import time

import pytest
from starlette.testclient import TestClient

from pontifex.api import Sessions, create_app
from pontifex.api.session import LIFETIME_S
from tests.support.sessions import HOST, MASTER_KEY, SESSIONS


def test_a_session_outlives_a_restart_but_not_its_day(monkeypatch):
    """A cookie of one run is accepted by the next, which has another ticket; after its lifetime it is not."""
    cookie = Sessions(MASTER_KEY, "ann").open()
    again = Sessions(MASTER_KEY, "ben")
    assert again.person_of(cookie) == "ann"
    assert again.ticket != Sessions(MASTER_KEY, "ann").ticket
    later = time.time() + LIFETIME_S + 1
    monkeypatch.setattr("pontifex.api.session.time.time", lambda: later)
    assert again.person_of(cookie) is None


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
    assert SESSIONS.person_of(f"{payload}.{signature}") == "ann"
    assert SESSIONS.person_of(FORGERIES[forgery](payload, signature)) is None


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
