"""The end that is called: how it answers IKE_SA_INIT, IKE_INTERMEDIATE and IKE_AUTH (RFC 7296 section 1.2)."""

from __future__ import annotations

import hmac
from collections.abc import Sequence

from pontifex.core.ike import child, eap_proof
from pontifex.core.ike.authenticating import between, forget_others, intermediate, mobike_agreed
from pontifex.core.ike.effects import LogLevel, Socket
from pontifex.core.ike.identities import identification
from pontifex.core.ike.ike_sa import Creation, Heard, IkeSa, IkeSaState
from pontifex.core.ike.initiator import supported
from pontifex.core.ike.keys import first_seed, next_seed
from pontifex.core.ike.machine import NONCE_OCTETS, Machine
from pontifex.core.ike.message import ExchangeType, Message
from pontifex.core.ike.nat_detection import nat_detection, nats_seen
from pontifex.core.ike.offers import take
from pontifex.core.ike.payloads import (
    Identification,
    KeyExchangePayload,
    Nonce,
    Notify,
    NotifyType,
    Payload,
    PayloadType,
    SecurityAssociation,
    write_payloads,
)
from pontifex.core.ike.proofs import own_proof, proved_octets, requested, why_refused
from pontifex.core.ike.suite.key_exchange import KeyExchangeError, key_exchange
from pontifex.core.ipsec import Protocol
from pontifex.core.kinds import AuthMethod

Answer = Sequence[Payload]
_CANT_PROVE = "This end can't prove itself to a caller: by EAP it could only call."


def init_requested(
    m: Machine, message: Message, octets: bytes, source: Socket, destination: Socket, cookie_key: bytes
) -> tuple[IkeSa | None, Answer]:
    """Answer IKE_SA_INIT: by a new IKE SA with its payloads, or by payloads alone where none is made."""
    nonce = message.needed(Nonce)
    if m.settings.asks_cookies:
        wanted = hmac.digest(cookie_key, nonce.octets + str(source).encode() + message.header.spi_i, "sha256")
        cookie = message.notified(NotifyType.COOKIE)
        if cookie is None or cookie.octets != wanted:
            return None, (Notify(NotifyType.COOKIE, wanted),)
    taken = take(message.needed(SecurityAssociation), m.settings.ike_proposals, Protocol.IKE, m.settings, b"", in_auth=False)
    if taken is None or not taken.suite.exchanges:
        m.log(f"{source} offers no proposal that this end accepts.", LogLevel.ERROR)
        return None, (Notify(NotifyType.NO_PROPOSAL_CHOSEN),)
    public, method = message.needed(KeyExchangePayload), taken.suite.exchanges[0]
    if public.method != method:
        return None, (Notify(NotifyType.INVALID_KE_PAYLOAD, method.to_bytes(2)),)
    exchange = key_exchange(method)
    assert exchange  # the suite is one that is rehearsed
    try:
        own_public, secret = exchange.answer(public.public, m.entropy)
    except KeyExchangeError as error:
        m.log(f"The key exchange with {source} failed: {error}.", LogLevel.ERROR)
        return None, (Notify(NotifyType.INVALID_SYNTAX),)
    creation = Creation(makes_ike=True, initiated=False, chosen=taken.chosen, suite=taken.suite)
    creation.nonce_i, creation.nonce_r, creation.own_spi = nonce.octets, m.entropy(NONCE_OCTETS), m.entropy(8)
    creation.secrets.append(secret)
    sa = IkeSa(False, message.header.spi_i, creation.own_spi, destination, source, creation, IkeSaState.KEYED)
    sa.first_heard, sa.heard_at, sa.expected_id = octets, m.now, 1
    sa.fragments = m.settings.fragments and message.notified(NotifyType.IKEV2_FRAGMENTATION_SUPPORTED) is not None
    sa.behind_nat, sa.far_behind_nat = nats_seen(m.settings.nat_traversal, message, source, destination)
    m.sas[sa.spi_r] = sa
    m.log(f"{source} calls.")
    m.key(sa, taken.suite, taken.chosen, first_seed(taken.suite, secret, creation.nonces))
    answer: list[Payload] = [taken.answer, KeyExchangePayload(method, own_public), Nonce(creation.nonce_r)]
    answer += (
        *nat_detection(m.settings.nat_traversal, sa.spi_i, sa.spi_r, destination, source),
        *requested(m.settings),
        *supported(m),
    )
    return sa, answer


