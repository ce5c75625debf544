"""The algorithms against the standards' own vectors, and against what every one of their kind must do."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Family
from pontifex.core.entropy import SeededEntropy
from pontifex.core.esp import EspError, InboundSa, OutboundSa, ReplayWindow
from pontifex.core.ike.suite.chosen import Suite, suite_of
from pontifex.core.ike.suite.ciphers import OpeningError, data_cipher
from pontifex.core.ike.suite.key_exchange import KeyExchangeError, key_exchange
from pontifex.core.ike.suite.macs import INTEGRITIES, PRFS
from pontifex.core.ike.suite.modp_groups import modp_group
from pontifex.core.ike.suite.not_rehearsed import why_not_rehearsed
from pontifex.core.ipsec import REGISTRY, Transform, TransformType
from pontifex.core.ipsec.overhead import overhead

_COUNT = bytes(range(20))
_KEY = bytes(range(16))


@pytest.mark.parametrize(
    ("number", "key", "octets", "code"),
    [
        # RFC 3566 section 4, RFC 4434 section 3, RFC 4615 section 4
        (4, _KEY, b"", "75f0251d528ac01c4573dfd584d79f29"),
        (4, _KEY, _COUNT[:3], "5b376580ae2f19afe7219ceef172756f"),
        (4, _KEY, _COUNT[:16], "d2a246fa349b68a79998a4394ff7a263"),
        (4, _KEY, _COUNT, "47f51b4564966215b8985c63055ed308"),
        (4, _KEY[:10], _COUNT, "0fa087af7d866e7653434e602fdde835"),
        (4, _KEY + b"\xed\xcb", _COUNT, "8cd3c93ae598a9803006ffb67c40e9e4"),
        (8, _KEY, _COUNT, "980ae87b5f4c9c5214f5b6a8455e4c2d"),
        (8, _KEY[:10], _COUNT, "290d9e112edb09ee141fcf64c0b72f3d"),
        (8, _KEY + b"\xed\xcb", _COUNT, "84a348a4a45d235babfffc0d2b4da09a"),
        # RFC 4231 test case 2
        (5, b"Jefe", b"what do ya want for nothing?", "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843"),
    ],
)
def test_pseudorandom_functions_give_the_published_values(number, key, octets, code):
    """The vectors of the RFCs, keys of other lengths included."""
    assert PRFS[number].mac(key, octets).hex() == code


@pytest.mark.parametrize("group", [1, 2, 5, 14, 15, 16, 17, 18])
def test_primes_of_modp_groups_are_safe(group):
    """Each prime begins and ends as RFC 3526 prints it, and both it and its half pass a test of primality."""
    found = modp_group(group)
    assert found
    prime = found.prime
    assert f"{prime:x}".startswith("f" * 16 + "c90fdaa22168c234c4c6628b80dc1cd1")
    assert f"{prime:x}".endswith("f" * 16)
    for number in (prime, (prime - 1) // 2):
        assert pow(3, number - 1, number) == 1


@pytest.mark.parametrize("group", [22, 23, 24])
def test_groups_with_an_order_have_it(group):
    """The generators of RFC 5114 are of the order that goes with them; what isn't of it is refused (RFC 6989 section 2.2)."""
    found, exchange = modp_group(group), key_exchange(group)
    assert found
    assert found.order
    assert exchange
    assert found.generator != 1
    assert pow(found.generator, found.order, found.prime) == 1
    begun = exchange.begin(SeededEntropy(b"group"))
    with pytest.raises(KeyExchangeError, match="subgroup"):
        begun.finish((found.prime - 2).to_bytes(found.octets))


_METHODS = [row.id for row in REGISTRY if row.type is TransformType.KE and key_exchange(row.id)]


@pytest.mark.parametrize("method", _METHODS)
def test_both_ends_come_to_one_secret(method):
    """Whatever the method, both have the same secret; values that are none are refused and never bring it down."""
    entropy = SeededEntropy(b"both")
    exchange = key_exchange(method)
    assert exchange
    begun = exchange.begin(entropy)
    public, secret = exchange.answer(begun.public, entropy)
    assert begun.finish(public) == secret
    assert exchange.begin(entropy).public != begun.public
    for value in (b"", bytes(len(public)), b"\xff" * len(public), public[:-1], public + b"\0"):
        try:
            begun.finish(value)
        except KeyExchangeError:
            continue
        # any octets of their length are a point of Curve25519 and Curve448 (RFC 7748), and a ciphertext of ML-KEM (FIPS 203)
        assert method in (31, 32, 36, 37), "a value that is none was taken"


