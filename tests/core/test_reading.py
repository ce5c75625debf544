"""Reading proposals from free text."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.ipsec import REGISTRY, Proposal, Protocol, Transform, TransformType
from pontifex.core.ipsec.reading import WordKind, read_proposals, write_proposals
from pontifex.core.ipsec.reading.reader import TextTooLong
from tests.truth.written import RIGHT, judge

CBC_256 = "AES-CBC-256 · PRF SHA2-256 · SHA2-256 · group 14"
GCM_20 = "AES-GCM-16-256 · PRF SHA2-384 · group 20"
OLD = "3DES · PRF SHA1 · SHA1 · group 2"
OLDEST = "3DES · PRF MD5 · MD5 · group 2"
ESP_128 = "AES-CBC-128 · SHA1 · no ESN"

# what people write → the IKE proposals, the Child SA proposals
SAMPLES = {
    "aes256-sha256-modp2048": ([CBC_256], []),
    "AES-256 / SHA2-256 / DH group 14": ([CBC_256], []),
    "AES256, SHA256, DH14": ([CBC_256], []),
    "aes 256 sha 256 group 14": ([CBC_256], []),
    "AES-CBC-256 | HMAC-SHA-256-128 | MODP 2048": ([CBC_256], []),
    "256-bit AES, SHA-2 256, Diffie-Hellman group 14": ([CBC_256], []),
    "AES (256 bit) with SHA256 and group 14": ([CBC_256], []),
    "Encryption: AES-256-CBC\nHash: SHA-256\nDH group: 14": ([CBC_256], []),
    "encryption = aes256; ": (["AES-CBC-256"], []),
    "ENCR_AES_CBC-256 PRF_HMAC_SHA2_256 AUTH_HMAC_SHA2_256_128 2048-bit MODP Group": ([CBC_256], []),
    "IKE: AES256/SHA256/G14": ([CBC_256], []),
    "IKEv2 proposal aes-256 sha2-256 dh-group-14": ([CBC_256], []),
    "ike sa: aes256 + sha256 + grp14": ([CBC_256], []),
    "Phase 1: AES256-SHA256-DH14": ([CBC_256], []),
    "phase1 aes256 sha256 g14 lifetime 28800": ([CBC_256], []),
    "AES-GCM-256, PRF SHA384, group 20, PFS yes": ([GCM_20], []),
    "aes256gcm16-prfsha384-ecp384": ([GCM_20], []),
    "AES-256-GCM / SHA-384 / ECP384": ([GCM_20], []),
    "aes256gcm128 prf-sha384 NIST P-384": ([GCM_20], []),
    "AES GCM 256 with SHA2-384 PRF, DH20": ([GCM_20], []),
    "ENCR_AES_GCM_16-256, PRF_HMAC_SHA2_384, 384-bit random ECP group": ([GCM_20], []),
    "aes-gcm-16-256, prf sha2-384, secp384r1": ([GCM_20], []),
    "AES-GCM-16-256 · PRF SHA2-384 · group 20": ([GCM_20], []),
    "3des md5 g2": ([OLDEST], []),
    "3DES-MD5-MODP1024": ([OLDEST], []),
    "triple-DES, HMAC-MD5-96, group 2": ([OLDEST], []),
    "3DES/SHA/DH2": ([OLD], []),
    "3DES-CBC, SHA-1, Diffie-Hellman Group 2 (modp1024)": ([OLD], []),
    "des-ede3-cbc hmac-sha1-96 modp 1024": ([OLD], []),
    "TDES + SHA1 + grp 2": ([OLD], []),
    "des md5 dh group 1": (["DES · PRF MD5 · MD5 · group 1"], []),
    "chacha20poly1305-prfsha256-curve25519": (["ChaCha20-Poly1305 · PRF SHA2-256 · group 31"], []),
    "ChaCha20-Poly1305, SHA256, X25519": (["ChaCha20-Poly1305 · PRF SHA2-256 · group 31"], []),
    "chacha20 prf sha512 curve448": (["ChaCha20-Poly1305 · PRF SHA2-512 · group 32"], []),
    "aes128ctr-sha512-modp4096": (["AES-CTR-128 · PRF SHA2-512 · SHA2-512 · group 16"], []),
    "camellia256-sha512-ecp521": (["Camellia-CBC-256 · PRF SHA2-512 · SHA2-512 · group 21"], []),
    "aes128ccm16 prf sha256 brainpool p256r1": (["AES-CCM-16-128 · PRF SHA2-256 · group 28"], []),
    "aes192-aesxcbc-prfaesxcbc-modp3072": (["AES-CBC-192 · PRF AES-XCBC · AES-XCBC · group 15"], []),
    "aes256-sha384-ecp384bp": (["AES-CBC-256 · PRF SHA2-384 · SHA2-384 · group 29"], []),
    "aes256gcm16-prfsha384-x25519-mlkem768": (["AES-GCM-16-256 · PRF SHA2-384 · group 31 or ML-KEM-768"], []),
    "aes256 sha256 groups 14, 19 and 20": (["AES-CBC-256 · PRF SHA2-256 · SHA2-256 · group 14 or group 19 or group 20"], []),
    "AES-128/256, SHA1/SHA256, group 14": (
        ["AES-CBC-128 or AES-CBC-256 · PRF SHA1 or PRF SHA2-256 · SHA1 or SHA2-256 · group 14"],
        [],
    ),
    "aes256-sha256-modp2048, aes128-sha1-modp1024": ([CBC_256, "AES-CBC-128 · PRF SHA1 · SHA1 · group 2"], []),
    "aes256-sha256-modp2048; 3des-sha1-modp1024": ([CBC_256, OLD], []),
    "aes256-sha256-modp2048 3des-sha1-modp1024": ([CBC_256, OLD], []),
    "AES-256-GCM or AES-256-CBC, SHA256, group 19": (
        ["AES-GCM-16-256 · PRF SHA2-256 · group 19", "AES-CBC-256 · PRF SHA2-256 · SHA2-256 · group 19"],
        [],
    ),
    "Phase 2: ESP AES256 SHA1, PFS DH5, 3600 s": ([], ["AES-CBC-256 · SHA1 · group 5 · no ESN"]),
    "esp: aes128-sha1": ([], [ESP_128]),
    "IPsec: AES-128, HMAC-SHA1, no PFS": ([], [ESP_128]),
    "quick mode aes128 sha1": ([], [ESP_128]),
    "Child SA proposal: AES-128-CBC with SHA-1": ([], [ESP_128]),
    "P2 aes128/sha1, lifetime 1h": ([], [ESP_128]),
    "esp aes256gcm16 ESN": ([], ["AES-GCM-16-256 · ESN"]),
    "ESP: AES-GCM-128, PFS group 19, ESN no": ([], ["AES-GCM-16-128 · group 19 · no ESN"]),
    "esp null sha256": ([], ["NULL · SHA2-256 · no ESN"]),
    "esp AES-256, integrity none": ([], ["AES-CBC-256 · no ESN"]),
    "esp aes256-sha256-modp2048-esn": ([], ["AES-CBC-256 · SHA2-256 · group 14 · ESN"]),
    "Phase 1: AES256 SHA256 G14 24h. Phase 2: AES128 SHA1 8h": ([CBC_256], [ESP_128]),
    "P1 aes256-sha256-modp2048 / P2 aes128-sha1": ([CBC_256], [ESP_128]),
    "IKE 3des/sha/2, IPsec aes128/sha, 28800 sec": ([OLD], [ESP_128]),
    "phase I: aes 256, sha 256, dh 14, 1 day; phase II: aes 128, sha 1, 60 minutes": ([CBC_256], [ESP_128]),
    "Main mode AES-256 SHA256 group14, quick mode AES-256 SHA256 PFS group14": (
        [CBC_256],
        ["AES-CBC-256 · SHA2-256 · group 14 · no ESN"],
    ),
    "ike=aes256gcm16-prfsha384-ecp384 esp=aes256gcm16-ecp384": ([GCM_20], ["AES-GCM-16-256 · group 20 · no ESN"]),
    "Phase 1: AES-256, SHA-256, DH group 14, 28,800 s": ([CBC_256], []),
    "IKE: AES256/SHA256/14": ([CBC_256], []),
    "Gruppe: 14; Verschlüsselung: AES256; Hash: SHA256": ([CBC_256], []),
    "aes-256-cbc; hmac-sha256; dh2048; 8h": ([CBC_256], []),
    "AES256/SHA256/DH14, no 3DES": ([CBC_256], []),
    "3DES: no; AES256 SHA256 DH14": ([CBC_256], []),
    "\tPhase 1\tPhase 2\nEncryption\tAES256\tAES128\nHash\tSHA256\tSHA1\nGroup\t14\t-": ([CBC_256], [ESP_128]),
    "AES256 SHA256 group 14 PFS group 19; phase 2 aes128 sha1": ([CBC_256], ["AES-CBC-128 · SHA1 · group 19 · no ESN"]),
}


@pytest.mark.parametrize("text", SAMPLES)
def test_what_people_write(text):
    """Each notation is read as the proposals that its writer meant."""
    reading = read_proposals(text, whole=False)
    assert ([p.label for p in reading.ike], [p.label for p in reading.child]) == SAMPLES[text]
    assert not reading.of_kind(WordKind.AMBIGUOUS)


def test_there_are_enough_samples():
    """At least sixty notations are tried."""
    assert len(SAMPLES) >= 60


@pytest.mark.parametrize(
    ("text", "word", "choices"),
    [
        ("AES, SHA256, group 14", "AES", ("AES-CBC-128", "AES-CBC-192", "AES-CBC-256")),
        ("aes-gcm sha384 g20", "aes-gcm", ("AES-GCM-16-128", "AES-GCM-16-192", "AES-GCM-16-256")),
        ("aes256 sha2 g14", "sha2", ("SHA2-256", "SHA2-384", "SHA2-512")),
        ("aes256gcm prf sha2 g14", "prf sha2", ("PRF SHA2-256", "PRF SHA2-384", "PRF SHA2-512")),
        ("aes256ccm sha256 g14", "aes256ccm", ("aes-ccm-8-256", "aes-ccm-12-256", "aes-ccm-16-256")),
        ("ike aes256 sha256 g14 esp aes256 sha256 PFS yes", "PFS", ("PFS group 14",)),
    ],
)
def test_what_is_ambiguous_is_asked(text, word, choices):
    """An ambiguous word is asked about, with choices, each of which is understood."""
    (found,) = read_proposals(text).of_kind(WordKind.AMBIGUOUS)
    assert (found.text, found.choices) == (word, choices)
    for choice in choices:
        assert not read_proposals(choice, whole=False).of_kind(WordKind.AMBIGUOUS)
        assert not read_proposals(choice).of_kind(WordKind.UNKNOWN)


@pytest.mark.parametrize(
    ("text", "question", "choice"),
    [
        ("aes256 sha256", "which group?", ", group 14"),
        ("aes256gcm g20", "which PRF?", ", PRF SHA2-384"),
        ("sha256 group 14", "which encryption?", ", AES-CBC-256"),
        ("aes256, group 14", "which integrity?", ", SHA2-256"),
        ("phase 2: aes256", "which integrity?", ", SHA1"),
    ],
)
def test_what_a_proposal_lacks_is_asked(text, question, choice):
    """An incomplete proposal is never taken as it is: what it lacks is asked for, and a choice put behind it completes it."""
    (asked,) = read_proposals(text).of_kind(WordKind.AMBIGUOUS)
    assert (asked.meaning, choice in asked.choices) == (question, True)
    mended = read_proposals(text[: asked.start] + choice + text[asked.start :])
    assert not mended.of_kind(WordKind.AMBIGUOUS)
    assert not [fault for proposal in mended.ike for fault in proposal.faults(Protocol.IKE)]


@pytest.mark.parametrize(
    ("text", "asked"),
    [
        ("aes256 sha256 g14, lifetime 8", "8"),
        ("aes256 sha256 g14, lifetime 1.000 h", "1.000 h"),
        ("aes256 sha256 g14, lifetimes 28800 s / 3600 s", "3600 s"),
        ("aes256 sha256 g14, not 3DES, MD5", "MD5"),
        ("aes256 sha256 g14, aes128", "aes128"),
        ("sha256, aes256, g14, sha1, aes128, g2", "aes128"),
    ],
)
def test_what_could_be_meant_in_two_ways_is_asked(text, asked):
    """A number without a unit, a second lifetime, what may still be negated, a cipher that comes alone: nothing is guessed."""
    assert [word.text for word in read_proposals(text).of_kind(WordKind.AMBIGUOUS)] == [asked]


def test_texts_in_hundreds_of_styles():
    """Of drawn texts none is silently wrong, and nineteen in twenty are right without a question."""
    counts, wrong = judge(range(1500))
    assert wrong == []
    assert counts[RIGHT] >= 0.95 * counts.total()


@pytest.mark.parametrize(
    ("text", "unknown"),
    [
        ("aes256 banana sha256", ["banana"]),
        ("sha3-256 aes256", ["sha3-256"]),
        ("aes256 sha256 group 99", ["group 99"]),
        ("skipjack, aes256", ["skipjack"]),
        ("", []),
    ],
)
def test_what_is_unknown_is_said(text, unknown):
    """A word that isn't known is kept and named."""
    assert [word.text for word in read_proposals(text).of_kind(WordKind.UNKNOWN)] == unknown


