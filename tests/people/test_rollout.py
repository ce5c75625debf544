"""Roll-outs as values: who is offered what, what a device says of it, lists of people, and files that are as signed."""

from __future__ import annotations

import base64
import binascii
import json
from datetime import UTC, datetime
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from joserfc.jwk import ECKey
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.design_file import write_design_file
from pontifex.core.handover.sheets.profile_page import profile_page
from pontifex.core.people.people_list import MOST_FAULTS, read_people
from pontifex.core.people.profile_file import (
    ForgedFile,
    key_of,
    key_text,
    new_signing_key,
    profile_file,
    profile_file_schema,
    public_part,
    signed,
    verified,
)
from pontifex.core.people.rollout import (
    DeviceReport,
    DeviceState,
    NothingRolledOut,
    Rollout,
    RolloutAct,
    RolloutStage,
    changed_offer,
    counted,
    offered,
    state_of,
)
from pontifex.core.people.versions import version_difference
from pontifex.demo import demo_design

run = CliRunner().invoke
NOW = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)
DEMO = demo_design()
CREW = DEMO.profiles[0]
KEY = new_signing_key()
FILE = profile_file(DEMO, CREW, 1, NOW)

ACTS = st.lists(st.tuples(st.sampled_from(RolloutAct), st.integers(1, 4)), max_size=8)
REPORTS = st.builds(
    DeviceReport,
    fetched=st.none() | st.integers(1, 4),
    active=st.none() | st.integers(1, 4),
    refused=st.none() | st.integers(1, 4),
)


@given(ACTS, st.integers(1, 5), st.lists(REPORTS, min_size=1, max_size=9))
def test_a_course_of_a_roll_out(acts, first, reports):
    """Whatever is done: nobody is offered what wasn't; the first few are a beginning of all; stopped, nobody gets more."""
    now: Rollout | None = None
    for act, version in acts:
        try:
            offer = changed_offer(now, act, version)
        except NothingRolledOut:
            assert act in (RolloutAct.STOP, RolloutAct.TAKE_BACK)
            continue
        if act is RolloutAct.TAKE_BACK:
            assert (offer.version, offer.before) == (now and now.before, now and now.version)
        now = Rollout(version=offer.version, before=offer.before, stage=offer.stage, first=first, changed_by="a", changed_at=NOW)
        offers = [offered(now, place, report) for place, report in enumerate(reports)]
        assert set(offers) <= {now.version, now.before}
        if now.stage is RolloutStage.ALL:
            assert set(offers) == {now.version}
        elif now.stage is RolloutStage.FIRST:
            assert [offer == now.version for offer in offers[:first]] == [True] * len(offers[:first])
            assert set(offers[first:]) <= {now.before}
        else:
            has = [now.version in (report.fetched, report.active) for report in reports]
            assert [offer == now.version for offer in offers] == [each or now.version == now.before for each in has]
        states = [state_of(one, report) for one, report in zip(offers, reports, strict=True)]
        assert sum(counted(states).values()) == len(reports)
        for state, one, report in zip(states, offers, reports, strict=True):
            assert (state is DeviceState.ASSIGNED) is (one is None)
            assert (state is DeviceState.ACTIVE) <= (report.active == one)
            assert (state is DeviceState.REFUSED) is (one is not None and report.refused == one)


@given(st.integers(0, 10**6), st.integers(1, 255))
def test_one_octet_changed_is_enough(at, by):
    """Anywhere in the file: what was signed is read back, and nothing else is."""
    token = signed(FILE, KEY)
    public = ECKey.import_key(public_part(KEY))
    assert verified(token, public) == FILE
    octets = bytearray(token.encode())
    place = at % len(octets)
    octets[place] = (octets[place] ^ by) % 128
    changed = octets.decode()
    if _decoded(changed) == _decoded(token):
        return  # the last sign of base64 has bits that mean nothing
    with pytest.raises(ForgedFile):
        verified(changed, public)


