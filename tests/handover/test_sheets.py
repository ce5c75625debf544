"""Sheets: every value of an end that is known, none of its secrets, and what is to be asked."""

from __future__ import annotations

import json
import socket

import pytest
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.design_file import write_design_file
from pontifex.core.findings import analyse
from pontifex.core.handover.sheets import sheet, sheet_html, sheet_markdown
from pontifex.core.handover.sheets.pdf import pdf_of
from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.rows import FIELDS
from pontifex.core.model.written import ABSENT, WrittenObject
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY

DEMO = demo_design()
ANALYSIS = analyse(DEMO, TODAY)


@pytest.mark.parametrize("tunnel_id", [tunnel.id for tunnel in DEMO.tunnels])
@pytest.mark.parametrize("side", SIDES)
def test_a_sheet_has_every_value_that_the_technology_compares(tunnel_id, side):
    """Each known field stands once, as the design writes it; an unknown one that decides something is asked for."""
    tunnel = DEMO.tunnel_by_id[tunnel_id]
    end = tunnel.end(side)
    found = sheet(DEMO, tunnel_id, side, ANALYSIS)
    lines = [line for section in found.sections for line in section.lines]
    assert len({line.field for line in lines}) == len(lines)
    assert {line.field for line in lines} <= FIELDS[end.technology]
    for line in lines:
        text = WrittenObject(tunnel, DEMO).field(f"{side.value}/{line.field}", getattr(end, line.field))
        assert line.value == ("" if text == ABSENT else text)
        assert not (line.value and line.ask)
    for written in (sheet_markdown(found), sheet_html(found)):
        assert found.device in written
        assert "Undefined" not in written


def test_the_other_end_stands_beside_what_must_fit_it():
    """An identity that is expected stands beside the one that the other end sends, its peer's address beside the uplink's."""
    found = sheet(DEMO, "harbour-corvina", Side.LEFT, ANALYSIS)
    by_field = {line.field: line for section in found.sections for line in section.lines}
    tunnel = DEMO.tunnel_by_id["harbour-corvina"]
    assert by_field["remote_identity"].counterpart == str(tunnel.right.local_identity)
    assert by_field["key"].is_secret
    assert "IKE_AUTH" in " ".join(found.log)


def test_markup_in_a_name_is_text():
    """A name with markup or a table's bars in it stays text on the page and in Markdown."""
    tunnel = DEMO.tunnel_by_id[SOUND].changed(name='<b>"Ost|vik"</b>')
    design = DEMO.changed(tunnels=tuple(tunnel if candidate.id == SOUND else candidate for candidate in DEMO.tunnels))
    assert "<b>" not in sheet_html(sheet(design, SOUND, Side.LEFT, ANALYSIS))


def test_the_command_prints_each_format(tmp_path):
    """Markdown, a page, JSON; exit 2 for a tunnel that isn't there."""
    file = tmp_path / "line.json"
    file.write_text(write_design_file(DEMO))
    run = CliRunner().invoke
    assert "## Phase 1: IKE SA" in run(app, ["sheet", str(file), SOUND, "--for", "right"]).stdout
    assert run(app, ["sheet", str(file), SOUND, "--format", "html"]).stdout.startswith("<!doctype html>")
    assert json.loads(run(app, ["sheet", str(file), SOUND, "--format", "json"]).stdout)["tunnel_id"] == SOUND
    assert run(app, ["sheet", str(file), SOUND, "--format", "pdf"]).stdout_bytes[:5] == b"%PDF-"
    assert run(app, ["sheet", str(file), "nowhere"]).exit_code == 2


def test_a_page_that_is_set_fetches_nothing(tmp_path):
    """Whatever a page asks for, nothing is fetched: it is set without."""
    listening = socket.create_server(("127.0.0.1", 0))
    listening.settimeout(0.2)
    port = listening.getsockname()[1]
    hidden = tmp_path / "hidden.txt"
    hidden.write_text("p::after { content: 'hidden words' }")
    page = f'<p>x</p><img src="http://127.0.0.1:{port}/x.png"><link rel="stylesheet" href="{hidden.as_uri()}">'
    assert pdf_of(page)[:5] == b"%PDF-"
    with pytest.raises(TimeoutError):
        listening.accept()
    listening.close()
