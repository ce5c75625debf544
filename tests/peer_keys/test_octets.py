"""The handshake and packets of tunnels with static peer keys, and hostile octets."""

from __future__ import annotations

from dataclasses import replace

import pytest
from cryptography.hazmat.primitives.asymmetric.x25519 import X25519PrivateKey
from hypothesis import given, settings
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family, Selector, parse_prefix
from pontifex.core.call_effects import CallEffect, CallUp, SendSegment
from pontifex.core.entropy import SeededEntropy
from pontifex.core.ike.effects import Logged, Socket
from pontifex.core.peer_keys.datagrams import Datagram, DatagramKind
from pontifex.core.peer_keys.endpoint import PeerKeyEndpoint
from pontifex.core.peer_keys.noise import Handshake, NotOpenedError, public_octets, sealed
from pontifex.core.peer_keys.settings import PeerKeySettings

HERE, THERE = (Socket(Address(Family.V4, value), 4242) for value in (1, 2))
STATIC_HERE, STATIC_THERE, EPHEMERAL_HERE, EPHEMERAL_THERE = (
    X25519PrivateKey.from_private_bytes(bytes((number,)) * 32) for number in (1, 2, 3, 4)
)
# by another implementation of the Noise framework, from the same keys
CALL = (
    "5dfedd3b6bd47f6fa28ee15d969d5bb0ea53774d488bdaf9df1c6e0124b3ef224391bcfef3f1b0f051873c2103356110f8056ef928c4354783347c74dc7b"
    "71b7fd9a860bc9013ff1aaeb4e5e0361f7a99f63830df95a17af1b583f314a84a93b774461dd95211971a18449"
)
ANSWER = "ac01b2209e86354fb853237b5de0f4fab13c7fcbf433a61c019369617fecf10bd98ce7cadfff6c5c92f58a68fb683ea695ad929c6a6fbc1b506e6b"
PACKET = "669e0817dcedd84bfdf6b93bb87142c7d59b152e9eac"


def test_the_handshake_is_that_of_the_framework():
    """Both messages and the first packet are octet for octet what another implementation makes of the same keys."""
    caller = Handshake(STATIC_HERE, EPHEMERAL_HERE, public_octets(STATIC_THERE))
    called = Handshake(STATIC_THERE, EPHEMERAL_THERE, b"")
    call = caller.call(b"payload one")
    assert (call.hex(), called.hear_call(call)) == (CALL, b"payload one")
    assert called.remote_static == public_octets(STATIC_HERE)
    answer = called.answer(b"payload two")
    assert (answer.hex(), caller.hear_answer(answer)) == (ANSWER, b"payload two")
    assert caller.keys() == called.keys()
    assert sealed(caller.keys()[0], 0, b"packet").hex() == PACKET


@given(st.integers(0, len(CALL) // 2 - 1), st.integers(1, 255))
def test_one_octet_changed_does_not_open(place, change):
    """Whatever octet of a call is another one: nothing of it is believed."""
    octets = bytearray.fromhex(CALL)
    octets[place] ^= change
    with pytest.raises(NotOpenedError):
        Handshake(STATIC_THERE, EPHEMERAL_THERE, b"").hear_call(bytes(octets))


def _end(own: X25519PrivateKey, peer: X25519PrivateKey, name: str) -> PeerKeyEndpoint:
    everything = (Selector.of(parse_prefix("0.0.0.0/0")),)
    ends = PeerKeySettings(
        private=own.private_bytes_raw(),
        expected=public_octets(peer),
        local_networks=everything,
        remote_networks=everything,
        port=4242,
        redials=True,
        keepalive_s=0,
    )
    return PeerKeyEndpoint(ends, SeededEntropy(name.encode()))


def _octets(effects: list[CallEffect]) -> bytes:
    (sent,) = [effect for effect in effects if isinstance(effect, SendSegment)]
    return sent.octets


def _paired() -> tuple[PeerKeyEndpoint, PeerKeyEndpoint, bytes]:
    here, there = _end(STATIC_HERE, STATIC_THERE, "here"), _end(STATIC_THERE, STATIC_HERE, "there")
    call = _octets(here.dial(1.0, HERE, THERE))
    answered, _ = there.receive(1.1, call, HERE, THERE)
    settled, _ = here.receive(1.2, _octets(answered), THERE, HERE)
    assert [effect for effect in settled if isinstance(effect, CallUp)]
    return here, there, call


def test_a_packet_arrives_once_and_a_call_is_not_taken_twice():
    """What somebody sends again is dropped: the packet as the call."""
    here, there, call = _paired()
    packet = _octets(here.packet(2.0, b"inner"))
    assert there.receive(2.1, packet, HERE, THERE)[1] == b"inner"
    again, inner = there.receive(2.2, packet, HERE, THERE)
    assert inner is None
    assert "heard before" in str(again)
    again, _ = there.receive(2.3, call, HERE, THERE)
    assert any(isinstance(effect, Logged) and "older one" in effect.text for effect in again)
    assert not any(isinstance(effect, SendSegment) for effect in again)


def test_an_answer_that_somebody_made_up_spoils_nothing():
    """The call goes on, and the other end's own answer is taken."""
    here, there = _end(STATIC_HERE, STATIC_THERE, "here"), _end(STATIC_THERE, STATIC_HERE, "there")
    answered, _ = there.receive(1.1, _octets(here.dial(1.0, HERE, THERE)), HERE, THERE)
    answer = Datagram.read(_octets(answered))
    assert answer
    here.receive(1.15, replace(answer, body=bytes(48)).octets(), THERE, HERE)
    settled, _ = here.receive(1.2, answer.octets(), THERE, HERE)
    assert [effect for effect in settled if isinstance(effect, CallUp)]


def test_an_end_that_roams_is_answered_where_it_is():
    """A packet that opens tells from where the other end speaks now."""
    here, there, _ = _paired()
    elsewhere = Socket(Address(Family.V4, 3), 61_000)
    there.receive(2.0, _octets(here.packet(2.0, b"inner")), elsewhere, THERE)
    (sent,) = there.packet(2.1, b"back")
    assert isinstance(sent, SendSegment)
    assert sent.destination == elsewhere


@settings(max_examples=300)
@given(
    st.one_of(
        st.binary(max_size=200),
        st.builds(
            lambda kind, session, counter, body: Datagram(kind, session, 1, counter, body).octets(),
            st.sampled_from(DatagramKind),
            st.integers(0, 2**32 - 1),
            st.integers(0, 2**64 - 1),
            st.binary(max_size=150),
        ),
    )
)
def test_whatever_octets_come_an_end_goes_on(octets):
    """Hostile octets are dropped: no error but a line of the log, and the session stands."""
    here, there, _ = _paired()
    _, inner = there.receive(3.0, octets, HERE, THERE)
    assert inner is None
    assert there.receive(3.1, _octets(here.packet(3.1, b"inner")), HERE, THERE)[1] == b"inner"
