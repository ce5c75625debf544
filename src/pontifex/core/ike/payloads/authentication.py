"""The Authentication payload (RFC 7296 section 3.8, RFC 7427)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final, Self

from pontifex.core.ike.payloads.payload import PayloadType, at_least

RSA_SIGNATURE: Final = 1  # IANA "IKEv2 Authentication Method"
SHARED_KEY: Final = 2
DIGITAL_SIGNATURE: Final = 14
_NAMES: Final = {RSA_SIGNATURE: "RSA signature", SHARED_KEY: "shared key", DIGITAL_SIGNATURE: "digital signature"}


@dataclass(frozen=True, slots=True)
class Authentication:
    """How an end proves itself, and the proof."""

    method: int
    octets: bytes
    type: ClassVar[int] = PayloadType.AUTH

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return bytes((self.method, 0, 0, 0)) + self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"{_NAMES.get(self.method, f'method {self.method}')}, {len(self.octets)} octets"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 5, "an Authentication payload")
        return cls(body[0], body[4:])
