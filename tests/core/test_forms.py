"""Forms as partners fill them in: read into the partner's end line by line, and never wrong without a word."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.cli import app
from pontifex.core.addressing import parse_prefix
from pontifex.core.forms import LineState, read_form
from pontifex.core.kinds import ExchangeMode, IdentityType, Role, Technology, TunnelEnd
from tests.core.test_commands import run
from tests.truth.filled_in import judge
from tests.truth.written import RIGHT

OURS = tuple(parse_prefix(text) for text in ("10.64.0.0/14", "198.51.100.0/24"))
COLUMNS = """Parameter | Our side | Your side
Gateway IP | 203.0.113.77 | 198.51.100.10
Encryption domain | 10.90.4.0/24, 10.90.5.0/25 | 10.64.8.0/23
Phase 1
Encryption | AES256 | AES128
Hash | SHA256 | SHA256
Group | 14 | 14"""


def line(text: str, *, ours=OURS):
    """Return what a single line became, and the fields that it fills."""
    read = read_form(text, ours)
    (found,) = read.lines
    return found, read.fields


def test_forms_in_hundreds_of_styles():
    """Of drawn forms none is silently wrong, and nineteen in twenty are right without a question."""
    counts, wrong = judge(range(400))
    assert wrong == []
    assert counts[RIGHT] >= 0.95 * counts.total()


@pytest.mark.parametrize(
    ("text", "field", "value"),
    [
        ("Peer IP address: 198.51.100.10", "peer_address", "198.51.100.10"),
        ("Your VPN gateway = gate.skerry.example", "peer_address", "gate.skerry.example"),
        ("DPD: off", "dead_peer_s", 0),
        ("Dead peer detection: every 20 seconds, 3 retries", "dead_peer_s", 20),
        ("IKE version: 1", "technology", Technology.IPSEC_IKEV1),
        ("Aggressive mode", "exchange_mode", ExchangeMode.AGGRESSIVE),
        ("We initiate the tunnel", None, None),
        ("Initiator: we", "role", Role.CALL),
        ("Role: responder", "role", Role.WAIT),
        ("Reauthentication: no", "reauthenticate", False),
        ("MOBIKE: enabled", "mobike", True),
        ("IKEv2 fragmentation: disabled", "fragmentation", False),
        ("Compression: disabled", "compression", False),
        ("MTU 1400", "inner_mtu", 1400),
    ],
)
def test_what_a_line_says(text, field, value):
    """Each line fills the field that it is about; one that isn't understood is told."""
    found, fields = line(text)
    if field is None:
        assert (found.state, fields) == (LineState.UNKNOWN, {})
    else:
        assert (found.state, found.field, fields[field]) == (LineState.UNDERSTOOD, field, value)


@pytest.mark.parametrize(
    ("value", "kind"),
    [
        ("vpn.tarn.example", IdentityType.FQDN),
        ("203.0.113.77", IdentityType.IPV4_ADDR),
        ("2001:db8::7", IdentityType.IPV6_ADDR),
        ("noc@tarn.example", IdentityType.RFC822_ADDR),
        ("CN=gate, O=Tarn", IdentityType.DER_ASN1_DN),
        ("any", IdentityType.ANY),
    ],
)
def test_an_identity_is_known_by_its_form(value, kind):
    """Its value is kept letter by letter."""
    _, fields = line(f"Your ID: {value}")
    assert fields["remote_identity"].type is kind
    assert kind is IdentityType.ANY or fields["remote_identity"].value == value


@pytest.mark.parametrize(
    "text",
    [
        "Gateway: 203.0.113.77",
        "Networks: 10.90.4.0/24",
        "Our ID: tarn",
        "Networks: 10.90.4.1/24",
        "Lifetime: 8",
        "Phase 1: aes256",
    ],
)
def test_what_is_asked_can_be_answered(text):
    """Whichever choice is taken, in the place of its line, the form is settled after a few."""
    waiting, seen = [(text, 0)], set()
    while waiting:
        written, steps = waiting.pop()
        found, _ = line(written, ours=())
        if found.state is LineState.UNDERSTOOD:
            continue
        assert found.state is LineState.AMBIGUOUS, written
        assert steps < 4
        waiting += [(choice, steps + 1) for choice in found.choices if choice not in seen]
        seen.update(found.choices)
    assert seen


@pytest.mark.parametrize(
    "text",
    [
        "TCP MSS: 12",
        "MTU: 20",
        "Phase 1 lifetime: 5 s",
        "Phase 2: lifetime 99 days",
        "DPD: 999999 s",
        f"Your ID: {'x.' * 200}example",
        "Our ID: any",
        "Our networks: " + ", ".join(f"10.90.{k // 64}.{k % 64 * 4}/30" for k in range(300)),
    ],
)
def test_what_no_end_can_hold_is_asked_about(text):
    """A value out of its bounds is told at its line, and is not among the fields."""
    found, fields = line(text, ours=())
    assert found.state is LineState.UNKNOWN
    TunnelEnd.model_validate({"gateway_id": "partner", **fields})