def _suites() -> list[tuple[Transform, list[Transform], Suite]]:
    ciphers = [(row.id, bits) for row in REGISTRY if row.type is TransformType.ENCR for bits in row.key_lengths or (None,)]
    made: list[tuple[Transform, list[Transform], Suite]] = []
    for number, bits in ciphers:
        cipher = Transform(type=TransformType.ENCR, id=number, key_length=bits)
        codes = [None] if cipher.combined_mode else sorted(INTEGRITIES)
        for code in codes if number == 12 and bits == 128 else codes[-1:]:
            others = [Transform(type=TransformType.INTEG, id=code)] if code else []
            for numbers in (0, 1):
                found = suite_of((cipher, *others, Transform(type=TransformType.ESN, id=numbers)))
                if found:
                    made.append((cipher, others, found))
    return made


_SUITES = _suites()


def _pair(suite: Suite) -> tuple[OutboundSa, InboundSa]:
    entropy = SeededEntropy(b"pair")
    keys = entropy(suite.cipher.key_octets), entropy(suite.integrity_key_octets)
    return OutboundSa(b"\1\2\3\4", suite, *keys), InboundSa(b"\1\2\3\4", suite, *keys)


@pytest.mark.parametrize(
    "case", _SUITES, ids=lambda case: case[0].label + (case[1][0].label if case[1] else "") + str(case[2].extended_numbers)
)
def test_every_cipher_of_esp_carries_and_refuses(case):
    """What goes in comes out; a changed octet, a second time and another key are refused; the size is as the overhead says."""
    cipher, others, suite = case
    out, into = _pair(suite)
    inner = b"\x45" + bytes(82)
    cost = overhead(cipher, others[0] if others else None, Family.V4, False, 1500)
    for _ in range(3):
        packet = out.protect(inner, 4, SeededEntropy(b"iv"))
        assert len(packet) + 20 == cost.outer_size(len(inner))
        assert into.open(packet) == (inner, 4)
    with pytest.raises(EspError, match="before"):
        into.open(packet)
    fresh = out.protect(inner, 4, bytes)
    for at in range(4, len(fresh), 7):
        with pytest.raises(EspError):
            into.open(fresh[:at] + bytes((fresh[at] ^ 1,)) + fresh[at + 1 :])
    assert into.open(fresh) == (inner, 4)
    assert len(out.protect(bytes(cost.inner_mtu), 4, bytes)) + 20 <= 1500
    assert len(out.protect(bytes(cost.inner_mtu + 1), 4, bytes)) + 20 > 1500


@given(st.lists(st.integers(1, 300), max_size=200))
def test_the_replay_window_forgets_nothing_within_it(numbers):
    """Against a plain set: what is within the window of 64 is new exactly once, what lies behind it never."""
    window = ReplayWindow()
    seen: set[int] = set()
    for number in numbers:
        highest = max(seen, default=0)
        assert window.is_new(number) == (number not in seen and number > highest - 64)
        if window.is_new(number):
            window.note(number)
            seen.add(number)


def test_extended_numbers_go_on_behind_32_bits():
    """The high half is worked out by the receiver (RFC 4303 appendix A)."""
    suite = next(suite for cipher, _, suite in _SUITES if cipher.id == 12 and suite.extended_numbers)
    out, into = _pair(suite)
    out.sent = 2**32 - 3
    into.window.note(2**32 - 10)
    for _ in range(6):
        assert into.open(out.protect(b"inner", 4, bytes))[0] == b"inner"
    assert out.sent == 2**32 + 3


def test_what_is_not_rehearsed_says_why():
    """Each transform of the registry is rehearsed, or says in a sentence why not."""
    for row in REGISTRY:
        transform = Transform(type=row.type, id=row.id, key_length=row.key_lengths[0] if row.key_lengths else None)
        why = why_not_rehearsed(transform)
        assert why is None or len(why) > 20
    assert why_not_rehearsed(Transform(type=TransformType.KE, id=35))
    assert not why_not_rehearsed(Transform(type=TransformType.KE, id=37))


def test_a_cut_off_packet_is_refused():
    """A combined mode refuses what is shorter than its integrity value."""
    cipher = data_cipher(18, 128)
    assert cipher
    with pytest.raises(OpeningError):
        cipher.open(bytes(20), bytes(8), b"short", b"")