@pytest.mark.parametrize(
    ("text", "ike", "child", "pfs"),
    [
        ("phase 1 24h phase 2 60 min PFS", 86_400, 3600, True),
        ("lifetime 28800", 28_800, None, None),
        ("ike lifetime: 1 day; esp lifetime: 1.5 h, pfs off", 86_400, 5400, False),
        ("esp 3600 seconds without PFS", None, 3600, False),
        ("group 14, 28,800 s", 28_800, None, None),
        ("lifetime (IKE/IPsec): 28.800 s/3.600 s", 28_800, 3600, None),
        ("Lebensdauer = 3'600; PFS = nein", 3600, None, False),
        ("perfect forward secrecy: enabled, rekey every 8 hours", 28_800, None, True),
    ],
)
def test_lifetimes_and_forward_secrecy(text, ike, child, pfs):
    """Lifetimes are read in seconds for the SA that they stand with, forward secrecy as wanted or not."""
    reading = read_proposals(text)
    assert (reading.ike_lifetime_s, reading.child_lifetime_s, reading.pfs) == (ike, child, pfs)
    assert not reading.of_kind(WordKind.UNKNOWN)


VALID = [
    Transform(type=row.type, id=row.id, key_length=length)
    for row in REGISTRY
    for length in (row.key_lengths or (None,))
    if not row.type.is_additional and (row.id or row.type is TransformType.ESN)
]


