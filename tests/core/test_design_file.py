"""The design file: written, read back, and refused with the place of what is wrong."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from uuid import uuid4

import jsonschema
import pytest
from typer.testing import CliRunner

from pontifex.api.reference import design_file_schema
from pontifex.cli import app
from pontifex.core.catalogue import Code
from pontifex.core.design_file import UnreadableDesign, read_design_file, write_design_file
from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.kinds import Account, Side
from pontifex.demo import demo_design
from tests.support.designs import mended, with_end

TEXT = write_design_file(demo_design())
run = CliRunner().invoke


def test_round_trip():
    """A design written and read back is the same, octet for octet."""
    assert write_design_file(read_design_file(TEXT, "x")) == TEXT


def test_the_published_schema_holds_and_is_current():
    """The demo's file obeys the published JSON Schema, which is the one in docs."""
    jsonschema.Draft202012Validator(design_file_schema()).validate(json.loads(TEXT))
    published = Path(__file__).parents[2] / "docs" / "design-file.schema.json"
    assert json.loads(published.read_text()) == design_file_schema(), "run: pontifex schema > docs/design-file.schema.json"


def test_a_file_of_the_first_version_is_read():
    """What was called a claim in it is a reserved prefix."""
    document = json.loads(TEXT)
    document["format"] = "pontifex-design-1"
    document["design"]["claims"] = document["design"].pop("prefix_reservations")
    assert document["design"]["claims"]
    assert write_design_file(read_design_file(json.dumps(document), "x")) == TEXT


def _wrong(path, value):
    document = copy.deepcopy(json.loads(TEXT))
    *way, last = path
    inner = document
    for part in way:
        inner = inner[part]
    inner[last] = value
    return json.dumps(document)


@pytest.mark.parametrize(
    ("text", "place", "reason"),
    [
        ("{", "line 1, column 2", "not JSON"),
        ("[" * 100_000, "line 1, column 1", "nested too deeply"),
        ("[]", "the whole file", "must be an object"),
        (
            _wrong(["design", "networks", 2, "prefix"], "10.66.1.9/26"),
            "design.networks[2].prefix",
            "host bits are set in 10.66.1.9/26; did you mean 10.66.1.0/26?",
        ),
        (
            _wrong(["design", "networks", 0, "prefix"], "10.66.1.0/40"),
            "design.networks[0].prefix",
            "the length /40 is out of range",
        ),
        (_wrong(["design", "networks", 0, "vlan"], 5000), "design.networks[0].vlan", "must be 4094 or less"),
        (_wrong(["design", "networks", 0, "site_id"], "nowhere"), "design.networks[0].site_id", "there is no site 'nowhere'"),
        (_wrong(["design", "sites", 1, "id"], "aurelia"), "design.sites[1].id", "the id 'aurelia' stands twice"),
        (_wrong(["design", "colour"], "blue"), "design.colour", "there is no such field here"),
        (
            _wrong(["design", "tunnels", 6, "left", "ike_proposals", 0, "transforms", 0, "id"], 77),
            "design.tunnels[6].left.ike_proposals[0].transforms[0]",
            "ENCR 77 is not in the registry of transforms",
        ),
        (_wrong(["format"], "other"), "format", "must be 'pontifex-design-2'"),
    ],
)
def test_one_wrong_field_is_named(text, place, reason, tmp_path):
    """A file with one wrong field is refused with its place and why, by the reader and by the command line."""
    with pytest.raises(UnreadableDesign) as caught:
        read_design_file(text, "x")
    assert caught.value.problems[0].place == place
    assert reason in caught.value.problems[0].reason
    file = tmp_path / "design.json"
    file.write_text(text)
    result = run(app, ["check", str(file)])
    assert result.exit_code == 2
    assert place in result.stderr


def test_check_prints_findings_and_exits(tmp_path):
    """`check` exits with 1 from the given severity on, with 0 below it, and prints text or JSON."""
    file = tmp_path / "design.json"
    file.write_text(run(app, ["demo", "--print"]).stdout)
    text = run(app, ["check", str(file)])
    assert text.exit_code == 1
    assert "the keys differ only by a trailing blank at Brenna Terminal" in text.stdout
    assert "  mend: Make Brenna Terminal like Harbour House: the key\n" in text.stdout
    document = json.loads(run(app, ["check", str(file), "--format", "json"]).stdout)
    assert {Code.ADDRESS_OVERLAP, Code.END_KEY_DIFFERS, Code.REACH_BOTH_WAIT} < {
        finding["code"] for finding in document["findings"]
    }
    assert all(finding["remedies"] for finding in document["findings"] if finding["mendable"])
    file.write_text(write_design_file(mended(demo_design())))
    assert run(app, ["check", str(file), "--fail-on", "partial"]).exit_code == 0
    assert run(app, ["check", str(tmp_path / "none.json")]).exit_code == 2


def test_weak_secrets_can_be_left_out():
    """A file without them says nothing of any secret that is weaker than the policy asks for, and all of the others."""
    demo = demo_design()
    weak = key_facts("Harbour2024", bytes.fromhex(demo.key_salt), uuid4())
    account = Account(name="gate", secret=weak)
    demo = with_end(Side.LEFT, demo, "harbour-brenna", key=weak, account=account, control_key=weak)
    read = read_design_file(write_design_file(demo, weak_secrets=False), "x")
    end = read.tunnel_by_id["harbour-brenna"].left
    assert (end.key, end.control_key, end.account) == (None, None, Account(name="gate"))
    assert demo.tunnel_by_id["harbour-brenna"].left.with_valid({"key": None, "control_key": None, "account": end.account}) == end
    others = [[tunnel for tunnel in design.tunnels if tunnel.id != "harbour-brenna"] for design in (demo, read)]
    assert others[0] == others[1]
    assert read_design_file(write_design_file(demo), "x").tunnels == demo.tunnels
