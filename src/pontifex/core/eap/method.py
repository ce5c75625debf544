"""What a method of EAP does at either end, whatever it is (RFC 3748 sections 2 and 7.10)."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Protocol


@dataclass(frozen=True, slots=True)
class PeerProved:
    """The other end has proved itself. The key ties the proof to what it was given in; empty where the method makes none."""

    key: bytes = field(default=b"", repr=False)


@dataclass(frozen=True, slots=True)
class Refused:
    """The other end hasn't; the reason is for the log of the end that refuses."""

    reason: str


Judged = PeerProved | Refused


class PeerMethod(Protocol):
    """A method at the end that proves itself by it."""

    def answer(self, identifier: int, data: bytes) -> bytes:
        """Return the data of the response to a request. Raise EapError where the request can't be read."""

    def ended(self) -> Judged:
        """Return what holds once the server says that it accepts: the key, or why that is too early."""


class ServerMethod(Protocol):
    """A method at the end that asks for the proof."""

    def begin(self, identifier: int) -> bytes:
        """Return the data of the first request."""

    def take(self, identifier: int, data: bytes) -> bytes | Judged:
        """Take a response; return the data of the next request, or the end. Raise EapError where it can't be read."""
