"""What goes between two ends: segments, which bring frames in their order, and frames, which say what they are."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Final

from pontifex.core.choice import member_of

_HEAD: Final = struct.Struct(">8sBII")
_RESEND_AFTER_S: Final = 1.0  # and twice as long each time (RFC 6298 section 5.5)
_MOST_TRIES: Final = 6
LARGEST_BODY: Final = 480  # octets of a frame: with all headers it fits into any path that IPv4 allows (RFC 791)


class SegmentKind(IntEnum):
    """What a segment is."""

    FRAME = 1  # to be acknowledged
    ACKNOWLEDGED = 2
    DATA = 3  # a sealed packet of a host; lost is lost
    ALIVE = 4


@dataclass(frozen=True, slots=True)
class Segment:
    """One packet of a connection; `number` and `expected` count frames."""

    connection: bytes
    kind: SegmentKind
    number: int
    expected: int  # the next frame that its sender waits for
    body: bytes = field(default=b"", repr=False)

    def octets(self) -> bytes:
        """Return it as it goes over the wire."""
        return _HEAD.pack(self.connection, self.kind, self.number, self.expected) + self.body

    @classmethod
    def read(cls, octets: bytes) -> Segment | None:
        """Read a segment; None for what is none."""
        if len(octets) < _HEAD.size:
            return None
        connection, written, number, expected = _HEAD.unpack_from(octets)
        kind = member_of(SegmentKind, written)
        if kind is None:
            return None
        return cls(connection, kind, number, expected, octets[_HEAD.size :])


SEGMENT_HEAD: Final = _HEAD.size


class FrameKind(IntEnum):
    """What a frame holds."""

    HELLO = 1  # the ciphers that the caller has, and its digest
    TAKEN = 2  # the cipher that the waiting end takes
    REFUSED = 3  # why it goes no further
    RECORDS = 4  # of TLS
    RENEW = 5  # the waiting end asks the caller to call anew


@dataclass(frozen=True, slots=True)
class Frame:
    """Something that one end tells the other."""

    kind: FrameKind
    body: bytes = field(default=b"", repr=False)

    def octets(self) -> bytes:
        """Return it as a segment carries it."""
        return bytes((self.kind,)) + self.body

    @classmethod
    def read(cls, octets: bytes) -> Frame | None:
        """Read a frame; None for what is none."""
        kind = member_of(FrameKind, octets[0]) if octets else None
        return None if kind is None else cls(kind, octets[1:])


@dataclass(slots=True)
class _Unheard:
    octets: bytes
    tries: int
    due: float


@dataclass(slots=True)
class InOrder:
    """Frames out and in, in their order: what isn't acknowledged is sent again."""

    sent: int = 0
    expected: int = 0
    _unheard: dict[int, _Unheard] = field(default_factory=dict)
    _early: dict[int, bytes] = field(default_factory=dict)

    @property
    def due(self) -> float:
        """When something is to be sent again."""
        return min((unheard.due for unheard in self._unheard.values()), default=float("inf"))

    def send(self, now: float, octets: bytes) -> int:
        """Take a frame to be sent; return its number."""
        number = self.sent
        self._unheard[number] = _Unheard(octets, 1, now + _RESEND_AFTER_S)
        self.sent += 1
        return number

    def again(self, now: float) -> Iterator[tuple[int, bytes]]:
        """Yield what is to be sent again now. Raise TimeoutError where the other end is silent for too long."""
        for number, unheard in self._unheard.items():
            if unheard.due <= now:
                if unheard.tries >= _MOST_TRIES:
                    raise TimeoutError
                unheard.due = now + _RESEND_AFTER_S * 2**unheard.tries
                unheard.tries += 1
                yield number, unheard.octets

    def heard(self, expected: int) -> None:
        """Note which frame the other end waits for."""
        self._unheard = {number: unheard for number, unheard in self._unheard.items() if number >= expected}

    def receive(self, number: int, octets: bytes) -> Iterator[bytes]:
        """Take a frame, and yield those that have come in their order by now."""
        if number >= self.expected:
            self._early[number] = octets
        while self.expected in self._early:
            taken = self._early.pop(self.expected)
            self.expected += 1
            yield taken
