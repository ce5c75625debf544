"""The Certificate and the Certificate Request payload (RFC 7296 sections 3.6 and 3.7)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final, Self

from pontifex.core.ike.payloads.payload import MalformedError, PayloadType, at_least

X509_SIGNATURE: Final = 4  # IANA "IKEv2 Certificate Encodings"
_HASH_OCTETS: Final = 20  # SHA-1 of an authority's public key info


@dataclass(frozen=True, slots=True)
class CertificatePayload:
    """One certificate, in DER for the encoding of X.509."""

    octets: bytes
    encoding: int = X509_SIGNATURE
    type: ClassVar[int] = PayloadType.CERT

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return bytes((self.encoding,)) + self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"encoding {self.encoding}, {len(self.octets)} octets"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 2, "a Certificate payload")
        return cls(body[1:], body[0])


@dataclass(frozen=True, slots=True)
class CertificateRequest:
    """Which authorities an end trusts, by the hashes of their public keys."""

    authorities: tuple[bytes, ...]
    encoding: int = X509_SIGNATURE
    type: ClassVar[int] = PayloadType.CERTREQ

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return bytes((self.encoding,)) + b"".join(self.authorities)

    def text(self) -> str:
        """What it says, for a person."""
        count = len(self.authorities)
        return f"{count} {'authority' if count == 1 else 'authorities'}"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where hashes aren't whole."""
        at_least(body, 1, "a Certificate Request payload")
        hashes = body[1:]
        if body[0] == X509_SIGNATURE and len(hashes) % _HASH_OCTETS:
            raise MalformedError(f"{len(hashes)} octets are no whole number of hashes")
        return cls(tuple(hashes[at : at + _HASH_OCTETS] for at in range(0, len(hashes), _HASH_OCTETS)), body[0])
