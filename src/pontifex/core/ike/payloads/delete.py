"""The Delete payload (RFC 7296 section 3.11)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from pontifex.core.ike.payloads.payload import MalformedError, PayloadType, at_least
from pontifex.core.ike.payloads.security_association import PROTOCOL_IKE


@dataclass(frozen=True, slots=True)
class Delete:
    """Which SAs end: the IKE SA that carries it, or Child SAs by the SPIs that the sender receives on."""

    protocol: int = PROTOCOL_IKE
    spis: tuple[bytes, ...] = ()
    type: ClassVar[int] = PayloadType.DELETE

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        octets = len(self.spis[0]) if self.spis else 0
        return bytes((self.protocol, octets)) + len(self.spis).to_bytes(2) + b"".join(self.spis)

    def text(self) -> str:
        """What it says, for a person."""
        return "the IKE SA" if self.protocol == PROTOCOL_IKE else f"SPI {', '.join(spi.hex() for spi in self.spis)}"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where SPIs aren't whole."""
        at_least(body, 4, "a Delete payload")
        octets, count = body[1], int.from_bytes(body[2:4])
        if len(body) != 4 + octets * count or (count and not octets):
            raise MalformedError(f"{len(body) - 4} octets are not {count} SPIs of {octets} octets")
        return cls(body[0], tuple(body[4 + octets * at : 4 + octets * (at + 1)] for at in range(count)))
