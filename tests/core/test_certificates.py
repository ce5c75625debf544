"""Certificates: what one says, the chain to a trust anchor, and what the comparison makes of it."""

from __future__ import annotations

from datetime import date
from ipaddress import IPv4Address
from typing import Any

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric.rsa import generate_private_key
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
from pydantic import ValidationError

from pontifex.core.catalogue import Code
from pontifex.core.certificates import BrokenChain, Certificate, Chain, ChainFault, chain_to
from pontifex.core.findings import analyse
from pontifex.core.kinds import Side
from pontifex.core.matching import TunnelEnds, Verdict, compare, row_remedies
from pontifex.core.model import apply_operations
from pontifex.core.reasons import auth, tunnels
from tests.support.certificates import GATE, ISSUING, KEYS, OSTVIK, OTHER_ROOT, ROOT, issue
from tests.support.designs import SOUND, TODAY, with_end
from tests.support.ends import identity
from tests.support.reasons import is_said, like

LEFT, RIGHT = Side


def test_what_a_certificate_says():
    """Subject, names, key, signature and validity are read; it is written in one line."""
    names = [OSTVIK, x509.RFC822Name("gate@skerry.example"), x509.IPAddress(IPv4Address("203.0.113.9"))]
    facts = issue("gate", "Skerry Root", KEYS["gate"], KEYS["root"], names=names).facts
    assert (facts.subject, facts.issuer, facts.key, facts.strength_bits) == ("CN=gate", "CN=Skerry Root", "Ed25519", 128)
    assert [str(name) for name in facts.names] == [
        "dNSName ostvik.skerry.example", "rfc822Name gate@skerry.example", "iPAddress 203.0.113.9",
    ]  # fmt: skip
    assert str(GATE) == "CN=gate · dNSName ostvik.skerry.example · Ed25519 · until 2027-11-23"


@pytest.mark.parametrize("text", ["", "gate", GATE.pem + ROOT.pem, GATE.pem.replace("MII", "AAA")])
def test_what_is_no_certificate_is_refused(text):
    """An entry is exactly one certificate in PEM."""
    with pytest.raises(ValidationError):
        Certificate(pem=text)


def test_a_private_key_is_refused_and_not_repeated():
    """A private key that was pasted by mistake goes nowhere: not into the design, and not into the message."""
    pem = KEYS["gate"].private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption()).decode()
    with pytest.raises(ValidationError) as refused:
        Certificate(pem=pem)
    (error,) = refused.value.errors(include_input=False)
    assert "stays on its device" in error["msg"]
    assert pem.splitlines()[1] not in str(error)


@pytest.mark.parametrize(
    ("anchors", "sent", "links"),
    [
        ([ROOT], [GATE, ISSUING], 3),
        ([ISSUING], [GATE], 2),
        ([OTHER_ROOT, ROOT], [GATE, ROOT, ISSUING], 3),
        ([GATE], [GATE], 1),
    ],
)
def test_a_chain_is_found(anchors, sent, links):
    """The chain goes from the end's own certificate to the anchor, through what is sent along in any order."""
    chain = chain_to(anchors, sent)
    assert isinstance(chain, Chain)
    assert len(chain.links) == links


def _forged():
    return issue("gate", "Skerry Issuing", KEYS["gate"], KEYS["fake"], names=[OSTVIK])


@pytest.mark.parametrize(
    ("anchors", "sent", "fault"),
    [
        ([ROOT], [GATE], ChainFault.LACKING),
        ([OTHER_ROOT], [GATE, ISSUING, ROOT], ChainFault.SELF_SIGNED),
        ([ISSUING], [_forged()], ChainFault.OTHER_KEY),
        ([issue("Skerry Issuing", "x", KEYS["issuing"], KEYS["root"])], [GATE], ChainFault.NO_AUTHORITY),
    ],
)
def test_why_a_chain_breaks(anchors, sent, fault):
    """A chain that leads nowhere names the link that is lacking or wrong."""
    broken = chain_to(anchors, sent)
    assert isinstance(broken, BrokenChain)
    assert broken.fault is fault


