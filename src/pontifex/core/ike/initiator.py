"""The end that calls: what it sends until the IKE SA stands, and how it takes the answers (RFC 7296 section 1.2)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from pontifex.core.ike import child, configuring, eap_proof
from pontifex.core.ike.authenticating import between, finish_initiator, intermediate, is_initial_contact
from pontifex.core.ike.effects import LogLevel, Socket
from pontifex.core.ike.identities import identification
from pontifex.core.ike.ike_sa import Creation, Heard, IkeSa, IkeSaState, Purpose
from pontifex.core.ike.keys import first_seed, next_seed
from pontifex.core.ike.machine import NONCE_OCTETS, Machine
from pontifex.core.ike.message import NO_SPI, ExchangeType, Message
from pontifex.core.ike.nat_detection import nat_detection, nats_seen
from pontifex.core.ike.offers import first_method, ike_offer, taken_of
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
from pontifex.core.ike.settings import EndSettings
from pontifex.core.ike.signatures import HASHES
from pontifex.core.ike.suite.key_exchange import KeyExchangeError, key_exchange
from pontifex.core.kinds import AuthMethod, NatTraversal

_ALWAYS_SUPPORTED: Final = (
    Notify(NotifyType.SIGNATURE_HASH_ALGORITHMS, b"".join(number.to_bytes(2) for number in HASHES)),
    Notify(NotifyType.INTERMEDIATE_EXCHANGE_SUPPORTED),
)


def dial(m: Machine, local: Socket, remote: Socket) -> None:
    """Call the other end."""
    spi = m.entropy(8)
    creation = Creation(makes_ike=True, initiated=True, nonce_i=m.entropy(NONCE_OCTETS), own_spi=spi)
    sa = IkeSa(True, spi, NO_SPI, local, remote, creation)
    m.sas[spi] = sa
    guess = first_method(m.settings.ike_proposals)
    if guess is None or key_exchange(guess) is None:
        m.end(sa, "this device has no proposal that it can offer", LogLevel.ERROR)
        return
    m.log(f"Calling {remote}.")
    _send_init(m, sa, guess)


def _send_init(m: Machine, sa: IkeSa, guess: int, cookie: bytes = b"") -> None:
    creation = sa.creation
    if creation.begun is None or creation.guess != guess:
        method = key_exchange(guess)
        assert method  # asked for before
        creation.begun, creation.guess = method.begin(m.entropy), guess
    payloads: list[Payload] = [Notify(NotifyType.COOKIE, cookie)] if cookie else []
    payloads += (ike_offer(m.settings), KeyExchangePayload(guess, creation.begun.public), Nonce(creation.nonce_i))
    payloads += (*nat_detection(m.settings.nat_traversal, sa.spi_i, NO_SPI, sa.local, sa.remote), *supported(m))
    sa.next_id = 0
    (sa.first_sent,) = m.ask(sa, Purpose.INIT, ExchangeType.IKE_SA_INIT, payloads)


def supported(m: Machine) -> Iterable[Payload]:
    """Yield what an end says of itself in IKE_SA_INIT."""
    if m.settings.fragments:
        yield Notify(NotifyType.IKEV2_FRAGMENTATION_SUPPORTED)
    yield from _ALWAYS_SUPPORTED


def init_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the answer to IKE_SA_INIT: a cookie to send back, another group to take, a refusal, or the first keys."""
    message = heard.message
    cookie, other_group = message.notified(NotifyType.COOKIE), message.notified(NotifyType.INVALID_KE_PAYLOAD)
    if cookie:
        m.log("The other end asks for its cookie first.")
        _send_init(m, sa, sa.creation.guess, cookie.octets)
    elif other_group:
        _take_other_group(m, sa, int.from_bytes(other_group.octets))
    elif message.error:
        m.end(sa, f"the other end refused IKE_SA_INIT: {message.error.name}", LogLevel.ERROR)
    else:
        _keyed(m, sa, message, heard.octets)


def _take_other_group(m: Machine, sa: IkeSa, method: int) -> None:
    """Begin anew with the group that the responder wants (RFC 7296 section 1.2); only if it was offered, and never back again."""
    offered = any(transform.id == method for proposal in m.settings.ike_proposals for transform in proposal.transforms)
    if not offered or sa.creation.guess == method or key_exchange(method) is None:
        m.end(sa, f"the other end wants group {method}, which wasn't offered", LogLevel.ERROR)
        return
    m.log(f"The other end wants group {method}: once more with it.")
    _send_init(m, sa, method)


