"""Proof by EAP within IKE_AUTH (RFC 7296 section 2.16).

The responder proves itself first, then asks. What the method makes of it, both ends prove in AUTH: so nobody can carry a proof
from one IKE SA into another. Where a method makes no key, SK_pi and SK_pr stand in for it.
"""

from __future__ import annotations

import hmac
from collections.abc import Sequence
from functools import partial

from pontifex.core.eap import EapError, EapPeer, EapServer, EapSettings, eap_peer, eap_server
from pontifex.core.eap.method import Judged, PeerProved, Refused
from pontifex.core.eap.tls_method import TlsProof
from pontifex.core.ike import child
from pontifex.core.ike.authenticating import finish_initiator, forget_others, mobike_agreed
from pontifex.core.ike.effects import LogLevel
from pontifex.core.ike.ike_sa import EapCalled, EapCaller, Heard, IkeSa, Purpose
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import ExchangeType, Message
from pontifex.core.ike.payloads import Authentication, EapPayload, Identification, Notify, NotifyType, Payload
from pontifex.core.ike.payloads.authentication import SHARED_KEY
from pontifex.core.ike.proofs import by_secret, why_chain_refused


def _proof(m: Machine, identity: Identification) -> TlsProof | None:
    """Return what an end shows within EAP-TLS, and how it judges the other end: by the identity that it has told in IKE_AUTH."""
    own = m.settings.proof
    if own.key is None:
        return None
    return TlsProof(own.key, own.certificates, partial(why_chain_refused, m.settings, identity, now=m.now))


def _peer(m: Machine, identity: Identification) -> EapPeer:
    assert m.settings.eap_method  # asked for before
    return eap_peer(EapSettings(m.settings.eap_method, m.settings.account, _proof(m, identity)), m.entropy)


def _server(m: Machine, identity: Identification) -> EapServer:
    assert m.settings.eap_method  # asked for before
    return eap_server(EapSettings(m.settings.eap_method, m.settings.accepted, _proof(m, identity)), m.entropy)


def _by_key(sa: IkeSa, key: bytes, octets: bytes, *, by_initiator: bool) -> bytes:
    assert sa.suite and sa.keys  # noqa: PT018 -- it is keyed
    return by_secret(sa.suite.prf, key or (sa.keys.proof_i if by_initiator else sa.keys.proof_r), octets)


def begin(m: Machine, sa: IkeSa, message: Message, own: bytes, far: bytes, identity: Identification) -> None:
    """Begin at the initiator: the responder has proved itself, and asks. `own` and `far` are what AUTH of the ends protects."""
    sa.eap_caller = EapCaller(_peer(m, identity), own, far)
    _go_on(m, sa, sa.eap_caller, message)


def round_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take what the responder asks next, or its last word."""
    assert sa.eap_caller  # a round goes on
    _go_on(m, sa, sa.eap_caller, heard.message)


def _go_on(m: Machine, sa: IkeSa, eap: EapCaller, message: Message) -> None:
    payload = message.first(EapPayload)
    if payload is None:
        error = message.error
        m.end(sa, f"the other end refused IKE_AUTH: {error.name if error else 'it asks for no proof by EAP'}", LogLevel.ERROR)
        return
    answer = _taken(eap.peer, payload)
    if isinstance(answer, Refused):
        m.end(sa, f"EAP failed: {answer.reason}", LogLevel.ERROR)
    elif isinstance(answer, PeerProved):
        eap.key = answer.key
        proof = Authentication(SHARED_KEY, _by_key(sa, eap.key, eap.own, by_initiator=True))
        m.ask(sa, Purpose.EAP_PROOF, ExchangeType.IKE_AUTH, (proof,))
    else:
        m.ask(sa, Purpose.EAP, ExchangeType.IKE_AUTH, (EapPayload(answer),))


def _taken(peer: EapPeer, payload: EapPayload) -> bytes | Judged:
    try:
        return peer.take(payload.octets)
    except EapError as error:
        return Refused(str(error))


def proof_answered(m: Machine, sa: IkeSa, heard: Heard) -> None:
    """Take the responder's proof of the key, and what comes with it."""
    message, eap = heard.message, sa.eap_caller
    proof = message.first(Authentication)
    assert eap  # it has proved its own
    if proof is None:
        error = message.error
        m.end(sa, f"the other end refused IKE_AUTH: {error.name if error else 'without a word'}", LogLevel.ERROR)
    elif not hmac.compare_digest(proof.octets, _by_key(sa, eap.key, eap.far, by_initiator=False)):
        m.end(sa, "the other end's proof doesn't fit the key of EAP", LogLevel.ERROR)
    else:
        finish_initiator(m, sa, message)


def asked(m: Machine, sa: IkeSa, message: Message, own: bytes, far: bytes, identity: Identification) -> Payload:
    """Begin at the responder: keep what the caller asks for, and return the first request of EAP."""
    sa.eap_called = EapCalled(_server(m, identity), message, own, far)
    return EapPayload(sa.eap_called.server.begin())


def requested(m: Machine, sa: IkeSa, eap: EapCalled, message: Message) -> Sequence[Payload]:
    """Answer a further request of IKE_AUTH: a response of EAP, or the proof that ends it."""
    proof = message.first(Authentication)
    if proof:
        return _proved(m, sa, eap, proof)
    try:
        step = eap.server.take(message.needed(EapPayload).octets)
    except EapError as error:
        m.log(f"What the caller answers can't be read: {error}.", LogLevel.WARNING)
        return (Notify(NotifyType.INVALID_SYNTAX),)
    if isinstance(step, bytes):
        return (EapPayload(step),)
    eap.judged = step.judged
    if isinstance(step.judged, Refused):
        m.log(f"The caller's proof is refused: {step.judged.reason}.", LogLevel.ERROR)
    return (EapPayload(step.octets),)


def _proved(m: Machine, sa: IkeSa, eap: EapCalled, proof: Authentication) -> Sequence[Payload]:
    accepted = eap.judged
    fits = isinstance(accepted, PeerProved) and hmac.compare_digest(
        proof.octets, _by_key(sa, accepted.key, eap.far, by_initiator=True)
    )
    if not isinstance(accepted, PeerProved) or not fits:
        m.log("The caller's proof is refused: it doesn't fit the key of EAP.", LogLevel.ERROR)
        return (Notify(NotifyType.AUTHENTICATION_FAILED),)
    if eap.request.notified(NotifyType.INITIAL_CONTACT):
        forget_others(m, sa)
    m.log("The caller has proved itself by EAP: the IKE SA stands.")
    m.establish(sa)
    own = Authentication(SHARED_KEY, _by_key(sa, accepted.key, eap.own, by_initiator=False))
    return (own, *mobike_agreed(m, sa, eap.request), *child.first_requested(m, sa, eap.request))


def why_ended(sa: IkeSa) -> str | None:
    """Say why an IKE SA at the responder is over once a failure of EAP is told; None where there was none."""
    return "this end refused the caller's EAP" if sa.eap_called and isinstance(sa.eap_called.judged, Refused) else None
