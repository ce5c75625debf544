"""The Vendor ID payload (RFC 7296 section 3.12). This product sends none."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from pontifex.core.ike.payloads.payload import PayloadType


@dataclass(frozen=True, slots=True)
class VendorId:
    """Octets by which an implementation knows its like."""

    octets: bytes
    type: ClassVar[int] = PayloadType.VENDOR_ID

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"{len(self.octets)} octets"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body."""
        return cls(body)
