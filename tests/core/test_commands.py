"""The commands about proposals, as pipelines use them."""

from __future__ import annotations

import json

import pytest
from typer.testing import CliRunner

from pontifex.cli import app

run = CliRunner().invoke


def _negotiate(initiator, responder, *more):
    return run(app, ["negotiate", "--initiator", initiator, "--responder", responder, *more])


def test_an_agreement_as_json():
    """What is chosen is told by type, number, IANA name and key length, with the extra round trip."""
    result = _negotiate("aes256-sha256-modp2048-ecp384; 3des-sha1-modp1024", "aes256-sha256-ecp384", "--json")
    answer = json.loads(result.stdout)
    assert (result.exit_code, answer["outcome"], answer["extra_round_trip"], answer["nearest"]) == (0, "agreed", True, None)
    assert answer["chosen"][0] == {"type": "ENCR", "id": 12, "name": "ENCR_AES_CBC", "key_length": 256}
    assert [transform["id"] for transform in answer["chosen"]] == [12, 5, 12, 20]
    assert (answer["weakest"]["type"], answer["weakest"]["strength_bits"]) == ("KE", 192)


def test_the_habit_decides():
    """Where the responder's habit changes what is chosen, both are told."""
    lists = ("aes128-sha256-modp2048; aes256-sha256-modp2048", "aes256-sha256-modp2048; aes128-sha256-modp2048")
    first = json.loads(_negotiate(*lists, "--json").stdout)
    second = json.loads(_negotiate(*lists, "--json", "--habit", "responder").stdout)
    assert (first["chosen"][0]["key_length"], second["chosen"][0]["key_length"]) == (128, 256)
    assert first["other_habit"] == second["chosen"]
    assert "other habit takes: AES-CBC-256" in _negotiate(*lists).stdout


def test_no_agreement_names_the_nearest_pair():
    """Without a common proposal the nearest pair is told, with what each end holds of the types that don't meet."""
    lists = ("3des-sha1-modp1024; aes256-sha256-ecp384", "aes256-sha256-modp2048")
    result = _negotiate(*lists, "--json")
    answer = json.loads(result.stdout)
    assert (result.exit_code, answer["outcome"], answer["chosen"]) == (1, "none", [])
    nearest = answer["nearest"]
    assert (nearest["initiator_proposal"], nearest["responder_proposal"]) == (2, 1)
    ((unmet,),) = [nearest["unmet"]]
    assert (unmet["type"], unmet["initiator"][0]["id"], unmet["responder"][0]["id"]) == ("KE", 20, 14)
    assert "no common KE (group 20 against group 14)" in _negotiate(*lists).stdout


@pytest.mark.parametrize(
    ("initiator", "more", "said"),
    [
        ("AES-sha256-modp2048", [], "--initiator: 'AES': which key length has AES? AES-CBC-128 or AES-CBC-192 or AES-CBC-256"),
        ("good morning", [], "--initiator: nothing is understood as a proposal"),
        ("aes256-modp2048", [], "--initiator: proposal 1 (AES-CBC-256 · group 14) is invalid: PRF is missing, INTEG is missing"),
        ("ike aes256-sha256-modp2048", ["--for", "child"], "--initiator: nothing is understood as a proposal"),
        ("aes " * 6000, [], "the text has 24000 characters; 20000 at most"),
    ],
)
def test_what_cannot_be_taken(initiator, more, said):
    """A text that is ambiguous, empty of proposals or invalid is refused with what would help."""
    result = _negotiate(initiator, "aes256-sha256-modp2048", *more)
    assert result.exit_code == 2
    assert said in result.stderr


def test_an_unknown_word_is_not_dropped_in_silence():
    """A text with a word that isn't known is refused, since what it says may decide; so is it where it is only read."""
    result = _negotiate("aes256-sha256-modp2048 dh=99", "aes256-sha256-modp2048")
    assert result.exit_code == 2
    assert "--initiator: 'dh=99' is not understood" in result.stderr
    assert run(app, ["proposals", "aes256-sha256 dh=99"]).exit_code == 2
    assert run(app, ["proposals", "aes256-sha256"]).exit_code == 2  # a proposal without a group
    assert run(app, ["proposals", "aes256-sha256-modp2048"]).exit_code == 0


def test_proposals_word_by_word():
    """Each word of a text is told with what was made of it."""
    text = "Phase 2: ESP AES256 SHA1, PFS DH5, 3600 s, banana"
    answer = json.loads(run(app, ["proposals", text, "--json"]).stdout)
    assert [word["text"] for word in answer["understood"]] == ["Phase 2", "ESP", "AES256", "SHA1", "PFS", "DH5", "3600 s"]
    assert [word["text"] for word in answer["unknown"]] == ["banana"]
    assert (answer["child_lifetime_s"], answer["pfs"], answer["ike"]) == (3600, True, [])
    assert [transform["id"] for transform in answer["child"][0]] == [12, 2, 5, 0]
    ambiguous = run(app, ["proposals", "AES SHA256"])
    assert ambiguous.exit_code == 2
    assert "'AES': ambiguous: which key length has AES? AES-CBC-128 or" in ambiguous.stdout


@pytest.mark.parametrize(
    ("options", "inner_mtu"),
    [
        ("--encr aes-gcm-16 --key-length 256 --outer v4", 1446),
        ("--encr ENCR_AES_GCM_16 --key-length 128 --outer v6 --nat-t", 1418),
        ("--encr ENCR_AES_CBC --key-length 256 --integ AUTH_HMAC_SHA2_256_128 --outer v4", 1438),
        ("--encr 3des --integ sha1 --outer v4", 1446),
    ],
)
def test_overhead(options, inner_mtu):
    """The overhead of a cipher is told with both TCP MSS."""
    answer = json.loads(run(app, ["overhead", *options.split(), "--path-mtu", "1500", "--json"]).stdout)
    assert (answer["inner_mtu"], answer["tcp_mss_v4"], answer["tcp_mss_v6"]) == (inner_mtu, inner_mtu - 40, inner_mtu - 60)


@pytest.mark.parametrize(
    ("options", "said"),
    [
        ("--encr aes --outer v4", "--encr: 'aes': which key length has aes?"),
        ("--encr banana --outer v4", "--encr: 'banana' is not one ENCR"),
        ("--encr aes-cbc --key-length 256 --outer v4", "ENCR_AES_CBC needs an INTEG beside it"),
        ("--encr aes-gcm --key-length 256 --integ sha256 --outer v4", "no INTEG goes with it"),
    ],
)
def test_overhead_that_cannot_be(options, said):
    """A cipher or combination that can't be is refused with the reason."""
    result = run(app, ["overhead", *options.split(), "--path-mtu", "1500"])
    assert result.exit_code == 2
    assert said in result.stderr
