"""Certificates made for tests, with keys that are always the same."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from cryptography import x509
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.hazmat.primitives.serialization import Encoding
from cryptography.x509.oid import NameOID

from pontifex.core.certificates import Certificate
from tests.support.designs import TODAY

KEYS = {
    name: Ed25519PrivateKey.from_private_bytes(name.ljust(32).encode()) for name in ("root", "issuing", "gate", "other", "fake")
}
OSTVIK = x509.DNSName("ostvik.skerry.example")


def _name(text):
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text)])


def issue(subject, issuer, key, signer, *, authority=False, names=(), days=365, start=-30, algorithm=None):
    """A certificate for `subject`, signed by `signer`; days count from the day of the tests."""
    noon = datetime(TODAY.year, TODAY.month, TODAY.day, 12, tzinfo=UTC)
    builder = (
        x509.CertificateBuilder()
        .subject_name(_name(subject))
        .issuer_name(_name(issuer))
        .public_key(key.public_key())
        .serial_number(1000 + len(subject))
        .not_valid_before(noon + timedelta(days=start))
        .not_valid_after(noon + timedelta(days=days))
        .add_extension(x509.BasicConstraints(ca=authority, path_length=None), critical=True)
    )
    if names:
        builder = builder.add_extension(x509.SubjectAlternativeName(names), critical=False)
    pem = builder.sign(signer, algorithm).public_bytes(Encoding.PEM)
    return Certificate(pem=pem.decode())


ROOT = issue("Skerry Root", "Skerry Root", KEYS["root"], KEYS["root"], authority=True, days=3650)
ISSUING = issue("Skerry Issuing", "Skerry Root", KEYS["issuing"], KEYS["root"], authority=True, days=1000)
GATE = issue("gate", "Skerry Issuing", KEYS["gate"], KEYS["issuing"], names=[OSTVIK])
OTHER_ROOT = issue("Tarn Root", "Tarn Root", KEYS["other"], KEYS["other"], authority=True)