def _proved_by(certificates, anchors, name="ostvik.skerry.example", kind="fqdn"):
    """The sound tunnel with Ostvik proving itself by certificates, and Harbour trusting some authorities."""
    given = identity(name, kind)
    right: dict[str, Any] = {
        "local_auth": "certificate",
        "certificates": [certificate.model_dump() for certificate in certificates],
        "local_identity": given,
    }
    left: dict[str, Any] = {
        "remote_auth": "certificate",
        "trust_anchors": [anchor.model_dump() for anchor in anchors],
        "remote_identity": given,
    }
    return with_end(RIGHT, with_end(LEFT, **left), **{**right, "trust_anchors": [ROOT.model_dump()]})


def _row(design):
    rows = compare(TunnelEnds(design, design.tunnel_by_id[SOUND], TODAY))
    return next(row for row in rows if row.key == "certificate-right")


@pytest.mark.parametrize(
    ("design", "code", "said"),
    [
        (
            lambda: _proved_by([GATE, ISSUING], [OTHER_ROOT]),
            Code.CERT_ROOT_LACKING,
            like(auth.ChainBroken, fault="issued it, and is neither sent along nor a trust anchor"),
        ),
        (
            lambda: _proved_by([issue("gate", "Skerry Root", KEYS["gate"], KEYS["root"], names=[OSTVIK], days=-1)], [ROOT]),
            Code.CERT_NOT_VALID,
            like(auth.CertificateExpired, day="2026-11-22"),
        ),
        (
            lambda: _proved_by([issue("gate", "Skerry Root", KEYS["gate"], KEYS["root"], names=[OSTVIK], start=5)], [ROOT]),
            Code.CERT_NOT_VALID,
            like(auth.CertificateNotYetValid, day="2026-11-28"),
        ),
        (
            lambda: _proved_by([issue("gate", "Skerry Root", KEYS["gate"], KEYS["root"], names=[OSTVIK], days=30)], [ROOT]),
            Code.CERT_EXPIRES,
            like(auth.CertificateRunsOut, day="2026-12-23"),
        ),
        (
            lambda: _proved_by([GATE, ISSUING], [ROOT], "east.skerry.example"),
            Code.CERT_IDENTITY,
            auth.SpeaksForOthers,
        ),
    ],
    ids=["root", "expired", "early", "soon", "identity"],
)
def test_what_is_wrong_with_a_proof(design, code, said):
    """A missing root, a wrong time, an end within the horizon and a foreign identity are named; what can be mended here is."""
    made = design()
    row = _row(made)
    assert row.code == code
    assert is_said(said, row.reason)
    ways = row_remedies(TunnelEnds(made, made.tunnel_by_id[SOUND], TODAY), row)
    for remedy in ways:
        after = apply_operations(made, remedy.operations)
        assert not _row(after).code
    assert bool(ways) == (code in (Code.CERT_ROOT_LACKING, Code.CERT_IDENTITY))


@pytest.mark.parametrize(
    ("identity", "kind"), [("ostvik.skerry.example", "fqdn"), ("CN=gate", "der-asn1-dn"), ("gate-7", "key-id")]
)
def test_whom_a_certificate_speaks_for(identity, kind):
    """An identity stands among the alternative names or is the subject; a key id is bound by nothing in it (RFC 4945)."""
    row = _row(_proved_by([GATE, ISSUING], [ROOT], identity, kind))
    assert row.verdict is Verdict.AGREED
    assert row.reason == auth.ChainHolds("CN=Skerry Root", date(2027, 11, 23))


def test_weak_certificates_are_exposures():
    """A short key and a broken hash are told."""
    short = generate_private_key(65537, 1024)
    weak = issue("old gate", "Skerry Root", short, KEYS["root"], names=[OSTVIK])
    hashed = issue("gate", "RSA Root", KEYS["gate"], generate_private_key(65537, 2048), algorithm=hashes.SHA256())
    found = [finding for finding in analyse(_proved_by([weak], [ROOT]), TODAY).findings if finding.code == Code.CERT_WEAK]
    assert [is_said(tunnels.CertificateKeyWeak(weak.facts.subject, 80, "RSA 1024"), finding.why.reason) for finding in found] == [
        True
    ]
    assert hashed.facts.signature_hash == "sha256"