def _decoded(token: str) -> list[bytes]:
    """The octets of the parts; what is no base64 as it stands."""
    parts = []
    for part in token.split("."):
        try:
            parts.append(base64.b64decode(part + "==", altchars=b"-_", validate=True))
        except binascii.Error:
            parts.append(part.encode())
    return parts


def test_a_file_of_another_signer_and_no_algorithm():
    """A signature of somebody else's key, and a header that asks for none."""
    with pytest.raises(ForgedFile, match="its signature doesn't hold"):
        verified(signed(FILE, new_signing_key()), KEY)
    none = "eyJhbGciOiJub25lIn0." + signed(FILE, KEY).split(".")[1] + "."
    with pytest.raises(ForgedFile):
        verified(none, KEY)
    assert key_of(key_text(KEY)).thumbprint() == KEY.thumbprint()
    assert "d" not in public_part(KEY)


def test_a_file_holds_what_all_devices_share_and_no_more():
    """Nothing of a single device, and the routes as they are handed out."""
    text = FILE.model_dump_json()
    assert "tablet-1" not in text
    assert "CERTIFICATE" in json.dumps(FILE.model_dump(mode="json")["device_end"]["trust_anchors"])
    assert [str(route) for route in FILE.routes] == ["10.64.0.0/14", "10.70.1.0/27"]


def test_what_is_new_in_a_version():
    """Field by field, and what it means for those who have it."""
    wider = CREW.changed(networks=(*CREW.networks, DEMO.network_by_id["basalt-booking"].prefix), lock_down=False, rules=())
    found = version_difference(FILE, profile_file(DEMO, wider, 2, NOW))
    assert {field.title for field in found.fields} == {"Routes through the tunnel", "Traffic rules", "Lock-down"}
    assert "10.80.0.0/20 goes through the tunnel now" in found.means
    assert "what goes through leaves in clear while the tunnel is down" in found.means
    back = version_difference(profile_file(DEMO, wider, 1, NOW), replace_version(FILE, 2))
    assert "10.80.0.0/20 goes beside the tunnel now" in back.means
    assert version_difference(FILE, replace_version(FILE, 2)).fields == ()


def replace_version(file, version):
    """Return a file as another version."""
    return file.changed(version=version)


NAMES = st.text("abcdefghijklmnopqrstuvwxyzåäöéñ '-", min_size=1, max_size=20).filter(lambda name: name.strip(" '-") == name)
PEOPLE = st.lists(
    st.tuples(NAMES, NAMES, st.sampled_from(["tablet", "Desktop", "rota laptop", "LAPTOP"])), min_size=1, max_size=12
)
HEADS = {
    "person": ["person", "Name", "USER"],
    "group": ["Group", "team", "Department"],
    "device": ["device", "Hostname", "machine"],
    "platform": ["Platform", "OS", "type"],
}


@given(PEOPLE, st.sampled_from(",;\t"), st.permutations(list(HEADS)), st.data())
def test_a_list_is_read_in_many_styles(people, parted, order, data):
    """With headings in any order and wording, or none in the usual order; by commas, semicolons or tabs; lines of blanks."""
    platforms = {"laptop": "laptop", "rota laptop": "laptop"}
    headed = data.draw(st.booleans())
    columns = order if headed else ["person", "group", "device", "platform"]
    rows = [{"person": who, "group": team, "device": f"dev-{k}", "platform": kind} for k, (who, team, kind) in enumerate(people)]
    lines = [parted.join(row[column] for column in columns) for row in rows]
    if headed:
        lines.insert(0, parted.join(data.draw(st.sampled_from(HEADS[column])) for column in columns))
    text = data.draw(st.sampled_from(["\n", "\r\n", "\n\n"])).join(lines)
    found = read_people(text, platforms)
    assert found.faults_count == 0
    assert [(device.person, device.group, device.device) for device in found.devices] == [
        (r["person"], r["group"], r["device"]) for r in rows
    ]
    assert {device.platform for device in found.devices} <= {"laptop", "tablet", "desktop"}


