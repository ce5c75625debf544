"""One certificate, kept as PEM, and what it says (RFC 5280)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import Enum
from functools import cached_property, lru_cache
from typing import Annotated, Any, Final

from cryptography import x509
from cryptography.exceptions import UnsupportedAlgorithm
from cryptography.hazmat.primitives.asymmetric import ec, ed448, ed25519, rsa
from cryptography.hazmat.primitives.serialization import Encoding
from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from pontifex.core.frozen_model import FrozenModel

SigningKey = rsa.RSAPrivateKey | ec.EllipticCurvePrivateKey | ed25519.Ed25519PrivateKey | ed448.Ed448PrivateKey
_MOST_CHARACTERS: Final = 20_000


class NameKind(Enum):
    """Kinds of alternative names that identify an end (RFC 4945 section 5.1.3.6)."""

    DNS = "dNSName"
    EMAIL = "rfc822Name"
    IP = "iPAddress"


@dataclass(frozen=True, slots=True)
class AlternativeName:
    """One alternative name."""

    kind: NameKind
    value: str

    def __str__(self) -> str:
        return f"{self.kind.value} {self.value}"


@dataclass(frozen=True)
class CertificateFacts:
    """What a certificate says."""

    subject: str  # RFC 4514
    issuer: str
    names: tuple[AlternativeName, ...]
    key: str  # such as "RSA 2048" or "ECDSA secp256r1"
    strength_bits: int  # NIST SP 800-57 part 1, table 2; 0 where the kind of key is not known
    signature_hash: str  # empty where the signature has none of its own
    not_before: date
    not_after: date
    is_authority: bool
    parsed: x509.Certificate


def _checked(text: str) -> str:
    """Return the canonical PEM text of exactly one certificate. A private key is refused, and never repeated."""
    if "PRIVATE KEY" in text:
        raise PydanticCustomError("certificate", "this holds a private key, which stays on its device; paste the certificate")
    try:
        found = x509.load_pem_x509_certificates(text.encode())
    except ValueError:
        raise PydanticCustomError("certificate", "this is no certificate in PEM (-----BEGIN CERTIFICATE-----)") from None
    if len(found) != 1:
        raise PydanticCustomError("certificate", "these are {count} certificates; give each its own entry", {"count": len(found)})
    try:
        _facts(found[0])
    except (ValueError, UnsupportedAlgorithm):
        raise PydanticCustomError("certificate", "this certificate breaks the rules of RFC 5280") from None
    return found[0].public_bytes(Encoding.PEM).decode()


class Certificate(FrozenModel):
    """A certificate. It is public: it may stand in the design."""

    pem: Annotated[str, Field(max_length=_MOST_CHARACTERS), AfterValidator(_checked)] = Field(title="PEM")

    @cached_property
    def facts(self) -> CertificateFacts:
        """What it says."""
        return _read(self.pem)

    def __str__(self) -> str:
        facts = self.facts
        names = ", ".join(map(str, facts.names))
        return " · ".join(filter(None, (facts.subject or "no subject", names, facts.key, f"until {facts.not_after}")))


@lru_cache(maxsize=1024)
def _read(pem: str) -> CertificateFacts:
    return _facts(x509.load_pem_x509_certificate(pem.encode()))


def _facts(parsed: x509.Certificate) -> CertificateFacts:
    key, strength = _key(parsed.public_key())
    hash_ = parsed.signature_hash_algorithm
    return CertificateFacts(
        subject=parsed.subject.rfc4514_string(),
        issuer=parsed.issuer.rfc4514_string(),
        names=_names(parsed),
        key=key,
        strength_bits=strength,
        signature_hash=hash_.name if hash_ else "",
        not_before=parsed.not_valid_before_utc.date(),
        not_after=parsed.not_valid_after_utc.date(),
        is_authority=_is_authority(parsed),
        parsed=parsed,
    )


_RSA_STRENGTH: Final = ((15360, 256), (7680, 192), (3072, 128), (2048, 112), (1024, 80))  # SP 800-57 part 1, table 2


def _key(key: Any) -> tuple[str, int]:
    """Return name and strength of a public key."""
    if isinstance(key, rsa.RSAPublicKey):
        return f"RSA {key.key_size}", next((bits for size, bits in _RSA_STRENGTH if key.key_size >= size), 0)
    if isinstance(key, ec.EllipticCurvePublicKey):
        return f"ECDSA {key.curve.name}", key.key_size // 2
    if isinstance(key, ed25519.Ed25519PublicKey):
        return "Ed25519", 128
    if isinstance(key, ed448.Ed448PublicKey):
        return "Ed448", 224
    return type(key).__name__, 0


def _names(parsed: x509.Certificate) -> tuple[AlternativeName, ...]:
    try:
        extension = parsed.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except x509.ExtensionNotFound:
        return ()
    found = [AlternativeName(NameKind.DNS, name) for name in extension.get_values_for_type(x509.DNSName)]
    found += [AlternativeName(NameKind.EMAIL, name) for name in extension.get_values_for_type(x509.RFC822Name)]
    found += [AlternativeName(NameKind.IP, str(address)) for address in extension.get_values_for_type(x509.IPAddress)]
    return tuple(found)


def _is_authority(parsed: x509.Certificate) -> bool:
    try:
        return parsed.extensions.get_extension_for_class(x509.BasicConstraints).value.ca
    except x509.ExtensionNotFound:
        return False
