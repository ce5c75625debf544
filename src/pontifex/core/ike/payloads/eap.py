"""The Extensible Authentication payload (RFC 7296 section 3.16)."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar, Self

from pontifex.core.eap.packet import EapError, EapPacket
from pontifex.core.ike.payloads.payload import PayloadType, at_least


@dataclass(frozen=True, slots=True)
class EapPayload:
    """An EAP packet, as it came."""

    octets: bytes = field(repr=False)
    type: ClassVar[int] = PayloadType.EAP

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.octets

    def text(self) -> str:
        """What it says, for a person."""
        try:
            return EapPacket.read(self.octets).text()
        except EapError as error:
            return str(error)

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 4, "an EAP payload")
        return cls(body)
