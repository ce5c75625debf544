"""Secrets for a rehearsal: made up, and different where the real ones differ (equal fingerprints give equal secrets)."""

from __future__ import annotations

import hashlib
import hmac
from collections.abc import Iterable
from functools import lru_cache
from typing import Final

from cryptography import x509
from cryptography.exceptions import InvalidSignature, UnsupportedAlgorithm
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec, ed448, ed25519, rsa, x25519
from cryptography.hazmat.primitives.asymmetric.types import CertificatePublicKeyTypes
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat

from pontifex.core.certificates import Certificate, SigningKey
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.login import Login

_LEAST_RSA_BITS: Final = 1024  # smaller ones are refused by the library; what is small is a finding of its own
_TIED_TO_KEYS: Final = (x509.AuthorityKeyIdentifier, x509.SubjectKeyIdentifier)


def substitute_secret(key: KeyFacts, seed: bytes) -> bytes:
    """Return a secret in place of a pre-shared key."""
    return hmac.digest(seed, key.fingerprint.encode(), "sha256")


def somebody(seed: bytes) -> Login:
    """Return an account in place of those that people have of their own."""
    return Login("somebody", hmac.digest(seed, b"somebody", "sha256"))


def substitute_private_key(public: str, seed: bytes) -> bytes:
    """Return a private key of X25519 in place of the one whose public half is given."""
    return hmac.digest(seed, public.encode(), "sha256")


def substitute_public_key(public: str, seed: bytes) -> bytes:
    """Return the public half of the key that stands in place of another one."""
    private = x25519.X25519PrivateKey.from_private_bytes(substitute_private_key(public, seed))
    return private.public_key().public_bytes_raw()


@lru_cache(maxsize=256)
def _rsa_key(bits: int, label: bytes) -> rsa.RSAPrivateKey:  # noqa: ARG001 -- one key for each label
    """RSA keys can't be made from a seed: one is made for each label, and kept."""
    return rsa.generate_private_key(65_537, max(bits, _LEAST_RSA_BITS))


def _substitute_key(real: CertificatePublicKeyTypes) -> SigningKey:
    """Return a key of the same kind as a real one, the same for the same one."""
    octets = real.public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo)
    label = hashlib.sha256(octets).digest()
    if isinstance(real, rsa.RSAPublicKey):
        return _rsa_key(real.key_size, label)
    if isinstance(real, ed25519.Ed25519PublicKey):
        return ed25519.Ed25519PrivateKey.from_private_bytes(label)
    if isinstance(real, ed448.Ed448PublicKey):
        return ed448.Ed448PrivateKey.from_private_bytes(hashlib.shake_256(label).digest(57))
    curve = real.curve if isinstance(real, ec.EllipticCurvePublicKey) else ec.SECP256R1()
    return ec.derive_private_key(int.from_bytes(label) % 2 ** (curve.key_size - 1) + 1, curve)


def signing_key(certificate: Certificate) -> SigningKey:
    """Return the private key that goes with a mirrored certificate."""
    return _substitute_key(certificate.facts.parsed.public_key())


def mirrored(certificate: Certificate, known: Iterable[Certificate]) -> Certificate:
    """Return a certificate that says the same, with a key of ours, signed by the mirrored issuer where that is among `known`.

    Where the issuer isn't known, the signature is by a key that nobody trusts.
    """
    return _mirrored(certificate.pem, tuple(sorted({issuer.pem for issuer in known})))


@lru_cache(maxsize=512)
def _mirrored(pem: str, known: tuple[str, ...]) -> Certificate:
    real = x509.load_pem_x509_certificate(pem.encode())
    issuer = next((certificate for certificate in map(_read, known) if _has_signed(certificate, real)), None)
    signer = _substitute_key(issuer.public_key()) if issuer else _unknown_issuer(real.issuer)
    builder = x509.CertificateBuilder(real.issuer, real.subject, _substitute_key(real.public_key()).public_key())
    builder = builder.serial_number(real.serial_number or 1)
    builder = builder.not_valid_before(real.not_valid_before_utc).not_valid_after(real.not_valid_after_utc)
    for extension in real.extensions:
        if not isinstance(extension.value, (*_TIED_TO_KEYS, x509.UnrecognizedExtension)):
            builder = builder.add_extension(extension.value, extension.critical)
    plain = isinstance(signer, ed25519.Ed25519PrivateKey | ed448.Ed448PrivateKey)
    made = builder.sign(signer, None if plain else hashes.SHA256())
    return Certificate(pem=made.public_bytes(Encoding.PEM).decode())


@lru_cache(maxsize=512)
def _read(pem: str) -> x509.Certificate:
    return x509.load_pem_x509_certificate(pem.encode())


def _has_signed(issuer: x509.Certificate, real: x509.Certificate) -> bool:
    try:
        real.verify_directly_issued_by(issuer)
    except (InvalidSignature, ValueError, TypeError, UnsupportedAlgorithm):
        return False
    return True


def _unknown_issuer(name: x509.Name) -> SigningKey:
    label = int.from_bytes(hashlib.sha256(name.public_bytes()).digest())
    return ec.derive_private_key(label % 2**255 + 1, ec.SECP256R1())
