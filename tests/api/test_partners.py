"""Links for partners: one tunnel alone, without an account; ended, taken back, guessed; what comes back is read line by line."""

from __future__ import annotations

import string
from io import BytesIO

import openpyxl
import pytest
from sqlalchemy import text as sql

from tests.support.sessions import SESSIONS

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
    path = link["path"]
    letters = f"{string.ascii_letters}{string.digits}-_"
    for wrong in ("/partner/x", f"{path}.x", *(path[:-1] + letter for letter in letters if letter != path[-1])):
        refused = client.get(wrong)
        assert (refused.status_code, "none of ours" in refused.text) == (404, True)
    with engine.begin() as connection:
        connection.execute(sql("UPDATE partner_link SET until = now() - interval '1 hour'"))
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


@pytest.mark.parametrize("form", ["xlsx", "txt"])
def test_a_worksheet_comes_back_filled_in(client, stranger, link, form):
    """As a file it asks the same as the page; filled in and read, it gives what the page gives; no secret is in it."""
    stranger.cookies.clear()
    answer = stranger.get(f"{link['path']}/worksheet.{form}")
    assert (answer.status_code, stranger.get(f"{link['path']}x/worksheet.{form}").status_code) == (200, 404)
    wanted = {"Our networks": "10.90.4.0/24, 10.90.5.0/25", "Phase 1": FILLED["phase1"]}
    if form == "xlsx":
        workbook = openpyxl.load_workbook(BytesIO(answer.content))
        for row in workbook["What you use"].iter_rows(min_row=2, max_col=2):
            row[1].value = wanted.get(str(row[0].value), "")
        assert "AES-GCM-16-256" in str([cell.value for row in workbook["What we use"] for cell in row])
        filled = BytesIO()
        workbook.save(filled)
        assert stranger.get(f"/open/{SESSIONS.ticket()}").status_code == 303
        text = client.post("/api/spreadsheet", content=filled.getvalue()).json()["text"]
    else:
        assert "AES-GCM-16-256" in answer.text
        text = "\n".join(f"{line}{wanted.get(line.removesuffix(': '), '')}" for line in answer.text.splitlines())
        assert stranger.get(f"/open/{SESSIONS.ticket()}").status_code == 303
    assert "LS2AP3" not in text
    plan = client.post(f"{LINE}/tunnels/harbour-tarn/form", json={"side": "right", "text": text}).json()
    page = "\n".join(f"{label}: {value}" for label, value in wanted.items())
    same = client.post(f"{LINE}/tunnels/harbour-tarn/form", json={"side": "right", "text": page}).json()
    assert plan["is_clear"]
    assert plan["fields"] == same["fields"]
    assert client.get(f"{LINE}/tunnels/harbour-tarn/worksheets/right/{form}").status_code == 200
