"""Certificates that the product makes for itself, to serve TLS on loopback: whoever connects compares the fingerprint."""

from __future__ import annotations

import ssl
import tempfile
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from ipaddress import IPv4Address
from pathlib import Path
from typing import Final

from cryptography import x509
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
from cryptography.x509.oid import NameOID

LOOPBACK: Final = "127.0.0.1"
_DAYS: Final = 365


@dataclass(frozen=True, slots=True)
class OwnCertificate:
    """A certificate with a TLS context that proves it, and its SHA-256 as it is read aloud."""

    context: ssl.SSLContext
    pem: str
    fingerprint: str


def own_certificate(name: str) -> OwnCertificate:
    """Return a new self-signed certificate for loopback."""
    with tempfile.TemporaryDirectory() as folder:  # TLS contexts read their keys from files alone
        return kept_certificate(name, Path(folder) / "certificate.pem")


def kept_certificate(name: str, file: Path) -> OwnCertificate:
    """Return the certificate of a file, or a new one that is kept there with its key, for its owner's eyes alone."""
    if not _holds(file):
        file.touch(mode=0o600)
        file.write_text(_made(name))
    text = file.read_text()
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(file)
    certificate = x509.load_pem_x509_certificate(text.encode())
    digest = sha256(certificate.public_bytes(Encoding.DER)).hexdigest().upper()
    fingerprint = ":".join(digest[at : at + 2] for at in range(0, len(digest), 2))
    return OwnCertificate(context, certificate.public_bytes(Encoding.PEM).decode(), fingerprint)


def _holds(file: Path) -> bool:
    """Whether a file has a certificate that is still valid tomorrow."""
    try:
        certificate = x509.load_pem_x509_certificate(file.read_bytes())
    except (FileNotFoundError, ValueError):
        return False
    return certificate.not_valid_after_utc > datetime.now(UTC) + timedelta(days=1)


def _made(name: str) -> str:
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)])
    now = datetime.now(UTC)
    builder = x509.CertificateBuilder(subject, subject, key.public_key(), x509.random_serial_number())
    builder = builder.not_valid_before(now - timedelta(hours=1)).not_valid_after(now + timedelta(days=_DAYS))
    alternative = x509.SubjectAlternativeName([x509.IPAddress(IPv4Address(LOOPBACK))])
    certificate = builder.add_extension(alternative, critical=False).sign(key, SHA256())
    secret = key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    return certificate.public_bytes(Encoding.PEM).decode() + secret.decode()
