"""The Identification payloads of both ends (RFC 7296 section 3.5)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Self

from pontifex.core.addressing import Address, Family
from pontifex.core.ike.payloads.payload import PayloadType, at_least

_ADDRESSES: Final = {1: Family.V4, 5: Family.V6}  # IANA "IKEv2 Identification Payload ID Types"
_TEXTS: Final = frozenset({2, 3, 11})  # FQDN, RFC822_ADDR and KEY_ID


@dataclass(frozen=True, slots=True)
class Identification:
    """Who an end says it is: the number of a type, and its octets."""

    type: int  # of the initiator or of the responder
    kind: int  # IANA "IKEv2 Identification Payload ID Types"
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
