"""IKEv2 between two machines: what each exchange looks like, and that both ends end up with the same SAs (RFC 7296)."""

from __future__ import annotations

from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.ike.effects import ChildInstalled, IkeEstablished, Send
from pontifex.core.ike.payloads import KeyExchangePayload
from pontifex.core.ike.settings import Proof
from tests.support.two_ends import ESP, IKE, LEFT, RIGHT, TwoEnds, proposal
from tests.truth import mutated

HYBRID = proposal(("ENCR", 20, 256), ("PRF", 7, None), ("KE", 19, None), ("ADDKE1", 36, None))
HYBRID_ESP = proposal(("ENCR", 12, 128), ("INTEG", 12, None), ("KE", 19, None), ("ADDKE1", 36, None), ("ESN", 1, None))
LIVES = {"ike_lifetime_s": 900.0, "child_lifetime_s": 300.0, "margin_s": 30.0}


def _stands(ends: TwoEnds) -> None:
    left, right = ends.children()
    assert left == right
    assert len(left) == 1


def test_four_messages_bring_it_up():
    """IKE_SA_INIT and IKE_AUTH, each asked and answered, make an IKE SA and a Child SA (section 1.2)."""
    ends = TwoEnds.of()
    ends.dial()
    ends.run(5)
    names = [(side, name) for side, name, _ in ends.exchanges()]
    assert names == [("left", "IKE_SA_INIT"), ("right", "IKE_SA_INIT"), ("left", "IKE_AUTH"), ("right", "IKE_AUTH")]
    _stands(ends)
    left, right = (
        [effect for side, effect in ends.effects if side == at and isinstance(effect, ChildInstalled)] for at in ("left", "right")
    )
    assert left[0].child.keys == right[0].child.keys
    assert not left[0].in_udp


def test_cookies_and_another_group():
    """A busy responder asks for its cookie, one with another first group names it; the initiator begins anew with both."""
    two_groups = proposal(("ENCR", 20, 256), ("PRF", 5, None), ("KE", 14, None), ("KE", 31, None))
    ends = TwoEnds.of({"ike_proposals": (two_groups,)}, {"asks_cookies": True})
    ends.dial()
    ends.run(5)
    offered = (sent.message.first(KeyExchangePayload) for side, sent in ends.sent if side == "left")
    methods = [candidate.method for candidate in offered if candidate]
    assert methods[0] == 14
    assert methods[-1] == 31
    assert "INVALID_KE_PAYLOAD" in [error for _, _, error in ends.exchanges()]
    assert any(entry.startswith("The other end asks for its cookie") for entry in ends.log("left"))
    _stands(ends)


def test_additional_key_exchanges_go_in_fragments():
    """ML-KEM goes in IKE_INTERMEDIATE, in fragments, and in IKE_FOLLOWUP_KE at a rekey (RFC 9370, RFC 9242, RFC 7383)."""
    ends = TwoEnds.of(
        {"ike_proposals": (HYBRID,), "child_proposals": (HYBRID_ESP,), **LIVES},
        {"ike_proposals": (HYBRID,), "child_proposals": (HYBRID_ESP,)},
    )
    ends.dial()
    ends.run(1000)
    names = [name for _, name, _ in ends.exchanges()]
    assert names.count("IKE_INTERMEDIATE") == 3  # the request in two fragments, the answer in one
    assert names.count("IKE_FOLLOWUP_KE") >= 6
    assert max(len(sent.octets) for _, sent in ends.sent) <= 1232
    _stands(ends)


@pytest.mark.parametrize(
    ("left", "right", "error"),
    [
        ({}, {"ike_proposals": (HYBRID,)}, "NO_PROPOSAL_CHOSEN"),
        ({}, {"proof": Proof(b"another secret")}, "AUTHENTICATION_FAILED"),
        ({}, {"child_proposals": (HYBRID_ESP,)}, "NO_PROPOSAL_CHOSEN"),
        ({}, {"local_networks": ()}, "TS_UNACCEPTABLE"),
    ],
)
def test_a_refusal_is_told(left, right, error):
    """What the responder doesn't accept it refuses by its notification (section 3.10.1); no Child SA comes of it."""
    ends = TwoEnds.of(left, right)
    ends.dial()
    ends.run(3)
    assert error in [told for side, _, told in ends.exchanges() if side == "right"]
    assert ends.children() == (set(), set())