def intermediate_requested(m: Machine, sa: IkeSa, heard: Heard) -> Answer:
    """Answer an additional key exchange; the new keys hold from the next message on (RFC 9370 section 2.2.2)."""
    message = heard.message
    public, method = message.needed(KeyExchangePayload), sa.creation.next_method
    if method is None or public.method != method:
        return (Notify(NotifyType.INVALID_SYNTAX),)
    exchange = key_exchange(method)
    assert exchange  # the suite is one that is rehearsed
    try:
        own_public, secret = exchange.answer(public.public, m.entropy)
    except KeyExchangeError:
        return (Notify(NotifyType.INVALID_SYNTAX),)
    sa.between_far = intermediate(sa, message.header, message.payloads[0].type, heard.plain, own=False)
    answer = (KeyExchangePayload(method, own_public),)
    header = sa.header(ExchangeType.IKE_INTERMEDIATE, True, message.header.message_id)
    sa.between_own = intermediate(sa, header, *write_payloads(answer), own=True)
    sa.creation.secrets.append(secret)
    return answer


def rekey_after_intermediate(m: Machine, sa: IkeSa) -> None:
    """Take the keys that follow from an additional key exchange, once its answer is sealed with the old ones."""
    creation = sa.creation
    assert creation.suite and sa.suite and sa.keys  # noqa: PT018 -- it is keyed
    seed = next_seed(sa.suite, sa.keys.derive, (creation.secrets[-1],), creation.nonces)
    m.key(sa, creation.suite, creation.chosen, seed)


def auth_requested(m: Machine, sa: IkeSa, heard: Heard) -> Answer:
    """Answer IKE_AUTH: judge the initiator's proof, give the own one, and make the first Child SA or say why not."""
    assert sa.suite and sa.keys  # noqa: PT018 -- it is keyed
    message = heard.message
    if sa.eap_called:
        return eap_proof.requested(m, sa, sa.eap_called, message)
    identity = message.needed(Identification, PayloadType.IDI)
    tail = between(sa, message.header.message_id)
    prf = sa.suite.prf
    claimed = proved_octets(prf, sa.keys.proof_i, sa.first_heard, sa.creation.nonce_r, identity, tail)
    refused = "an additional key exchange is lacking" if sa.creation.next_method is not None else None
    refused = refused or why_refused(m.settings, prf, claimed, identity, message, m.now)
    if refused or m.settings.method is AuthMethod.EAP:
        m.log(f"The caller's proof is refused: {refused}." if refused else _CANT_PROVE, LogLevel.ERROR)
        return (Notify(NotifyType.AUTHENTICATION_FAILED),)
    sa.far_identity = identity.body()
    own = identification(PayloadType.IDR, m.settings.identity)
    told = proved_octets(prf, sa.keys.proof_r, sa.first_sent, sa.creation.nonce_i, own, tail)
    if m.settings.expected_method is AuthMethod.EAP:
        return (own, *own_proof(m.settings, prf, told), eap_proof.asked(m, sa, message, told, claimed, identity))
    if message.notified(NotifyType.INITIAL_CONTACT):
        forget_others(m, sa)
    m.log("The caller has proved itself: the IKE SA stands.")
    m.establish(sa)
    moves = mobike_agreed(m, sa, message)
    return (own, *own_proof(m.settings, prf, told), *moves, *child.first_requested(m, sa, message))
