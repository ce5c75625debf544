"""What an end of a tunnel without IKE gives back: what is to be sent, how far a call has come, and lines of its log."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Enum

from pontifex.core.ike.effects import Logged, Redial, Socket
from pontifex.core.kinds import Technology


@dataclass(frozen=True, slots=True)
class Told:
    """What a segment says, in words."""

    name: str
    lines: tuple[str, ...] = ()
    refuses: bool = False
    is_routine: bool = False  # an acknowledgement, a keep-alive: counted rather than shown
    technology: Technology = Technology.TLS


@dataclass(frozen=True, slots=True)
class SendSegment:
    """A segment to be sent, and what it says."""

    source: Socket
    destination: Socket
    octets: bytes = field(repr=False)
    told: Told | None  # nothing for a packet of a host


class CallStep(Enum):
    """How far a call has come."""

    ANSWERED = "answered"
    CIPHER_TAKEN = "cipher taken"
    PROVED = "proved"


@dataclass(frozen=True, slots=True)
class CallReached:
    """A call has come so far at this end."""

    step: CallStep


@dataclass(frozen=True, slots=True)
class CallUp:
    """A connection carries packets from now on."""

    connection: bytes
    renewed: bool


@dataclass(frozen=True, slots=True)
class CallDown:
    """A connection that carried packets is gone."""

    connection: bytes


@dataclass(frozen=True, slots=True)
class CallEnded:
    """A call came to nothing, or a connection was lost."""

    reason: str


CallEffect = SendSegment | CallReached | CallUp | CallDown | CallEnded | Logged | Redial