def test_the_order_of_preference_is_that_of_the_text():
    """Algorithms named by their hash and by their own name stay in the order in which they were written."""
    (found,) = read_proposals("AES-CBC-128, SHA2-256 or AES-XCBC or SHA1, no ESN", Protocol.ESP).child
    assert [transform.id for transform in found.transforms if transform.type is TransformType.INTEG] == [12, 5, 2]


@given(st.lists(st.sampled_from(VALID), max_size=9, unique=True), st.sampled_from(Protocol))
def test_written_and_read_back(transforms, protocol):
    """Writing a valid proposal out and reading it back is the identity."""
    proposal = Proposal(transforms=tuple(transforms))
    if proposal.faults(protocol):
        return
    reading = read_proposals(write_proposals([proposal]), protocol)
    (found,) = reading.proposals(protocol)
    assert found.by_type == proposal.by_type
    assert not reading.of_kind(WordKind.UNKNOWN)


@pytest.mark.parametrize("protocol", Protocol)
def test_every_transform_is_written_and_read_back(protocol):
    """Each transform of the registry, in a valid proposal, survives being written and read."""
    base = {TransformType.ENCR: _t("ENCR", 12, 256), TransformType.INTEG: _t("INTEG", 12), TransformType.PRF: _t("PRF", 5)}
    base |= {TransformType.KE: _t("KE", 14)} if protocol is Protocol.IKE else {TransformType.ESN: _t("ESN", 1)}
    for transform in VALID:
        parts = {**base, transform.type: transform}
        if transform.combined_mode:
            del parts[TransformType.INTEG]
        parts.pop(TransformType.ESN if protocol is Protocol.IKE else TransformType.PRF, None)
        proposal = Proposal(transforms=tuple(parts.values()))
        (found,) = read_proposals(write_proposals([proposal]), protocol).proposals(protocol)
        assert found.by_type == proposal.by_type


def _t(type_, id_, key_length=None):
    return Transform(type=TransformType(type_), id=id_, key_length=key_length)


@given(st.text(max_size=80))
def test_no_word_is_dropped(text):
    """Every letter and digit of a text stands in exactly one of the words, in order."""
    words = read_proposals(text).words
    kept = "".join(word.text for word in words)
    assert [c for c in text if c.isalnum()] == [c for c in kept if c.isalnum()]
    assert all(a.end <= b.start for a, b in pairwise(words))
    assert all(text[word.start : word.end] == word.text for word in words)


def test_a_text_that_is_too_long():
    """A text that is longer than anybody's proposals is refused with the limit."""
    with pytest.raises(TextTooLong, match="20000 at most"):
        read_proposals("aes " * 6000)


@pytest.mark.parametrize("text", ["lifetime " + "9" * 400, "group " + "9" * 400, "aes" + " " * 9000 + "256", "9" * 19_000])
def test_no_text_ends_in_an_error(text):
    """Numbers of hundreds of digits and thousands of blanks are words that aren't known, and no error."""
    assert not read_proposals(text).ike or "aes" in text
