"""An IKE SA whose addresses change, where both ends can follow (MOBIKE, RFC 4555)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from pontifex.core.addressing import Address, Family
from pontifex.core.ike.effects import IkeMoved, Socket
from pontifex.core.ike.ike_sa import DueRequest, Heard, IkeSa, IkeSaState, Purpose
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import ExchangeType
from pontifex.core.ike.nat_detection import nat_detection, nats_seen
from pontifex.core.ike.payloads import Notify, NotifyType, Payload

_TOLD_BY: Final = {Family.V4: NotifyType.ADDITIONAL_IP4_ADDRESS, Family.V6: NotifyType.ADDITIONAL_IP6_ADDRESS}


def move(m: Machine, sa: IkeSa, address: Address) -> None:
    """Go on from another address. The end that made the IKE SA moves it; the other one tells where it is (section 3.5)."""
    if not sa.mobike or sa.phase is not IkeSaState.ESTABLISHED:
        return
    sa.local = Socket(address, sa.local.port)
    m.log(f"The address is {address} now: on from there.")
    if sa.request:
        m.send(sa, sa.request.message, sa.request.datagrams)  # what waits for its answer goes from there as well
    sa.waiting.append((DueRequest.MOVE if sa.initiated else DueRequest.TELL_ADDRESS, b""))


def ask_to_move(m: Machine, sa: IkeSa) -> None:
    """Ask the responder to go by the addresses of this very message (section 3.5)."""
    m.ask(sa, Purpose.MOVE, ExchangeType.INFORMATIONAL, (Notify(NotifyType.UPDATE_SA_ADDRESSES), *_detection(m, sa)))


def tell_address(m: Machine, sa: IkeSa) -> None:
    """Tell the initiator where this end is reached (section 3.6)."""
    address = sa.local.address
    octets = address.value.to_bytes(address.family.bits // 8)
    m.ask(sa, Purpose.CHECK, ExchangeType.INFORMATIONAL, (Notify(_TOLD_BY[address.family], octets),))


def _detection(m: Machine, sa: IkeSa) -> Iterable[Payload]:
    return nat_detection(m.settings.nat_traversal, sa.spi_i, sa.spi_r, sa.local, sa.remote)


def moved(m: Machine, sa: IkeSa, heard: Heard) -> Sequence[Payload]:
    """Take at either end what INFORMATIONAL says of addresses; return what is answered."""
    if not sa.mobike or heard.source is None or heard.destination is None:
        return ()
    if sa.initiated:
        _follow(m, sa, heard)
        return ()
    if heard.message.notified(NotifyType.UPDATE_SA_ADDRESSES) is None:
        return ()
    sa.local, sa.remote = heard.destination, heard.source
    m.log(f"The caller is at {sa.remote} now: all goes there.")
    _see_nats(m, sa, heard)
    return tuple(_detection(m, sa))


def _follow(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the address that the responder tells, and move the IKE SA there."""
    family = sa.local.address.family
    told = heard.message.notified(_TOLD_BY[family])
    if told and len(told.octets) == family.bits // 8:
        sa.remote = Socket(Address(family, int.from_bytes(told.octets)), sa.remote.port)
        m.log(f"The other end is at {sa.remote.address} now.")
        sa.waiting.append((DueRequest.MOVE, b""))


def move_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """The responder goes by the new addresses: see whether a NAT stands on the way now."""
    if heard.message.error is None:
        _see_nats(m, sa, heard)


def _see_nats(m: Machine, sa: IkeSa, heard: Heard) -> None:
    sa.behind_nat, sa.far_behind_nat = nats_seen(m.settings.nat_traversal, heard.message, sa.remote, sa.local)
    m.effects.append(IkeMoved(tuple(sa.children), sa.in_udp))
