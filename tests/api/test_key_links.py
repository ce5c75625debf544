"""A key by a separate channel: a link and a spoken code, once; guessed, tried too often, ended."""

from __future__ import annotations

import re

import pytest
from sqlalchemy import text

LINE = "/api/designs/skerry-line"
SECRET = "a key that was thought of, 71 & <more>"


@pytest.fixture
def reference(client):
    """The reference of a key in the vault."""
    return client.post(f"{LINE}/keys", json={"how": "set", "secret": SECRET}).json()["reference"]


def _link(client, reference):
    made = client.post(f"{LINE}/key-links", json={"reference": reference, "hours": 2})
    assert made.status_code == 201
    return made.json()


def test_a_key_is_shown_once_to_whoever_has_the_code(client, stranger, reference, capfd):
    """The link alone shows nothing; with the code, however it is typed, the key is shown, once, and its showing is logged."""
    link = _link(client, reference)
    assert SECRET not in str(link)
    assert len(link["spoken"].split()) == len(link["code"]) == 8
    stranger.cookies.clear()
    asked = stranger.get(link["path"])
    assert (asked.status_code, "Code that you were told" in asked.text) == (200, True)
    typed = f" {link['code'][:4].lower()} {link['code'][4:]} "
    shown = stranger.post(link["path"], data={"code": typed})
    assert shown.status_code == 200
    assert "a key that was thought of, 71 &amp; &lt;more&gt;" in re.sub(r"\s+", " ", shown.text)
    assert shown.headers["cache-control"] == "no-store"
    for again in (stranger.get(link["path"]), stranger.post(link["path"], data={"code": link["code"]})):
        assert (again.status_code, SECRET[:10] in again.text) == (410, False)
    logged = "".join(capfd.readouterr())
    assert "key shown" in logged
    assert SECRET not in logged
    assert link["path"].removeprefix("/key/") not in logged


def test_a_code_is_tried_five_times_at_most(client, reference):
    """Wrong codes are counted; after five the link opens nothing, the right code included."""
    link = _link(client, reference)
    answers = [client.post(link["path"], data={"code": "WRONGONE"}).status_code for _ in range(5)]
    assert answers == [403, 403, 403, 403, 410]
    assert client.post(link["path"], data={"code": link["code"]}).status_code == 410


def test_links_end_and_the_newer_one_holds(client, engine, reference):
    """A second link to one key closes the first; a link ends with its time; guessed tokens open nothing."""
    first, second = _link(client, reference), _link(client, reference)
    assert client.post(first["path"], data={"code": first["code"]}).status_code == 410
    assert client.get("/key/x.y").status_code == 410
    with engine.begin() as connection:
        connection.execute(text("UPDATE key_link SET until = now() - interval '1 minute'"))
    assert client.post(second["path"], data={"code": second["code"]}).status_code == 410
    unknown = {"reference": "8f14e45f-ceea-467f-a8e5-0f6d0a1b2c3d"}
    assert client.post(f"{LINE}/key-links", json=unknown).status_code in (404, 409, 422)