def test_addresses_tell_whose_networks_they_are():
    """Without a label that says it, and where a form was written from the reader's side; against a label it is asked."""
    assert [str(remote_network) for remote_network in line("Networks: 10.64.8.0/23")[1]["remote_networks"]] == ["10.64.8.0/23"]
    turned = read_form("Local networks: 10.64.8.0/23\nRemote networks: 10.90.4.0/24\nLocal gateway: 198.51.100.10", OURS)
    assert [str(local_network) for local_network in turned.fields["local_networks"]] == ["10.90.4.0/24"]
    assert turned.fields["peer_address"] == "198.51.100.10"
    torn = read_form("Our networks: 10.90.4.0/24\nYour networks: 10.64.8.0/23\nOur networks: 10.65.0.0/24", OURS)
    assert [candidate.state for candidate in torn.lines] == [LineState.UNDERSTOOD, LineState.UNDERSTOOD, LineState.UNKNOWN]


def test_columns_belong_to_their_sides():
    """Addresses and networks are taken by column; where algorithms differ, it is asked which is the partner's."""
    read = read_form(COLUMNS)
    assert read.fields["peer_address"] == "198.51.100.10"
    assert [str(local_network) for local_network in read.fields["local_networks"]] == ["10.90.4.0/24", "10.90.5.0/25"]
    (asked,) = [read_line for read_line in read.lines if read_line.state is not LineState.UNDERSTOOD]
    assert asked.choices == ("Encryption: AES256", "Encryption: AES128")
    settled = read_form(COLUMNS.replace("Encryption | AES256 | AES128", asked.choices[0]))
    assert [ike_proposal.label for ike_proposal in settled.fields["ike_proposals"]] == [
        "AES-CBC-256 · PRF SHA2-256 · SHA2-256 · group 14"
    ]


def test_a_key_is_never_taken_or_repeated():
    """Neither in the line nor in the fields; that it comes by another way is understood."""
    below = read_form("Pre-shared key:\nKite-Anchor-7319")
    assert (below.lines[1].state, "Kite" in str(below)) == (LineState.UNKNOWN, False)
    read = read_form("Pre-shared key: Kite-Anchor-7319\nShared secret = Kite-Anchor-7319")
    assert all(candidate.state is LineState.UNKNOWN for candidate in read.lines)
    assert "Kite" not in str(read)
    assert line("PSK: by phone")[0].state is LineState.UNDERSTOOD


def test_two_lines_that_contradict_each_other():
    """Neither wins without a word."""
    read = read_form("DPD: 30 s\nDead peer detection: 10 s")
    assert [read_line.state for read_line in read.lines] == [LineState.UNDERSTOOD, LineState.UNKNOWN]
    assert "otherwise" in read.lines[1].meaning


def test_a_megabyte_is_read_to_its_end():
    """Lines that nothing is known of are told, each by itself."""
    read = read_form("\n".join(f"line {k} banana" for k in range(60_000)))
    assert len(read.lines) == 60_000
    assert not read.is_clear


def test_the_command(tmp_path):
    """JSON names the fields of the end and each line; what is open ends with 2."""
    form = tmp_path / "form.txt"
    form.write_text("Peer: 198.51.100.10\nPhase 1: aes256, sha256, group 14\nNetworks: 10.90.4.0/24; 10.64.8.0/23")
    result = run(app, ["form", str(form), "--ours", "10.64.0.0/14,198.51.100.10", "--json"])
    answer = json.loads(result.stdout)
    assert (result.exit_code, answer["end"]["local_networks"]) == (0, ["10.90.4.0/24"])
    assert answer["end"]["ike_proposals"][0]["transforms"][0]["key_length"] == 256
    assert [set(candidate) for candidate in answer["lines"]] == [{"text", "state", "meaning", "field", "choices"}] * 3
    assert run(app, ["form", str(form)]).exit_code == 2
    assert run(app, ["form", str(tmp_path / "none")]).exit_code == 2
    assert "10.64.0.1/14" in run(app, ["form", str(form), "--ours", "10.64.0.1/14"]).stderr


@given(st.text(max_size=200), st.sampled_from(["", "Our ID: ", "Networks: ", "Peer: ", "Lifetime: ", "PSK: ", "DPD: ", "a\t|\t"]))
def test_no_form_ends_in_an_error(text, label):
    """Whatever stands there, each line is told, and the fields are those of an end."""
    read = read_form(label + text, OURS)
    TunnelEnd.model_validate({"gateway_id": "partner", **read.fields})
