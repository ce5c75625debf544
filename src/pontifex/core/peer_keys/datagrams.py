"""What goes between two ends: a call, its answer, and sealed packets of hosts, in a framing of our own."""

from __future__ import annotations

import struct
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Final

from pontifex.core.choice import member_of

_HEAD: Final = struct.Struct(">BIIQ")
DATAGRAM_HEAD: Final = _HEAD.size


class DatagramKind(IntEnum):
    """What a datagram is."""

    CALL = 1
    ANSWER = 2
    PACKET = 3


@dataclass(frozen=True, slots=True)
class Datagram:
    """One datagram. Each end numbers its sessions; a call has no number of the other end's yet, and says 0."""

    kind: DatagramKind
    to_session: int
    from_session: int
    counter: int  # of packets
    body: bytes = field(repr=False)

    def octets(self) -> bytes:
        """Return it as it goes over the wire."""
        return _HEAD.pack(self.kind, self.to_session, self.from_session, self.counter) + self.body

    @classmethod
    def read(cls, octets: bytes) -> Datagram | None:
        """Read a datagram; None for what is none."""
        if len(octets) < _HEAD.size:
            return None
        number, to_session, from_session, counter = _HEAD.unpack_from(octets)
        kind = member_of(DatagramKind, number)
        if kind is None:
            return None
        return cls(kind, to_session, from_session, counter, octets[_HEAD.size :])
