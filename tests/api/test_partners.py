"""Links for partners: one tunnel alone, without an account; ended, taken back, guessed; what comes back is read line by line."""

from __future__ import annotations

import pytest
from sqlalchemy import text

LINE = "/api/designs/skerry-line"
FILLED = {
    "networks": "10.90.4.0/24\n10.90.5.0/25",
    "phase1": "AES-256, SHA-256, group 14, 28800 s",
    "remark": "<script>x</script>",
}


@pytest.fixture
def link(client):
    """A link to the partner's end of a tunnel."""
    made = client.post(f"{LINE}/partner-links", json={"tunnel_id": "harbour-tarn", "side": "right", "days": 3})
    assert made.status_code == 201
    return made.json()


def test_a_partner_sees_one_tunnel_and_fills_in_its_end(client, stranger, link):
    """No session is needed; nothing of other tunnels is on the page; what is sent comes as a form, and changes nothing."""
    stranger.cookies.clear()
    page = stranger.get(link["path"])
    assert page.status_code == 200
    assert "Harbour–Tarn" in page.text
    assert "<script" not in page.text
    for other in ("Ostvik", "Corvina", "Brenna", "key LS2AP3"):
        assert other not in page.text
    assert stranger.get(LINE).status_code == 401
    assert stranger.post(link["path"], data=FILLED).status_code == 303
    again = stranger.get(link["path"]).text
    assert "What you send now replaces it" in again
    assert "&lt;script&gt;" in again


def test_what_comes_back_is_read_line_by_line(client, link):
    """The answer stands in the list of links as a form; the reader of forms takes it."""
    assert client.post(link["path"], data=FILLED).status_code == 303
    (shown,) = client.get(f"{LINE}/partner-links").json()
    assert (shown["state"], shown["side"]) == ("answered", "right")
    assert "Our networks: 10.90.4.0/24, 10.90.5.0/25" in shown["form"].splitlines()
    assert "path" not in shown
    wanted = "\n".join(line for line in shown["form"].splitlines() if not line.startswith("Remark"))
    plan = client.post(f"{LINE}/tunnels/harbour-tarn/form", json={"side": "right", "text": wanted}).json()
    assert plan["is_clear"]
    assert {field["field"] for field in plan["fields"]} >= {"Right end: Local networks", "Right end: IKE proposals"}


def test_a_link_that_opens_nothing_says_so(client, engine, link):
    """Guessed, changed by one letter, taken back, ended: each is told, and nothing is kept."""
    for wrong in ("/partner/x", link["path"][:-1] + ("a" if link["path"][-1] != "a" else "b"), f"{link['path']}.x"):
        refused = client.get(wrong)
        assert (refused.status_code, "none of ours" in refused.text) == (404, True)
    with engine.begin() as connection:
        connection.execute(text("UPDATE partner_link SET until = now() - interval '1 hour'"))
    assert client.get(link["path"]).status_code == client.post(link["path"], data=FILLED).status_code == 410
    other = client.post(f"{LINE}/partner-links", json={"tunnel_id": "harbour-tarn", "side": "right"}).json()
    assert client.delete(f"{LINE}/partner-links/{other['id']}").status_code == 204
    assert "taken back" in client.post(other["path"], data=FILLED).text
    assert all(not shown["form"] for shown in client.get(f"{LINE}/partner-links").json())
    assert client.post(f"{LINE}/partner-links", json={"tunnel_id": "nowhere", "side": "right"}).status_code == 404


def test_more_than_the_page_asks_for_is_not_kept(client, link):
    """A body that is too large is refused whole; unknown fields are left out."""
    assert client.post(link["path"], data={"networks": "x" * 200_000}).status_code == 413
    assert client.post(link["path"], data={"networks": "10.90.4.0/24", "other": "y"}).status_code == 303
    (shown,) = client.get(f"{LINE}/partner-links").json()
    assert shown["form"] == "Our networks: 10.90.4.0/24"
