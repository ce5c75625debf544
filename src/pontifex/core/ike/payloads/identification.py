"""The Identification payloads of both ends (RFC 7296 section 3.5)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Final, Self

from pontifex.core.addressing import Address, Family
from pontifex.core.ike.payloads.payload import PayloadType, at_least


class IdentificationType(IntEnum):
    """Types of identification by their numbers in IANA's registry "IKEv2 Identification Payload ID Types"."""

    IPV4_ADDR = 1
    FQDN = 2
    RFC822_ADDR = 3
    IPV6_ADDR = 5
    DER_ASN1_DN = 9
    DER_ASN1_GN = 10
    KEY_ID = 11


_ADDRESSES: Final[dict[int, Family]] = {
    IdentificationType.IPV4_ADDR: Family.V4,
    IdentificationType.IPV6_ADDR: Family.V6,
}
_TEXTS: Final = frozenset({IdentificationType.FQDN, IdentificationType.RFC822_ADDR, IdentificationType.KEY_ID})


@dataclass(frozen=True, slots=True)
class Identification:
    """Who an end says it is: the number of a type, and its octets."""

    type: int  # of the initiator or of the responder
    kind: int  # an `IdentificationType`, or one that isn't known here
    octets: bytes

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return bytes((self.kind, 0, 0, 0)) + self.octets

    def text(self) -> str:
        """What it says, for a person."""
        if self.kind in _ADDRESSES and len(self.octets) == _ADDRESSES[self.kind].bits // 8:
            return str(Address(_ADDRESSES[self.kind], int.from_bytes(self.octets)))
        if self.kind in _TEXTS:
            return f"'{self.octets.decode(errors='replace')}'"
        return f"type {self.kind}, {len(self.octets)} octets"

    @classmethod
    def read(cls, type_: PayloadType, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 4, "an Identification payload")
        return cls(type_, body[0], body[4:])
