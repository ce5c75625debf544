"""EAP: the vectors of the RFCs, both ends of each method against each other, and octets that nobody sane would send."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from hypothesis import given, settings
from hypothesis import strategies as st

from pontifex.core.eap import EapError, EapPeer, EapServer, EapSettings, eap_peer, eap_server
from pontifex.core.eap.md4 import md4
from pontifex.core.eap.method import Judged, PeerProved, Refused
from pontifex.core.eap.ms_chap_v2 import challenge_hash, master_key, password_hash, response, server_proof
from pontifex.core.eap.packet import EapCode, EapPacket
from pontifex.core.eap.server import Ended
from pontifex.core.eap.tls_method import TlsProof
from pontifex.core.entropy import SeededEntropy
from pontifex.core.kinds import EapMethod
from pontifex.core.login import Login
from tests.support.certificates import GATE, ISSUING, KEYS

REHEARSED = (EapMethod.MD5_CHALLENGE, EapMethod.MSCHAP_V2, EapMethod.TLS)
LOGIN = Login("branch", b"one secret")


def _settings(method: EapMethod, login: Login = LOGIN, judge: Callable[..., str | None] = lambda _: None) -> EapSettings:
    key = KEYS["gate"]
    assert isinstance(key, Ed25519PrivateKey)
    return EapSettings(method, login, TlsProof(key, (GATE, ISSUING), judge))


def _ends(method: EapMethod, peer: Any = None, server: Any = None) -> tuple[EapPeer, EapServer]:
    return (
        eap_peer(_settings(method, **(peer or {})), SeededEntropy(b"peer")),
        eap_server(_settings(method, **(server or {})), SeededEntropy(b"server")),
    )


def _talk(peer: EapPeer, server: EapServer) -> tuple[Judged, Judged, int]:
    """Let both ends talk; return what either made of it, and after how many packets."""
    octets, packets = server.begin(), 1
    while True:
        answer = peer.take(octets)
        assert isinstance(answer, bytes), answer
        step = server.take(answer)
        packets += 2
        if isinstance(step, Ended):
            last = peer.take(step.octets)
            assert isinstance(last, PeerProved | Refused)
            return last, step.judged, packets
        octets = step


@pytest.mark.parametrize(
    ("text", "digest"),
    [
        ("", "31d6cfe0d16ae931b73c59d7e0c089c0"),
        ("a", "bde52cb31de33e46245e05fbdbd6fb24"),
        ("abc", "a448017aaf21d8525fc10ae87aa6729d"),
        ("message digest", "d9130a8164549fe818874806e1c7014b"),
        ("1234567890" * 8, "e33b4ddc9c38f2199c3e7b164fcc0536"),
    ],
)
def test_md4_gives_the_digests_of_rfc_1320(text, digest):
    """Appendix A.5."""
    assert md4(text.encode()).hex() == digest


def test_ms_chap_gives_the_values_of_rfc_2759_and_rfc_3079():
    """RFC 2759 section 9.2; RFC 3079 section 3.5.3."""
    hashed = password_hash("clientPass")
    assert hashed.hex() == "44ebba8d5312b8d611474411f56989ae"
    own, asked = (bytes.fromhex(text) for text in ("21402324255E262A28295F2B3A337C7E", "5B5D7C7D7B3F2F3E3C2C602132262628"))
    challenge = challenge_hash(own, asked, "User")
    assert challenge.hex() == "d02e4386bce91226"
    answer = response(challenge, hashed)
    assert answer.hex() == "82309ecd8d708b5ea08faa3981cd83544233114a3d85d6df"
    assert server_proof(hashed, answer, challenge).hex().upper() == "407A5589115FD0D6209F510FE9C04566932CDA56"
    assert master_key(hashed, answer)[16:32].hex() == "8b7cdc149b993a1ba118cb153f56dccb"  # what the server sends with


@pytest.mark.parametrize("method", REHEARSED)
def test_both_ends_come_to_the_same_key(method):
    """Both accept, and a method that makes a key gives it to both."""
    own, far, _ = _talk(*_ends(method))
    assert isinstance(own, PeerProved)
    assert own == far
    assert len(own.key) == (64 if method.makes_key else 0)


def test_what_is_too_long_for_one_packet_goes_in_several():
    """EAP-TLS with certificates that don't fit into one packet: each piece is answered, and it comes to the same key."""
    own, far, packets = _talk(*_ends(EapMethod.TLS))
    assert isinstance(own, PeerProved)
    assert own == far
    assert packets > 7  # as many as if each flight of TLS went in one


