"""What went between the gateways, as a person reads it: what is routine is counted, and everything else is shown."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import groupby
from typing import Annotated

from pydantic import Field

from pontifex.core.call_effects import Told
from pontifex.core.ike.message import ExchangeType
from pontifex.core.rehearsal.events import Carried, MessageEvent, Sent, shown


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownPacket:
    """One packet that is shown, or several that are routine."""

    at_s: Annotated[float, Field(title="From, s")]
    until_s: Annotated[float, Field(title="To, s", description="The same for one packet.")]
    message: Annotated[MessageEvent | None, Field(title="Packet", description="Null where several are counted.")] = None
    routine: Annotated[str, Field(title="What is counted", examples=["12 packets of the tunnel, 3 checks"])] = ""


def _is_routine(sent: Sent) -> bool:
    """Whether a packet has arrived and tells nothing: a check or its answer, a keep-alive, a packet of the tunnel."""
    if sent.dropped:
        return False
    if sent.message is None:
        return True
    if isinstance(sent.message, Told):
        return sent.message.is_routine
    return sent.message.header.exchange == ExchangeType.INFORMATIONAL and not sent.message.payloads


def _kind(sent: Sent) -> str:
    if isinstance(sent.message, Told):
        return sent.message.name
    if sent.message is not None:
        return "check"
    return "keep-alive" if sent.carries is Carried.KEEPALIVE else "packet of the tunnel"


def _counted(kinds: Iterable[str]) -> str:
    plural = {"packet of the tunnel": "packets of the tunnel", "check": "checks and answers", "keep-alive": "keep-alives"}
    plural |= {"acknowledgement": "acknowledgements"}
    return ", ".join(f"{count} {kind if count == 1 else plural[kind]}" for kind, count in Counter(kinds).items())


def shown_packets(sent: Iterable[Sent]) -> Iterator[ShownPacket]:
    """Yield what went between the gateways, in the order of time."""
    for is_routine, group in groupby(sent, _is_routine):
        packets = list(group)
        if is_routine:
            first, last = (round(packet.at_s, 6) for packet in (packets[0], packets[-1]))
            yield ShownPacket(at_s=first, until_s=last, routine=_counted(map(_kind, packets)))
        else:
            for packet in packets:
                event = shown(packet)
                yield ShownPacket(at_s=event.at_s, until_s=event.at_s, message=event)