@given(st.integers(0, 2**32), st.sampled_from([0.0, 0.1, 0.3]), st.booleans())
def test_whatever_is_lost_both_ends_have_the_same(seed, loss, both_call):
    """With datagrams lost, rekeys of both ends at once and calls crossing, both ends come to have the same Child SAs."""
    random = Random(seed)
    lives = {"ike_lifetime_s": 1000.0, "child_lifetime_s": 400.0, "margin_s": 100.0, "dead_peer_s": 60.0}
    ends = TwoEnds.of(lives, {**lives, "redials": True}, passes=lambda number: random.random() >= loss)
    ends.dial()
    if both_call:
        ends.dial("right")
    ends.run(2500)
    ends.passes = lambda number: True
    ends.run(3500)
    left, right = ends.children()
    assert left == right
    assert left
    assert len({effect.spi_i for _, effect in ends.effects if isinstance(effect, IkeEstablished)}) >= 3  # it was rekeyed


def test_a_silent_end_is_given_up_and_called_anew():
    """No answer to a check: the request goes out five times, then the IKE SA is gone and the end calls again (section 2.4)."""
    ends = TwoEnds.of({"dead_peer_s": 30.0})
    ends.dial()
    ends.run(10)
    ends.passes = lambda number: False
    ends.run(200)
    checks = [sent for side, sent in ends.sent if side == "left" and sent.message.header.name == "INFORMATIONAL"]
    assert len(checks) == 5
    assert len({sent.octets for sent in checks}) == 1
    ends.passes = lambda number: True
    ends.run(400)
    left, right = ends.children()
    assert left
    assert left <= right | left


def test_a_request_that_comes_again_gets_the_same_answer():
    """A lost answer makes the request come again; nothing is done twice (section 2.1)."""
    ends = TwoEnds.of(passes=lambda number: number not in (1, 5))
    ends.dial()
    ends.run(30)
    answers = [sent.octets for side, sent in ends.sent if side == "right"]
    assert len(answers) == 4
    assert (answers[0], answers[2]) == (answers[1], answers[3])
    _stands(ends)


@given(st.data())
def test_no_octets_bring_a_machine_down(data):
    """Octets that are cut off, changed or made up get an answer or are dropped; the SAs that stand go on standing."""
    ends = TwoEnds.of()
    ends.dial()
    ends.run(5)
    kept = [sent.octets for _, sent in ends.sent]
    octets = bytearray(data.draw(st.sampled_from(kept) | st.binary(max_size=400)))
    for _ in range(data.draw(st.integers(0, 3))):
        if octets:
            octets[data.draw(st.integers(0, len(octets) - 1))] ^= data.draw(st.integers(1, 255))
    octets = octets[: data.draw(st.integers(0, len(octets)))]
    if len(octets) >= 28 and data.draw(st.booleans()):
        octets[24:28] = len(octets).to_bytes(4)
    for side, source, destination in (("left", RIGHT, LEFT), ("right", LEFT, RIGHT)):
        effects = ends.end(side).receive(6.0, bytes(octets), source, destination)
        assert all(len(effect.octets) >= 28 for effect in effects if isinstance(effect, Send))
    _stands(ends)


def test_both_ends_may_rekey_at_once():
    """Two rekeys that cross: the one with the lowest nonce is dropped by whoever made it (section 2.8.1)."""
    ends = TwoEnds.of(LIVES, {**LIVES, "margin_s": 29.99})
    ends.dial()
    ends.run(2000)
    said = [line for side in ("left", "right") for line in ends.log(side) if "at once" in line]
    assert {line.partition(" SA ")[0] for line in said} >= {"Both ends rekeyed the Child"}
    _stands(ends)
    assert len(ends.left.sas) == len(ends.right.sas) == 1


def test_what_both_ends_make_is_never_shown():
    """No key stands in the text of an effect."""
    ends = TwoEnds.of({"ike_proposals": (IKE,), "child_proposals": (ESP,)})
    ends.dial()
    ends.run(5)
    text = repr(ends.effects) + repr(ends.left.settings)
    keys = [effect.child.keys for _, effect in ends.effects if isinstance(effect, ChildInstalled)]
    assert keys
    assert all(key.encryption_i.hex() not in text and repr(key.encryption_i) not in text for key in keys)
    assert "one secret" not in text


def test_changed_messages_get_an_answer_or_are_dropped():
    """Thousands of messages, changed before their seal and inside it: a notification or a line in the log, never an error."""
    counts, wrong = mutated.judge(range(40))
    assert not wrong, wrong[0]
    assert counts["INVALID_SYNTAX"] > 20
    assert counts["dropped, with a line in the log"] > 20
