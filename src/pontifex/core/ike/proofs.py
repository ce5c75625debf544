"""The proof of who an end is: AUTH by a shared key or by a signature (RFC 7296 section 2.15, RFC 7427, RFC 9242 section 3.3)."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from typing import Final

from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat

from pontifex.core.certificates import BrokenChain, Certificate, chain_to
from pontifex.core.ike.identities import is_certified, is_expected
from pontifex.core.ike.message import Message
from pontifex.core.ike.payloads import Authentication, CertificatePayload, CertificateRequest, Identification, Payload
from pontifex.core.ike.payloads.authentication import DIGITAL_SIGNATURE, SHARED_KEY
from pontifex.core.ike.settings import EndSettings
from pontifex.core.ike.signatures import is_signed_by, signed
from pontifex.core.ike.suite.macs import Prf
from pontifex.core.kinds import AuthMethod

_PAD: Final = b"Key Pad for IKEv2"


def proved_octets(prf: Prf, proof_key: bytes, first: bytes, nonce: bytes, identity: Identification, between: bytes) -> bytes:
    """Return what AUTH protects: an end's first message, the other's nonce, its own identity and what went between."""
    return first + nonce + prf.mac(proof_key, identity.body()) + between


def own_proof(settings: EndSettings, prf: Prf, octets: bytes) -> Iterable[Payload]:
    """Yield the end's certificates, where it has any, and its AUTH payload."""
    if settings.method is AuthMethod.CERTIFICATE and settings.proof.key:
        for certificate in settings.proof.certificates:
            yield CertificatePayload(certificate.facts.parsed.public_bytes(Encoding.DER))
        yield Authentication(DIGITAL_SIGNATURE, signed(settings.proof.key, octets))
    elif settings.method is AuthMethod.PRE_SHARED_KEY:
        yield Authentication(SHARED_KEY, by_secret(prf, settings.proof.secret, octets))


def by_secret(prf: Prf, secret: bytes, octets: bytes) -> bytes:
    """Return the proof by a secret that both ends have (RFC 7296 section 2.15)."""
    return prf.mac(prf.mac(secret, _PAD), octets)


def requested(settings: EndSettings) -> Iterable[Payload]:
    """Yield which authorities the end trusts, where it expects a certificate."""
    if settings.expected_method is AuthMethod.CERTIFICATE and settings.trust_anchors:
        yield CertificateRequest(tuple(_key_hash(anchor) for anchor in settings.trust_anchors))


def _key_hash(certificate: Certificate) -> bytes:
    """Return SHA-1 of an authority's public key info (section 3.7)."""
    info = certificate.facts.parsed.public_key().public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo)
    return hashlib.sha1(info, usedforsecurity=False).digest()


def why_refused(
    settings: EndSettings, prf: Prf, octets: bytes, identity: Identification, message: Message, now: float
) -> str | None:
    """Say why an end refuses the proof of the other one; None where it accepts it. `octets` are what the proof is about."""
    if not is_expected(identity, settings.expected, settings.folds_case):
        return "the identity isn't the expected one"
    proof = message.first(Authentication)
    if settings.expected_method is AuthMethod.EAP:
        return "EAP is expected, and another proof came" if proof else None
    if proof is None:
        return "it brings no proof"
    if settings.expected_method is AuthMethod.PRE_SHARED_KEY:
        if proof.method != SHARED_KEY:
            return "a pre-shared key is expected, and something else came"
        fits = proof.octets == by_secret(prf, settings.proof.secret, octets)
        return None if fits else "the proof doesn't fit the pre-shared key"
    if proof.method != DIGITAL_SIGNATURE:
        return "a signature is expected, and something else came"
    return _why_certificate_refused(settings, octets, identity, message, now)


def _why_certificate_refused(
    settings: EndSettings, octets: bytes, identity: Identification, message: Message, now: float
) -> str | None:
    sent = tuple(_certificates(message))
    refused = why_chain_refused(settings, identity, sent, now=now)
    if refused:
        return refused
    signed_well = is_signed_by(sent[0].facts.parsed.public_key(), octets, message.needed(Authentication).octets)
    return None if signed_well else "the signature doesn't fit the certificate"


def why_chain_refused(settings: EndSettings, identity: Identification, sent: Sequence[Certificate], *, now: float) -> str | None:
    """Say why an end doesn't accept the certificates that another one shows for an identity; None where it does."""
    if not sent:
        return "no certificate came"
    chain = chain_to(settings.trust_anchors, sent)
    if isinstance(chain, BrokenChain):
        return f"no chain leads from the certificate to a trust anchor: '{chain.lacking}' {chain.fault.value}"
    today = settings.today(now)
    for link in chain.links:
        if not link.facts.not_before <= today <= link.facts.not_after:
            return f"the certificate of '{link.facts.subject}' isn't valid today"
    if not is_certified(identity, sent[0]):
        return "the certificate doesn't speak for the identity"
    return None


def _certificates(message: Message) -> Iterable[Certificate]:
    for payload in message.all(CertificatePayload):
        try:
            parsed = x509.load_der_x509_certificate(payload.octets)
            yield Certificate(pem=parsed.public_bytes(Encoding.PEM).decode())
        except ValueError:
            continue
