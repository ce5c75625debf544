"""CREATE_CHILD_SA and IKE_FOLLOWUP_KE: further and rekeyed SAs (RFC 7296 sections 1.3 and 2.8, RFC 9370)."""

from __future__ import annotations

from collections.abc import Sequence

from pontifex.core.ike import child, succession
from pontifex.core.ike.child import Agreed, agree, selectors, settle
from pontifex.core.ike.configuring import networks
from pontifex.core.ike.effects import LogLevel
from pontifex.core.ike.ike_sa import Creation, Heard, IkeSa, IkeSaState, Purpose
from pontifex.core.ike.machine import NONCE_OCTETS, RETRY_CREATION_S, Machine
from pontifex.core.ike.message import ExchangeType, Message
from pontifex.core.ike.offers import child_offer, first_method, ike_offer, take, taken_of
from pontifex.core.ike.payloads import (
    KeyExchangePayload,
    MalformedError,
    Nonce,
    Notify,
    NotifyType,
    Payload,
    SecurityAssociation,
)
from pontifex.core.ike.payloads.security_association import PROTOCOL_ESP, PROTOCOL_IKE
from pontifex.core.ike.suite.key_exchange import KeyExchangeError, key_exchange
from pontifex.core.ipsec import Protocol

Answer = Sequence[Payload]


def ask_for_child(m: Machine, sa: IkeSa, replaces: bytes | None) -> None:
    """Ask for a Child SA: a further one, or one that takes over from another, which is named by its inbound SPI."""
    creation = Creation(makes_ike=False, initiated=True, own_spi=m.entropy(child.SPI_OCTETS), replaces=replaces)
    if replaces is not None:
        sa.children[replaces].rekeying = True
    _begin(m, sa, creation, first_method(m.settings.child_proposals))


def ask_for_ike(m: Machine, sa: IkeSa) -> None:
    """Ask to rekey the IKE SA."""
    creation = Creation(makes_ike=True, initiated=True, own_spi=m.entropy(8))
    _begin(m, sa, creation, sa.suite.exchanges[0] if sa.suite else None)


def _begin(m: Machine, sa: IkeSa, creation: Creation, guess: int | None) -> None:
    """Send a request; with a public value where a key exchange is offered."""
    creation.nonce_i = m.entropy(NONCE_OCTETS)
    sa.creation = creation
    payloads: list[Payload] = []
    if creation.replaces is not None:
        payloads.append(Notify(NotifyType.REKEY_SA, protocol=PROTOCOL_ESP, spi=creation.replaces))
    spi = creation.own_spi
    payloads.append(ike_offer(m.settings, spi) if creation.makes_ike else child_offer(m.settings, spi, in_auth=False))
    payloads.append(Nonce(creation.nonce_i))
    method = key_exchange(guess) if guess is not None else None
    if method and guess is not None:
        creation.begun, creation.guess = method.begin(m.entropy), guess
        payloads.append(KeyExchangePayload(guess, creation.begun.public))
    if not creation.makes_ike:
        payloads += selectors(*networks(m, sa), by_initiator=True)
    m.ask(sa, Purpose.CREATE, ExchangeType.CREATE_CHILD_SA, payloads, creation.replaces or b"")


def answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the answer to CREATE_CHILD_SA."""
    creation, message = sa.creation, heard.message
    other_group = message.notified(NotifyType.INVALID_KE_PAYLOAD)
    method = int.from_bytes(other_group.octets) if other_group else 0
    if other_group and method != creation.guess and key_exchange(method):
        m.log(f"The other end wants group {method}: once more with it.")
        _begin(m, sa, creation, method)
    elif message.error:
        _refused(m, sa, creation, message.error)
    elif _accepted(m, sa, creation, message):
        _go_on(m, sa, creation, message)
    else:
        _give_up(m, sa, creation)


def _accepted(m: Machine, sa: IkeSa, creation: Creation, message: Message) -> bool:
    """Take what the responder has chosen, and its public value; False where that can't be accepted."""
    creation.nonce_r = message.needed(Nonce).octets
    if creation.makes_ike:
        taken = taken_of(message.needed(SecurityAssociation), ike_offer(m.settings, creation.own_spi))
        if taken is None or len(taken.far_spi) != 8:
            return False
        creation.chosen, creation.suite, creation.far_spi = taken.chosen, taken.suite, taken.far_spi
    elif not settle(m, sa, creation, message, in_auth=False):
        return False
    method = creation.next_method
    return method is None or _finished(m, creation, message, method)