def _keyed(m: Machine, sa: IkeSa, message: Message, octets: bytes) -> None:
    creation, offer = sa.creation, ike_offer(m.settings)
    taken = taken_of(message.needed(SecurityAssociation), offer)
    public, nonce = message.needed(KeyExchangePayload), message.needed(Nonce)
    if taken is None or not taken.suite.exchanges or public.method != taken.suite.exchanges[0] or not creation.begun:
        m.end(sa, "the other end took what wasn't offered", LogLevel.ERROR)
        return
    try:
        secret = creation.begun.finish(public.public)
    except KeyExchangeError as error:
        m.end(sa, f"the key exchange failed: {error}", LogLevel.ERROR)
        return
    creation.nonce_r, creation.suite, creation.chosen = nonce.octets, taken.suite, taken.chosen
    creation.secrets.append(secret)
    sa.spi_r, sa.first_heard = message.header.spi_r, octets
    sa.fragments = m.settings.fragments and message.notified(NotifyType.IKEV2_FRAGMENTATION_SUPPORTED) is not None
    sa.behind_nat, sa.far_behind_nat = nats_seen(m.settings.nat_traversal, message, sa.remote, sa.local)
    if sa.in_udp:
        m.log("A NAT stands on the way: on to port 4500, with ESP in UDP.")
        sa.float_to_nat_port()
    elif m.settings.mobike and m.settings.nat_traversal is not NatTraversal.OFF:
        sa.float_to_nat_port()  # a NAT may come on the way (RFC 4555 section 3.3)
    m.key(sa, taken.suite, taken.chosen, first_seed(taken.suite, secret, creation.nonces))
    sa.phase = IkeSaState.KEYED
    _go_on(m, sa)


def _go_on(m: Machine, sa: IkeSa) -> None:
    """Send what comes next: an additional key exchange, or the proof."""
    method = sa.creation.next_method
    exchange = key_exchange(method) if method is not None else None
    if exchange is None or method is None:
        _send_auth(m, sa)
        return
    sa.creation.begun = exchange.begin(m.entropy)
    payloads = (KeyExchangePayload(method, sa.creation.begun.public),)
    header = sa.header(ExchangeType.IKE_INTERMEDIATE, False, sa.next_id)
    sa.between_own = intermediate(sa, header, *write_payloads(payloads), own=True)
    m.ask(sa, Purpose.INTERMEDIATE, ExchangeType.IKE_INTERMEDIATE, payloads)


def intermediate_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the answer to an additional key exchange: new keys follow (RFC 9370 section 2.2.2)."""
    message = heard.message
    if message.error:
        m.end(sa, f"the other end refused the additional key exchange: {message.error.name}", LogLevel.ERROR)
        return
    public = message.needed(KeyExchangePayload)
    creation = sa.creation
    assert creation.begun and creation.suite and sa.suite and sa.keys  # set by the first exchange  # noqa: PT018
    sa.between_far = intermediate(sa, message.header, message.payloads[0].type, heard.plain, own=False)
    try:
        secret = creation.begun.finish(public.public)
    except KeyExchangeError as error:
        m.end(sa, f"the additional key exchange failed: {error}", LogLevel.ERROR)
        return
    creation.secrets.append(secret)
    m.key(sa, creation.suite, creation.chosen, next_seed(sa.suite, sa.keys.derive, (secret,), creation.nonces))
    _go_on(m, sa)


def _send_auth(m: Machine, sa: IkeSa) -> None:
    assert sa.suite and sa.keys  # noqa: PT018 -- it is keyed
    identity = identification(PayloadType.IDI, m.settings.identity)
    octets = proved_octets(sa.suite.prf, sa.keys.proof_i, sa.first_sent, sa.creation.nonce_r, identity, between(sa, sa.next_id))
    sa.proved = octets
    proofs = tuple(own_proof(m.settings, sa.suite.prf, octets))
    payloads: list[Payload] = [identity, *proofs[:-1]]
    payloads += [Notify(NotifyType.INITIAL_CONTACT)] if is_initial_contact(m, sa) else []
    payloads += [Notify(NotifyType.MOBIKE_SUPPORTED)] if m.settings.mobike else []
    payloads += (*requested(m.settings), *proofs[-1:], *configuring.asked(m), *child.asked_for(m, sa))
    m.ask(sa, Purpose.AUTH, ExchangeType.IKE_AUTH, payloads)


def _why_not_with_eap(settings: EndSettings) -> str | None:
    """Say why no answer is accepted where EAP is meant for the wrong end, or the other one has no certificate (section 2.16)."""
    if settings.expected_method is AuthMethod.EAP:
        return "an end that is called can't prove itself by EAP"
    by_key = settings.method is AuthMethod.EAP and settings.expected_method is AuthMethod.PRE_SHARED_KEY
    return "with EAP at this end, the other one must prove itself by a certificate" if by_key else None


def auth_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the answer to IKE_AUTH: the responder's proof, and the first Child SA or why there is none."""
    message = heard.message
    identity = message.first(Identification, PayloadType.IDR)
    if identity is None:
        error = message.error
        m.end(sa, f"the other end refused IKE_AUTH: {error.name if error else 'without a word'}", LogLevel.ERROR)
        return
    assert sa.suite and sa.keys  # noqa: PT018 -- it is keyed
    octets = proved_octets(
        sa.suite.prf, sa.keys.proof_r, sa.first_heard, sa.creation.nonce_i, identity, between(sa, message.header.message_id)
    )
    refused = why_refused(m.settings, sa.suite.prf, octets, identity, message, m.now)
    refused = refused or _why_not_with_eap(m.settings)
    if refused:
        m.log(f"The other end's proof is refused: {refused}.", LogLevel.ERROR)
        sa.phase = IkeSaState.ENDING
        refusal = (Notify(NotifyType.AUTHENTICATION_FAILED),)
        m.ask(sa, Purpose.DELETE_IKE, ExchangeType.INFORMATIONAL, refusal)
        return
    sa.far_identity = identity.body()
    if m.settings.method is AuthMethod.EAP:
        eap_proof.begin(m, sa, message, sa.proved, octets, identity)
    else:
        finish_initiator(m, sa, message)
