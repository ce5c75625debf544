"""EAP packets as octets (RFC 3748 section 4)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Final, Self

_HEADER_OCTETS: Final = 4


class EapError(ValueError):
    """Octets that are no EAP packet, or none that its method can read; the text says what is wrong."""


class EapCode(IntEnum):
    """What a packet is (RFC 3748 section 4)."""

    REQUEST = 1
    RESPONSE = 2
    SUCCESS = 3
    FAILURE = 4


class EapType(IntEnum):
    """Types by their numbers in IANA's registry "EAP Method Types"."""

    IDENTITY = 1
    NOTIFICATION = 2
    NAK = 3
    MD5_CHALLENGE = 4
    TLS = 13
    MSCHAP_V2 = 26


_WITH_TYPE: Final = (EapCode.REQUEST, EapCode.RESPONSE)
_NAMES: Final[dict[int, str]] = {
    EapType.IDENTITY: "identity",
    EapType.NOTIFICATION: "notification",
    EapType.NAK: "not this method",
    EapType.MD5_CHALLENGE: "MD5-Challenge",
    EapType.TLS: "EAP-TLS",
    EapType.MSCHAP_V2: "EAP-MSCHAP-V2",
}


@dataclass(frozen=True, slots=True)
class EapPacket:
    """One packet. Success and failure have no type."""

    code: EapCode
    identifier: int
    type: int = 0
    data: bytes = b""

    def written(self) -> bytes:
        """Return its octets."""
        inside = bytes((self.type,)) + self.data if self.code in _WITH_TYPE else b""
        return bytes((self.code, self.identifier)) + (_HEADER_OCTETS + len(inside)).to_bytes(2) + inside

    def text(self) -> str:
        """What it says, for a person; never a secret."""
        name = f", {_NAMES.get(self.type, f'method {self.type}')}, {len(self.data)} octets" if self.code in _WITH_TYPE else ""
        return f"{self.code.name.lower()} {self.identifier}{name}"

    @classmethod
    def read(cls, octets: bytes) -> Self:
        """Read a packet. Raise EapError where the octets are none."""
        if len(octets) < _HEADER_OCTETS:
            raise EapError(f"an EAP packet of {len(octets)} octets, where {_HEADER_OCTETS} are the least")
        if int.from_bytes(octets[2:4]) != len(octets):
            raise EapError(f"an EAP packet that says {int.from_bytes(octets[2:4])} octets, and has {len(octets)}")
        try:
            code = EapCode(octets[0])
        except ValueError:
            raise EapError(f"an EAP packet of code {octets[0]}") from None
        if code not in _WITH_TYPE:
            return cls(code, octets[1])
        if len(octets) == _HEADER_OCTETS:
            raise EapError("an EAP packet without a type")
        return cls(code, octets[1], octets[4], octets[5:])