def _finished(m: Machine, creation: Creation, message: Message, method: int) -> bool:
    """Come to a secret by the other end's public value; False where it can't be."""
    public = message.needed(KeyExchangePayload)
    if public.method != method or creation.begun is None:
        return False
    try:
        creation.secrets.append(creation.begun.finish(public.public))
    except KeyExchangeError as error:
        m.log(f"The key exchange failed: {error}.", LogLevel.ERROR)
        return False
    return True


def _go_on(m: Machine, sa: IkeSa, creation: Creation, message: Message) -> None:
    """Send the next additional key exchange, or put the new SA into use."""
    method = creation.next_method
    if method is None:
        succession.put_into_use(m, sa, creation)
        return
    link, exchange = message.notified(NotifyType.ADDITIONAL_KEY_EXCHANGE), key_exchange(method)
    if link is None or exchange is None:
        _give_up(m, sa, creation)
        return
    creation.begun = exchange.begin(m.entropy)
    payloads = (
        KeyExchangePayload(method, creation.begun.public),
        Notify(NotifyType.ADDITIONAL_KEY_EXCHANGE, link.octets),
    )
    m.ask(sa, Purpose.FOLLOW_UP, ExchangeType.IKE_FOLLOWUP_KE, payloads, creation.replaces or b"")


