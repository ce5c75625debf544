"""Segments, packets of hosts and hostile octets of tunnels over TLS."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family
from pontifex.core.call_effects import CallEffect, CallEnded, SendSegment
from pontifex.core.entropy import SeededEntropy
from pontifex.core.ike.effects import Socket
from pontifex.core.kinds import DataCipher, Side
from pontifex.core.kinds.technology import Digest
from pontifex.core.rehearsal.own_end import own_ends
from pontifex.core.rehearsal.rehearse import DayOf
from pontifex.core.tls.data_channel import DataChannel, DataError
from pontifex.core.tls.endpoint import TlsEndpoint
from pontifex.core.tls.segments import Frame, FrameKind, InOrder, Segment, SegmentKind
from pontifex.core.tls.settings import TlsSettings
from pontifex.demo import demo_design
from tests.support.designs import TODAY

HERE, THERE = (Socket(Address(Family.V4, value), 443) for value in (1, 2))


def _channel(cipher: DataCipher, digest: Digest, compresses: bool) -> DataChannel:
    return DataChannel(cipher, None if cipher.combined_mode else digest, compresses, b"a secret of both ends")


@given(st.sampled_from(DataCipher), st.sampled_from(Digest), st.booleans(), st.binary(max_size=200), st.randoms())
def test_what_is_sealed_opens_and_nothing_else_does(cipher, digest, compresses, packet, random):
    """Each cipher gives back what was sealed; one octet changed, or another secret, and it doesn't open."""
    sender, receiver = (_channel(cipher, digest, compresses) for _ in range(2))
    sealed = sender.seal(packet)
    assert receiver.open(sealed) == packet
    place = random.randrange(len(sealed))
    changed = sealed[:place] + bytes((sealed[place] ^ 1,)) + sealed[place + 1 :]
    for channel, octets in ((receiver, changed), (replace(receiver, secret=b"another"), sealed), (receiver, sealed[:-1])):
        with pytest.raises(DataError):
            channel.open(octets)


@given(st.sampled_from(DataCipher), st.sampled_from(Digest), st.integers(200, 1500))
def test_the_largest_packet_fits_and_one_octet_more_does_not(cipher, digest, room):
    """What is said to fit into some room does, sealed; one octet more doesn't."""
    largest = _channel(cipher, digest, False).largest(room)
    assert len(_channel(cipher, digest, False).seal(bytes(largest))) <= room
    assert len(_channel(cipher, digest, False).seal(bytes(largest + 1))) > room


@given(st.lists(st.binary(max_size=8), max_size=12), st.randoms(use_true_random=False))
def test_frames_come_in_their_order_whatever_is_lost(frames, random):
    """Lost, doubled and overtaking segments: every frame comes once, in its order, after some repetitions."""
    sender, receiver = InOrder(), InOrder()
    air = [(sender.send(0.0, frame), frame) for frame in frames]
    came: list[bytes] = []
    for _ in range(5):
        random.shuffle(air)
        for number, octets in air:
            if random.random() < 0.6:
                came += receiver.receive(number, octets)
                sender.heard(receiver.expected)
        air = list(sender.again(sender.due)) if sender.due < float("inf") else []
        air += random.choices(air, k=len(air) // 2) if air else []
    assert came == frames[: len(came)]
    if sender.due == float("inf"):
        assert came == frames


def _settings(side: Side) -> TlsSettings:
    design = demo_design()
    found = own_ends(design, design.tunnel_by_id["dock-exit"], DayOf(TODAY), b"seed")[side].settings
    assert isinstance(found, TlsSettings)
    return found


LEFT, RIGHT = _settings(Side.LEFT), _settings(Side.RIGHT)


def _segments(effects: list[CallEffect]) -> list[bytes]:
    return [effect.octets for effect in effects if isinstance(effect, SendSegment)]


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.integers(0, 20))
def test_whatever_comes_has_an_answer_or_none(seed, after):
    """A call of which one octet is changed somewhere, or that is cut: no error but the tunnel's own."""
    random = Random(seed)
    ends = TlsEndpoint(LEFT, SeededEntropy(b"left")), TlsEndpoint(RIGHT, SeededEntropy(b"right"))
    air = [(1, octets) for octets in _segments(ends[0].dial(0.0, HERE, THERE))]
    for count in range(60):
        if not air:
            break
        place, octets = air.pop(0)
        if count >= after and random.random() < 0.4:
            at = random.randrange(len(octets))
            octets = random.choice([octets[:at], octets[:at] + bytes((random.randrange(256),)) + octets[at + 1 :]])
        effects, _, _ = ends[place].receive(float(count), octets, (HERE, THERE)[1 - place], (HERE, THERE)[place])
        air += [(1 - place, segment) for segment in _segments(effects)]
    for end in ends:
        end.wake(1000.0)


@given(st.sampled_from(FrameKind), st.binary(max_size=60), st.integers(0, 3))
def test_any_frame_is_heard_or_refused(kind, body, number):
    """Whatever a frame holds, a waiting end answers, refuses, or says nothing."""
    end = TlsEndpoint(RIGHT, SeededEntropy(b"right"))
    for frame in (Frame(FrameKind.HELLO, b'{"ciphers": ["AES-256-GCM"]}'), Frame(kind, body)):
        at = 0 if frame.kind is FrameKind.HELLO else number
        segment = Segment(b"8 octets", SegmentKind.FRAME, at, 0, frame.octets())
        end.receive(0.0, segment.octets(), HERE, THERE)


def test_a_hello_without_a_common_cipher_is_refused():
    """The caller is told why, and both end it."""
    ends = (
        TlsEndpoint(replace(LEFT, data_ciphers=(DataCipher.AES_128_CBC,)), SeededEntropy(b"l")),
        TlsEndpoint(RIGHT, SeededEntropy(b"r")),
    )
    (hello,) = _segments(ends[0].dial(0.0, HERE, THERE))
    effects, _, _ = ends[1].receive(0.0, hello, HERE, THERE)
    assert any(isinstance(effect, CallEnded) and "no data cipher" in effect.reason for effect in effects)
    answered = [effect for octets in _segments(effects) for effect in ends[0].receive(0.0, octets, THERE, HERE)[0]]
    assert any(isinstance(effect, CallEnded) and "no data cipher" in effect.reason for effect in answered)
