"""What happened in a rehearsal: the list that screen, JSON, capture and tests read."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.call_effects import Told
from pontifex.core.choice import member_of
from pontifex.core.ike.effects import LogLevel
from pontifex.core.ike.message import Message
from pontifex.core.ike.payloads import Payload, PayloadType
from pontifex.core.kinds import Side, Technology
from pontifex.core.rehearsal.packets import KEEPALIVE, Packet


class Carried(Enum):
    """What a packet between the gateways carries."""

    IKE = "ike"
    ESP = "esp"
    KEEPALIVE = "keepalive"
    TLS = "tls"
    PEER_KEYS = "peer-keys"


_TOLD_BY: Final = {Technology.TLS: Carried.TLS, Technology.PEER_KEY: Carried.PEER_KEYS}


@dataclass(frozen=True, slots=True, kw_only=True)
class PayloadLine:
    """One payload of a message, in words."""

    name: str
    text: str


@dataclass(slots=True)
class Sent:
    """A packet that a gateway has sent: what became of it is noted when that is known."""

    at_s: float
    sender: Side
    packet: Packet
    outside: Packet  # as the outside sees it, behind a NAT
    message: Message | Told | None  # of IKE, opened, or what a segment of TLS tells; None for what is routine
    dropped: str = ""

    @property
    def carries(self) -> Carried:
        """What it carries."""
        if self.message:
            return _TOLD_BY[self.message.technology] if isinstance(self.message, Told) else Carried.IKE
        return Carried.KEEPALIVE if self.packet.payload == KEEPALIVE else Carried.ESP

    @property
    def arrived(self) -> bool:
        """Whether nothing has dropped it so far."""
        return not self.dropped


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageEvent:
    """A packet from one gateway towards the other, as it is shown."""

    at_s: Annotated[float, Field(title="At, s", description="From the beginning of the rehearsal.")]
    sender: Annotated[Side, Field(title="Sent by")]
    carries: Annotated[Carried, Field(title="Carries")]
    exchange: Annotated[str, Field(title="Exchange", examples=["IKE_SA_INIT"])]
    is_response: Annotated[bool, Field(title="Answer")]
    message_id: Annotated[int, Field(title="Message id")]
    octets: Annotated[int, Field(title="Octets", description="Of the whole IP packet.")]
    notify: Annotated[str, Field(title="Error", description="The first error that it tells; empty where it tells none.")]
    source: Annotated[str, Field(title="From", description="As the outside sees it.")]
    destination: Annotated[str, Field(title="To")]
    translated: Annotated[bool, Field(title="Translated", description="A NAT has changed the source on the way.")]
    dropped: Annotated[str, Field(title="Why it didn't arrive", description="Empty where it arrived.")]
    payloads: Annotated[tuple[PayloadLine, ...], Field(title="Payloads")]


def shown(sent: Sent) -> MessageEvent:
    """Return a packet as it is shown."""
    packet = sent.packet
    told = sent.message if isinstance(sent.message, Told) else None
    message = sent.message if isinstance(sent.message, Message) else None
    header = message.header if message else None
    error = message.error if message else None
    lines = tuple(PayloadLine(name=told.name, text=line) for line in told.lines) if told else ()
    return MessageEvent(
        at_s=round(sent.at_s, 6),
        sender=sent.sender,
        carries=sent.carries,
        exchange=header.name if header else told.name if told else "",
        is_response=bool(header and header.is_response),
        message_id=header.message_id if header else 0,
        octets=packet.size,
        notify=error.name if error else ", ".join(told.lines) if told and told.refuses else "",
        source=str(sent.outside.source),
        destination=str(sent.outside.destination),
        translated=sent.outside.source != packet.source,
        dropped=sent.dropped,
        payloads=tuple(PayloadLine(name=_name(payload), text=payload.text()) for payload in message.payloads)
        if message
        else lines,
    )


def _name(payload: Payload) -> str:
    known = member_of(PayloadType, payload.type)
    return f"payload {payload.type}" if known is None else known.name


@dataclass(frozen=True, slots=True, kw_only=True)
class LogLine:
    """A line of a gateway's log."""

    at_s: float
    side: Side
    level: LogLevel
    text: str


class MarkKind(Enum):
    """What a mark on the time axis stands for."""

    DIAL = "dial"
    UP = "up"
    REKEY = "rekey"
    DOWN = "down"
    FAULT = "fault"
    RESTART = "restart"
    PROBE = "probe"
    STEP = "step"  # of a plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """Something that a person looks for on the time axis."""

    at_s: float
    kind: MarkKind
    text: str
    side: Side | None = None