def follow_up_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the answer to IKE_FOLLOWUP_KE."""
    creation, method, message = sa.creation, sa.creation.next_method, heard.message
    if message.error:
        _refused(m, sa, creation, message.error)
    elif method is not None and _finished(m, creation, message, method):
        _go_on(m, sa, creation, message)
    else:
        _give_up(m, sa, creation)


def _refused(m: Machine, sa: IkeSa, creation: Creation, error: Notify) -> None:
    what = "rekey of the IKE SA" if creation.makes_ike else "rekey of the Child SA" if creation.replaces else "further Child SA"
    if succession.superseded(m, sa, creation):
        return
    if error.kind == NotifyType.TEMPORARY_FAILURE:
        m.log(f"The other end is busy: the {what} is asked for again.")
        _retry_later(m, sa, creation)
        return
    m.log(f"The other end refused the {what}: {error.name}.", LogLevel.ERROR)
    old = sa.children.get(creation.replaces) if creation.replaces else None
    if old and error.kind == NotifyType.CHILD_SA_NOT_FOUND:
        m.remove_child(sa, old)
    _give_up(m, sa, creation)


def _retry_later(m: Machine, sa: IkeSa, creation: Creation) -> None:
    old = sa.children.get(creation.replaces) if creation.replaces else None
    if creation.makes_ike:
        sa.rekey_at = m.now + RETRY_CREATION_S
    elif old:
        old.rekeying, old.rekey_at = False, m.now + RETRY_CREATION_S


def _give_up(m: Machine, sa: IkeSa, creation: Creation) -> None:
    """Leave the old SA until its lifetime ends."""
    old = sa.children.get(creation.replaces) if creation.replaces else None
    if creation.makes_ike:
        sa.rekey_at = float("inf")
        m.log("The IKE SA stays until its lifetime ends.", LogLevel.WARNING)
    elif old:
        old.rekeying, old.rekey_at = False, float("inf")
        m.log("The Child SA stays until its lifetime ends.", LogLevel.WARNING)


def requested(m: Machine, sa: IkeSa, heard: Heard) -> Answer:
    """Answer CREATE_CHILD_SA."""
    message = heard.message
    if sa.phase is not IkeSaState.ESTABLISHED:
        return (Notify(NotifyType.TEMPORARY_FAILURE),)
    offers = message.needed(SecurityAssociation).proposals
    creation = Creation(makes_ike=offers[0].protocol == PROTOCOL_IKE, initiated=False)
    creation.nonce_i, creation.nonce_r = message.needed(Nonce).octets, m.entropy(NONCE_OCTETS)
    agreed = _ike_agreed(m, sa, creation, message) if creation.makes_ike else _child_agreed(m, sa, creation, message)
    if isinstance(agreed, Notify):
        return (agreed,)
    return _answered_with_key(m, sa, creation, message, agreed.answer)


def _ike_agreed(m: Machine, sa: IkeSa, creation: Creation, message: Message) -> Agreed | Notify:
    busy = sa.request is not None and sa.request.purpose is Purpose.CREATE and not sa.creation.makes_ike
    if busy:
        return Notify(NotifyType.TEMPORARY_FAILURE)  # section 2.25.2
    creation.own_spi = m.entropy(8)
    offer = message.needed(SecurityAssociation)
    taken = take(offer, m.settings.ike_proposals, Protocol.IKE, m.settings, creation.own_spi, in_auth=False)
    if taken is None or len(taken.far_spi) != 8:
        return Notify(NotifyType.NO_PROPOSAL_CHOSEN)
    creation.chosen, creation.suite, creation.far_spi = taken.chosen, taken.suite, taken.far_spi
    return Agreed(creation, (taken.answer,))


def _child_agreed(m: Machine, sa: IkeSa, creation: Creation, message: Message) -> Agreed | Notify:
    rekeyed = message.notified(NotifyType.REKEY_SA)
    if rekeyed:
        old = next((held for held in sa.children.values() if held.sa.spi_out == rekeyed.spi), None)
        if old is None:
            return Notify(NotifyType.CHILD_SA_NOT_FOUND, protocol=PROTOCOL_ESP, spi=rekeyed.spi)
        if old.replaced or (sa.request and sa.request.purpose is Purpose.CREATE and sa.creation.makes_ike):
            return Notify(NotifyType.TEMPORARY_FAILURE)
        creation.replaces = old.sa.spi_in
    return agree(m, sa, creation, message, in_auth=False)


def _answered_with_key(m: Machine, sa: IkeSa, creation: Creation, message: Message, answer: tuple[Payload, ...]) -> Answer:
    """Add nonce and public value to an answer; put the SA into use unless additional key exchanges follow."""
    method = creation.next_method
    public = message.first(KeyExchangePayload)
    own: tuple[Payload, ...] = ()
    if method is not None:
        if public is None or public.method != method:
            return (Notify(NotifyType.INVALID_KE_PAYLOAD, method.to_bytes(2)),)
        made = _exchanged(m, creation, public)
        if made is None:
            return (Notify(NotifyType.INVALID_SYNTAX),)
        own = (made,)
    association, *selected = answer
    return (association, Nonce(creation.nonce_r), *own, *selected, *_linked_or_used(m, sa, creation))


def _exchanged(m: Machine, creation: Creation, public: KeyExchangePayload) -> KeyExchangePayload | None:
    exchange = key_exchange(public.method)
    if exchange is None:
        return None
    try:
        own, secret = exchange.answer(public.public, m.entropy)
    except KeyExchangeError:
        return None
    creation.secrets.append(secret)
    return KeyExchangePayload(public.method, own)


def _linked_or_used(m: Machine, sa: IkeSa, creation: Creation) -> Answer:
    """Put an SA into use once all key exchanges are done; else return the link by which the next one is known."""
    if creation.next_method is None:
        succession.put_into_use(m, sa, creation)
        return ()
    creation.link = creation.link or m.entropy(8)
    sa.creations[creation.link] = creation
    return (Notify(NotifyType.ADDITIONAL_KEY_EXCHANGE, creation.link),)


def follow_up_requested(m: Machine, sa: IkeSa, heard: Heard) -> Answer:
    """Answer IKE_FOLLOWUP_KE (RFC 9370 section 2.2.4)."""
    message = heard.message
    link = message.notified(NotifyType.ADDITIONAL_KEY_EXCHANGE)
    if link is None:
        raise MalformedError("a follow-up key exchange without its link")
    creation = sa.creations.pop(link.octets, None)
    public = message.needed(KeyExchangePayload)
    if creation is None or public.method != creation.next_method:
        return (Notify(NotifyType.INVALID_SYNTAX),)
    own = _exchanged(m, creation, public)
    return (own, *_linked_or_used(m, sa, creation)) if own else (Notify(NotifyType.INVALID_SYNTAX),)
