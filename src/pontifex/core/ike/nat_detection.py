"""Whether a NAT stands between two ends (RFC 7296 section 2.23)."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

from pontifex.core.ike.effects import Socket
from pontifex.core.ike.message import Message
from pontifex.core.ike.payloads import Notify, NotifyType, Payload
from pontifex.core.kinds import NatTraversal

_NOWHERE = bytes(20)


def _digest(spi_i: bytes, spi_r: bytes, socket: Socket) -> bytes:
    address = socket.address.value.to_bytes(socket.address.family.bits // 8)
    return hashlib.sha1(spi_i + spi_r + address + socket.port.to_bytes(2), usedforsecurity=False).digest()


def nat_detection(traversal: NatTraversal, spi_i: bytes, spi_r: bytes, source: Socket, destination: Socket) -> Iterable[Payload]:
    """Yield the two notifications by which the receiver sees whether addresses or ports were changed on the way.

    An end that wants UDP always gives a source that can't be seen; one that traverses no NAT says nothing.
    """
    if traversal is NatTraversal.OFF:
        return
    seen = _NOWHERE if traversal is NatTraversal.ALWAYS else _digest(spi_i, spi_r, source)
    yield Notify(NotifyType.NAT_DETECTION_SOURCE_IP, seen)
    yield Notify(NotifyType.NAT_DETECTION_DESTINATION_IP, _digest(spi_i, spi_r, destination))


def nats_seen(traversal: NatTraversal, message: Message, source: Socket, destination: Socket) -> tuple[bool, bool]:
    """Return whether the receiver is behind a NAT, and whether the sender is; addresses are those that the receiver sees.

    Neither where one of them traverses no NAT; an end that wants UDP always takes itself to be behind one.
    """
    if traversal is NatTraversal.OFF or message.notified(NotifyType.NAT_DETECTION_DESTINATION_IP) is None:
        return False, False
    spis = message.header.spi_i, message.header.spi_r
    theirs = [notify.octets for notify in message.all(Notify) if notify.kind == NotifyType.NAT_DETECTION_SOURCE_IP]
    ours = message.notified(NotifyType.NAT_DETECTION_DESTINATION_IP)
    sender = bool(theirs) and _digest(*spis, source) not in theirs
    hidden = ours is not None and ours.octets != _digest(*spis, destination)
    return hidden or traversal is NatTraversal.ALWAYS, sender
