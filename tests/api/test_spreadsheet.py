"""Spreadsheets through HTTP: their cells as text, and what is none."""

from __future__ import annotations

import io
import zipfile

import openpyxl


def _workbook(*rows):
    book = openpyxl.Workbook()
    book.create_sheet("filled")
    for row in rows:
        book["filled"].append(row)
    content = io.BytesIO()
    book.save(content)
    return content.getvalue()


def test_a_spreadsheet_becomes_text(client):
    """The first sheet with anything in it comes back as cells parted by tabs, which importing reads."""
    content = _workbook(["Site", "Network", "Prefix", "VLAN"], ["Ostvik Terminal", "kiosks", "10.65.8.0/24", 12], [], ["x"])
    headers = {"Content-Type": "application/octet-stream"}
    text = client.post("/api/spreadsheet", content=content, headers=headers).json()["text"]
    assert text.splitlines()[:2] == ["Site\tNetwork\tPrefix\tVLAN", "Ostvik Terminal\tkiosks\t10.65.8.0/24\t12"]
    lines = client.post("/api/designs/skerry-line/import-plan", json={"text": text}).json()["lines"]
    assert lines[0]["became"] == "network kiosks 10.65.8.0/24 at Ostvik Terminal"


def test_what_is_no_spreadsheet_is_refused(client):
    """A broken file, and one that unpacks to far more than it is, are refused with a reason."""
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * 30_000_000)
    for content in (b"", b"PK\x03\x04", b"site,network", bomb.getvalue(), _workbook(["x"])[:-40]):
        answer = client.post("/api/spreadsheet", content=content, headers={"Content-Type": "application/octet-stream"})
        assert (answer.status_code, answer.json()["title"]) == (422, "This is no spreadsheet")
