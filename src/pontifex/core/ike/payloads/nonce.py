"""The Nonce payload (RFC 7296 section 3.9)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from pontifex.core.ike.payloads.payload import MalformedError, PayloadType


@dataclass(frozen=True, slots=True)
class Nonce:
    """Random octets, 16 to 256."""

    octets: bytes
    type: ClassVar[int] = PayloadType.NONCE

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"{len(self.octets)} octets"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where its length isn't allowed."""
        if not 16 <= len(body) <= 256:
            raise MalformedError(f"a nonce of {len(body)} octets, where 16 to 256 are allowed")
        return cls(body)
