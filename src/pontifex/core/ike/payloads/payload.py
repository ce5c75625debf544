"""What all payloads have: a type, a body, and a way to be read from octets (RFC 7296 section 3.2)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import Protocol


class MalformedError(ValueError):
    """Octets that are no payload or message of IKEv2; the text says what is wrong (RFC 7296 section 2.21)."""


class PayloadType(IntEnum):
    """Payload types by their numbers in IANA's registry "IKEv2 Payload Types"."""

    SA = 33
    KE = 34
    IDI = 35
    IDR = 36
    CERT = 37
    CERTREQ = 38
    AUTH = 39
    NONCE = 40
    NOTIFY = 41
    DELETE = 42
    VENDOR_ID = 43
    TSI = 44
    TSR = 45
    SK = 46
    CP = 47
    EAP = 48
    SKF = 53


class Payload(Protocol):
    """A payload: frozen, and written as it was read."""

    @property
    def type(self) -> int:
        """Its number."""

    def body(self) -> bytes:
        """Its octets behind the generic header."""

    def text(self) -> str:
        """What it says, for a person; never a key."""


@dataclass(frozen=True, slots=True)
class Unknown:
    """A payload that is kept as it came."""

    type: int
    octets: bytes
    critical: bool = False

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return self.octets

    def text(self) -> str:
        """What it says, for a person."""
        return f"payload {self.type}, {len(self.octets)} octets, not known here"


def at_least(octets: bytes, wanted: int, what: str) -> None:
    """Raise MalformedError unless there are that many octets."""
    if len(octets) < wanted:
        raise MalformedError(f"{what} of {len(octets)} octets, where {wanted} are the least")
