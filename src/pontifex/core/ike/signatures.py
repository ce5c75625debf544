"""Signatures in IKE_AUTH: an algorithm identifier before the signature (RFC 7427 section 3)."""

from __future__ import annotations

from typing import Final

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec, ed448, ed25519, padding, rsa
from cryptography.hazmat.primitives.asymmetric.types import PublicKeyTypes

from pontifex.core.certificates import SigningKey
from pontifex.core.ike.payloads import MalformedError

SHA2_256, SHA2_384, SHA2_512, IDENTITY = 2, 3, 4, 5  # IANA "IKEv2 Hash Algorithms"; RFC 8420 for the last
HASHES: Final = (SHA2_256, SHA2_384, SHA2_512, IDENTITY)

_ECDSA: Final = {  # algorithm identifiers in DER, RFC 7427 appendix A
    "sha256": bytes.fromhex("300a06082a8648ce3d040302"),
    "sha384": bytes.fromhex("300a06082a8648ce3d040303"),
    "sha512": bytes.fromhex("300a06082a8648ce3d040304"),
}
_RSA: Final = bytes.fromhex("300d06092a864886f70d01010b0500")  # with SHA2-256
_ED25519: Final = bytes.fromhex("300506032b6570")
_ED448: Final = bytes.fromhex("300506032b6571")
_HASH_OF: Final[dict[str, hashes.HashAlgorithm]] = {
    "sha256": hashes.SHA256(),
    "sha384": hashes.SHA384(),
    "sha512": hashes.SHA512(),
}


def _curve_hash(key_bits: int) -> str:
    """Return the hash that goes with a curve (RFC 4754 section 3)."""
    return "sha256" if key_bits <= 256 else "sha384" if key_bits <= 384 else "sha512"


def signed(key: SigningKey, octets: bytes) -> bytes:
    """Return the authentication data: length of the algorithm identifier, identifier, signature. The same for the same octets."""
    if isinstance(key, rsa.RSAPrivateKey):
        identifier, signature = _RSA, key.sign(octets, padding.PKCS1v15(), hashes.SHA256())
    elif isinstance(key, ec.EllipticCurvePrivateKey):
        name = _curve_hash(key.curve.key_size)
        algorithm = ec.ECDSA(_HASH_OF[name], deterministic_signing=True)
        identifier, signature = _ECDSA[name], key.sign(octets, algorithm)
    else:
        identifier = _ED25519 if isinstance(key, ed25519.Ed25519PrivateKey) else _ED448
        signature = key.sign(octets)
    return bytes((len(identifier),)) + identifier + signature


def is_signed_by(key: PublicKeyTypes, octets: bytes, data: bytes) -> bool:
    """Whether authentication data is a signature of the octets by a public key. Raise MalformedError where it is cut off."""
    if len(data) < 1 + data[0]:
        raise MalformedError("a signature without its algorithm identifier")
    identifier, signature = data[1 : 1 + data[0]], data[1 + data[0] :]
    try:
        if isinstance(key, rsa.RSAPublicKey) and identifier == _RSA:
            key.verify(signature, octets, padding.PKCS1v15(), hashes.SHA256())
        elif isinstance(key, ec.EllipticCurvePublicKey) and identifier in _ECDSA.values():
            name = next(name for name, candidate in _ECDSA.items() if candidate == identifier)
            key.verify(signature, octets, ec.ECDSA(_HASH_OF[name]))
        elif isinstance(key, ed25519.Ed25519PublicKey | ed448.Ed448PublicKey) and identifier in (_ED25519, _ED448):
            key.verify(signature, octets)
        else:
            return False
    except InvalidSignature:
        return False
    return True
