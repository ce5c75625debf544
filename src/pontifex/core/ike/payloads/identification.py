"""The Identification payloads of both ends (RFC 7296 section 3.5)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

from pontifex.core.ike.payloads.payload import PayloadType, at_least


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
        return f"type {self.kind}, {len(self.octets)} octets"

    @classmethod
    def read(cls, type_: PayloadType, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 4, "an Identification payload")
        return cls(type_, body[0], body[4:])
