"""The Key Exchange payload (RFC 7296 section 3.4)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from pontifex.core.ike.payloads.payload import PayloadType, at_least


@dataclass(frozen=True, slots=True)
class KeyExchangePayload:
    """The number of a key exchange method and the public value."""

    method: int
    public: bytes
    type: ClassVar[int] = PayloadType.KE

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.method.to_bytes(2) + b"\0\0" + self.public

    def text(self) -> str:
        """What it says, for a person."""
        return f"method {self.method}, {len(self.public)} octets"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 5, "a Key Exchange payload")
        return cls(int.from_bytes(body[:2]), body[4:])