def test_a_hundred_thousand_lines_with_faults():
    """Each fault beside its line; the lines around it are taken; the first faults are told, and all counted."""
    lines = [f"Person {k},Deck crew,device-{k},{'tablet' if k % 100 else 'toaster'}" for k in range(100_000)]
    lines[7] = "only one cell"
    lines[8] = 'An "unclosed,Deck crew,device-8,tablet'
    lines[9] = "Person 9,Deck crew,device-6,tablet"
    found = read_people("\n".join(lines), {})
    assert (len(found.devices), found.faults_count) == (100_000 - 1002, 1002)
    assert len(found.faults) == MOST_FAULTS
    told = {fault.line: fault.reason for fault in found.faults}
    assert told[1] == "there is no platform 'toaster' in this design, and no such family"
    assert told[8] == "its group is lacking"
    assert told[10] == "the device 'device-6' is there already"


def test_a_quote_that_is_never_closed_takes_no_other_line_along():
    """It ends with its line, which has too few cells then."""
    found = read_people('a,b,c,tablet\n"a,b,d,tablet\na,b,e,tablet', {})
    assert [device.device for device in found.devices] == ["c", "e"]
    assert [(fault.line, fault.reason) for fault in found.faults] == [(2, "its group is lacking")]


def test_the_command_foresees_a_roll_out(tmp_path):
    """Who would refuse, by platform or by a list of people; the file that they would fetch; and lines that can't be read."""
    design = tmp_path / "demo.json"
    design.write_text(write_design_file(DEMO))
    told = run(app, ["rollout", str(design), "crew"])
    assert (told.exit_code, "bridge tablet: can" in told.stdout) == (0, True)
    people = tmp_path / "people.csv"
    people.write_text("a,Deck crew,d1,tablet\nb,Deck crew,d2,appliance\nc,Kitchen,d3,appliance\nd,Deck crew,d4,toaster\n")
    found = run(app, ["rollout", str(design), "Crew access", "--people", str(people), "--json"])
    document = json.loads(found.stdout)
    assert (found.exit_code, document["rollout"]["devices"], document["rollout"]["would_refuse"]) == (1, 2, 1)
    assert [fault["line"] for fault in document["faults"]] == [4]
    assert document["file"]["routes"] == ["10.64.0.0/14", "10.70.1.0/27"]
    words = run(app, ["rollout", str(design), "crew", "--people", str(people)])
    assert "appliance (1): can't: knowing the inside by a suffix, rules by domain, rules by application" in words.stdout
    assert run(app, ["rollout", str(design), "crew", "--people", str(tmp_path / "none")]).exit_code == 2
    assert run(app, ["rollout", str(design), "nobody"]).exit_code == 2


def test_the_published_schema_holds_and_is_current():
    """A version's file obeys the published JSON Schema, which is the one in docs; a field more doesn't."""
    document = json.loads(FILE.model_dump_json())
    validator = jsonschema.Draft202012Validator(profile_file_schema())
    validator.validate(document)
    assert not validator.is_valid({**document, "more": 1})
    published = Path(__file__).parents[2] / "docs" / "profile-file.schema.json"
    assert published.read_text() == run(app, ["schema", "--of", "profile"]).stdout


def test_a_page_to_sign_has_every_setting():
    """What all devices are set to, with the fingerprint of what was signed; text is never markup."""
    named = FILE.changed(name="Crew <b>access</b>")
    page = profile_page(named, signed(named, KEY))
    assert "Crew &lt;b&gt;access&lt;/b&gt;, version 1" in page
    for words in (
        "Deck crew; Rota clerks",
        "198.51.100.10",
        "10.64.0.0/14",
        "Rota: through",
        "AES-GCM-16-256",
        "43200",
        "Date and signature",
    ):
        assert words in page
    assert "tablet-1" not in page
    assert page != profile_page(named, signed(named, KEY))  # another signature, another fingerprint