@pytest.mark.parametrize("method", [EapMethod.MD5_CHALLENGE, EapMethod.MSCHAP_V2])
@pytest.mark.parametrize(
    "made", [Login("branch", b"another one"), Login("other", b"one secret"), Login("branch", b"one secret", may_call=False)]
)
def test_another_account_or_secret_is_refused(method, made):
    """By both ends: the server doesn't accept, and the caller hears so."""
    own, far, _ = _talk(*_ends(method, server={"login": made}))
    assert isinstance(own, Refused)
    assert isinstance(far, Refused)


@pytest.mark.parametrize("who", ["peer", "server"])
def test_certificates_that_are_not_accepted_end_it(who):
    """Either end judges what the other one shows, by its own rules."""
    own, far, _ = _talk(*_ends(EapMethod.TLS, **{who: {"judge": lambda _: "it isn't trusted"}}))
    assert isinstance(own, Refused)
    assert isinstance(far, Refused)


def test_an_end_that_wants_another_method_says_which():
    """RFC 3748 section 5.3.1: the server's method isn't taken, and it ends by a failure."""
    peer, server = _ends(EapMethod.MSCHAP_V2)[0], _ends(EapMethod.MD5_CHALLENGE)[1]
    answer = peer.take(server.begin())
    assert isinstance(answer, bytes)
    assert (EapPacket.read(answer).type, EapPacket.read(answer).data) == (3, bytes((26,)))
    ended = server.take(answer)
    assert isinstance(ended, Ended)
    assert EapPacket.read(ended.octets).code is EapCode.FAILURE


@pytest.mark.parametrize("method", [EapMethod.MSCHAP_V2, EapMethod.TLS])
def test_a_success_that_comes_too_early_is_refused(method):
    """A server that says yes before it has proved itself is none (RFC 3748 section 4.2)."""
    peer, server = _ends(method)
    peer.take(server.begin())
    assert isinstance(peer.take(EapPacket(EapCode.SUCCESS, 1).written()), Refused)


@given(
    st.builds(
        EapPacket,
        st.sampled_from([EapCode.REQUEST, EapCode.RESPONSE]),
        st.integers(0, 255),
        st.integers(0, 255),
        st.binary(max_size=40),
    )
)
def test_packets_are_written_and_read_again(packet):
    """Whatever is in them."""
    assert EapPacket.read(packet.written()) == packet


@pytest.mark.parametrize("method", REHEARSED)
@settings(max_examples=60)
@given(data=st.data())
def test_any_octets_give_an_answer_or_a_clear_error(method, data):
    """In the midst of a conversation a packet is changed or made up, at either end: never another error."""
    peer, server = _ends(method)
    octets: Any = server.begin()
    for _ in range(data.draw(st.integers(0, 8))):
        answer = peer.take(octets)
        step = server.take(answer) if isinstance(answer, bytes) else None
        if not isinstance(step, bytes):
            break
        octets = step
    # what is drawn doesn't hang on the octets: those of a handshake of TLS aren't the same twice
    changes = data.draw(st.lists(st.tuples(st.integers(0, 9999), st.integers(0, 255)), min_size=1, max_size=4))
    cut, tail = data.draw(st.integers(0, 9999)), data.draw(st.binary(max_size=20))
    made = bytearray(octets)
    for at, value in changes:
        made[at % len(made)] = value
    made_up = bytes(made[: cut % (len(made) + 1)]) + tail
    whole = made_up[:2] + len(made_up).to_bytes(2) + made_up[4:]
    for end in (peer, server):
        for candidate in (bytes(made), made_up, whole):
            try:
                end.take(candidate)
            except EapError:
                continue
