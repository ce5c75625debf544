"""The Encrypted payload and its fragments (RFC 7296 section 3.14, RFC 7383 section 2.5)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from pontifex.core.ike.payloads.payload import MalformedError, PayloadType, at_least


@dataclass(frozen=True, slots=True)
class Encrypted:
    """Payloads that are sealed: the type of the first of them, and IV, sealed octets and integrity value."""

    first: int
    octets: bytes
    type: ClassVar[int] = PayloadType.SK

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"{len(self.octets)} octets, sealed"

    @classmethod
    def read(cls, first: int, body: bytes) -> Self:
        """Read the body; whether it is whole shows when it is opened."""
        return cls(first, body)


@dataclass(frozen=True, slots=True)
class EncryptedFragment:
    """One fragment of what would be an Encrypted payload; numbers count from 1."""

    first: int  # of the first fragment; 0 in the others
    number: int
    total: int
    octets: bytes
    type: ClassVar[int] = PayloadType.SKF

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.number.to_bytes(2) + self.total.to_bytes(2) + self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"fragment {self.number} of {self.total}, {len(self.octets)} octets, sealed"

    @classmethod
    def read(cls, first: int, body: bytes) -> Self:
        """Read the body. Raise MalformedError where the numbers can't be."""
        at_least(body, 4, "a fragment")
        number, total = int.from_bytes(body[:2]), int.from_bytes(body[2:4])
        if not 1 <= number <= total:
            raise MalformedError(f"fragment {number} of {total}")
        return cls(first, number, total, body[4:])
