"""What keeps an IKE SA standing and what ends it (RFC 7296 sections 1.4, 2.1 and 2.4)."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from pontifex.core.ike import creation, moving
from pontifex.core.ike.effects import Keepalive, LogLevel, Redial
from pontifex.core.ike.ike_sa import FIRST_RETRY_S, MOST_TRIES, DueRequest, Heard, IkeSa, IkeSaState, Purpose
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import ExchangeType, Message
from pontifex.core.ike.payloads import Delete, Payload
from pontifex.core.ike.payloads.security_association import PROTOCOL_ESP, PROTOCOL_IKE


def due_times(m: Machine, sa: IkeSa) -> Iterator[float]:
    """Yield the times at which something is due of an IKE SA."""
    if sa.request:
        yield sa.request.due
    elif sa.waiting and sa.phase in (IkeSaState.ESTABLISHED, IkeSaState.ENDING):
        yield m.now
    if sa.phase is IkeSaState.ESTABLISHED:
        yield sa.rekey_at
        for child in sa.children.values():
            yield child.ends_at
            if not child.rekeying and not child.replaced:
                yield child.rekey_at
        if m.settings.dead_peer_s and sa.request is None:
            yield _check_at(m, sa)
        if sa.behind_nat and m.settings.keepalive_s:
            yield sa.sent_at + m.settings.keepalive_s
    yield sa.ends_at


def tend(m: Machine, sa: IkeSa) -> None:
    """Do what is due of an IKE SA."""
    if sa.request and sa.request.due <= m.now:
        _resend(m, sa)
    if sa.phase is IkeSaState.ENDED:
        return
    if sa.ends_at <= m.now:
        _expire(m, sa)
        return
    if sa.phase is IkeSaState.ESTABLISHED:
        _tend_lifetimes(m, sa)
        _keep_alive(m, sa)
    if sa.request is None and sa.waiting and sa.phase in (IkeSaState.ESTABLISHED, IkeSaState.ENDING):
        _ask_next(m, sa)


def _resend(m: Machine, sa: IkeSa) -> None:
    """Send a request once more, after twice the time; give the other end up at last (section 2.4)."""
    request = sa.request
    assert request
    if request.tries >= MOST_TRIES:
        sa.request = None
        m.end(sa, "the other end doesn't answer", LogLevel.ERROR)
        return
    request.tries += 1
    request.due = m.now + FIRST_RETRY_S * 2 ** (request.tries - 1)
    m.log(f"No answer to {request.message.header.name} yet: sent once more.", LogLevel.WARNING)
    m.send(sa, request.message, request.datagrams)


def _expire(m: Machine, sa: IkeSa) -> None:
    """Delete an IKE SA whose lifetime is over; one that is being deleted already is gone at once."""
    sa.ends_at = math.inf
    if sa.phase is not IkeSaState.ESTABLISHED:
        m.end(sa, "its lifetime is over", LogLevel.WARNING)
        return
    m.log("The lifetime of the IKE SA is over.", LogLevel.WARNING)
    for child in list(sa.children.values()):
        m.remove_child(sa, child)
    sa.phase = IkeSaState.ENDING
    m.ask(sa, Purpose.DELETE_IKE, ExchangeType.INFORMATIONAL, (Delete(PROTOCOL_IKE),))


def _tend_lifetimes(m: Machine, sa: IkeSa) -> None:
    for child in list(sa.children.values()):
        if child.ends_at <= m.now:
            m.log("The lifetime of a Child SA is over.", LogLevel.WARNING)
            _drop(m, sa, child.sa.spi_in)
        elif child.rekey_at <= m.now and not child.rekeying and not child.replaced:
            child.rekey_at = float("inf")
            sa.waiting.append((DueRequest.REKEY_CHILD, child.sa.spi_in))
    if sa.rekey_at <= m.now:
        sa.rekey_at = float("inf")
        if m.settings.reauthenticate:
            m.log("Time to authenticate anew.")
            m.effects.append(Redial())
        else:
            sa.waiting.append((DueRequest.REKEY_IKE, b""))


def _drop(m: Machine, sa: IkeSa, spi: bytes) -> None:
    """Take a Child SA out of use and tell the other end; an end that calls asks for another in its place."""
    m.remove_child(sa, sa.children[spi])
    sa.waiting.append((DueRequest.DELETE_CHILD, spi))
    if m.settings.redials:
        sa.waiting.append((DueRequest.NEW_CHILD, b""))


def _check_at(m: Machine, sa: IkeSa) -> float:
    """Return when the other end is checked: a little later than asked for, by the own SPI, so that not both ends ask at once."""
    return sa.heard_at + m.settings.dead_peer_s * (1 + sa.own_spi[0] / 2560)


def _keep_alive(m: Machine, sa: IkeSa) -> None:
    if m.settings.dead_peer_s and _check_at(m, sa) <= m.now and sa.request is None and not sa.waiting:
        m.ask(sa, Purpose.CHECK, ExchangeType.INFORMATIONAL, ())
    if sa.behind_nat and m.settings.keepalive_s and sa.sent_at + m.settings.keepalive_s <= m.now:
        sa.sent_at = m.now
        m.effects.append(Keepalive(sa.local, sa.remote))


def _ask_next(m: Machine, sa: IkeSa) -> None:
    """Ask for what has waited longest: one request at a time (section 2.3)."""
    task, spi = sa.waiting.popleft()
    match task:
        case DueRequest.DELETE_IKE:
            m.ask(sa, Purpose.DELETE_IKE, ExchangeType.INFORMATIONAL, (Delete(PROTOCOL_IKE),))
        case DueRequest.DELETE_CHILD:
            m.ask(sa, Purpose.DELETE_CHILD, ExchangeType.INFORMATIONAL, (Delete(PROTOCOL_ESP, (spi,)),), spi)
        case DueRequest.REKEY_IKE:
            creation.ask_for_ike(m, sa)
        case DueRequest.MOVE:
            moving.ask_to_move(m, sa)
        case DueRequest.TELL_ADDRESS:
            moving.tell_address(m, sa)
        case DueRequest.NEW_CHILD:
            creation.ask_for_child(m, sa, None)
        case DueRequest.REKEY_CHILD if spi in sa.children and not sa.children[spi].replaced:
            creation.ask_for_child(m, sa, spi)


def informed(m: Machine, sa: IkeSa, heard: Heard) -> Sequence[Payload]:
    """Answer INFORMATIONAL: a check, other addresses, or a deletion.

    For Child SAs the answer names the other direction's SPIs (section 1.4.1).
    """
    answer: list[Payload] = list(moving.moved(m, sa, heard))
    for delete in heard.message.all(Delete):
        if delete.protocol != PROTOCOL_ESP:
            continue
        gone = [child for child in sa.children.values() if child.sa.spi_out in delete.spis]
        for child in gone:
            m.remove_child(sa, child)
        if gone:
            answer.append(Delete(PROTOCOL_ESP, tuple(child.sa.spi_in for child in gone)))
    return answer


def ends_by(message: Message) -> str | None:
    """Say why a request ends the IKE SA once it is answered; None where it doesn't."""
    if any(delete.protocol == PROTOCOL_IKE for delete in message.all(Delete)):
        return "the other end deleted it"
    return f"the other end says {message.error.name}" if message.error else None


def check_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """The other end is there; that it was heard is noted of every message."""


def ike_deleted(m: Machine, sa: IkeSa, heard: Heard) -> None:  # noqa: ARG001 -- one signature for all
    """The other end has heard that the IKE SA is deleted."""
    m.end(sa, "it was deleted")


def child_deleted(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """The other end has heard that a Child SA is deleted: this end's half goes as well."""
    gone = sa.children.get(heard.request.about) if heard.request else None
    if gone:
        m.remove_child(sa, gone)
