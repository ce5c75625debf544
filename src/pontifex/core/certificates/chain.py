"""The chain from a certificate to a trust anchor that the other end has (RFC 5280 section 6.1)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from cryptography import x509
from cryptography.exceptions import InvalidSignature, UnsupportedAlgorithm

from pontifex.core.certificates.certificate import Certificate
from pontifex.core.choice import Choice


@dataclass(frozen=True, slots=True)
class Chain:
    """The certificates from the end's own to the anchor, both included."""

    links: tuple[Certificate, ...]


class ChainFault(Choice):
    """What keeps a chain from an anchor, said of the issuer that is lacking."""

    SELF_SIGNED = "signed itself and is none of the trust anchors"
    NO_AUTHORITY = "is not a certification authority"
    OTHER_KEY = "is known, but its key did not sign the certificate below it"
    LACKING = "issued it, and is neither sent along nor a trust anchor"


@dataclass(frozen=True, slots=True)
class BrokenChain:
    """Why no chain leads to an anchor."""

    fault: ChainFault
    lacking: str  # subject of the issuer that is lacking


def chain_to(anchors: Iterable[Certificate], sent: Sequence[Certificate]) -> Chain | BrokenChain:
    """Look for the chain from the first of the certificates that an end sends to an anchor of the other end.

    Signatures and authority are checked here; validity in time is the caller's, who knows the day.
    """
    known = tuple(anchors)
    links = [sent[0]]
    while True:
        if any(anchor.pem == links[-1].pem for anchor in known):
            return Chain(tuple(links))
        anchor = next((certificate for certificate in known if _issued(certificate, links[-1])), None)
        if anchor:
            return Chain((*links, anchor))
        issuer = next(
            (certificate for certificate in sent[1:] if certificate not in links and _issued(certificate, links[-1])), None
        )
        if issuer is None:
            return _broken(links[-1], known, sent)
        links.append(issuer)


def _issued(issuer: Certificate, subject: Certificate) -> bool:
    """Whether an authority has signed a certificate."""
    if not issuer.facts.is_authority or issuer.facts.subject != subject.facts.issuer:
        return False
    return _is_signed(subject.facts.parsed, issuer.facts.parsed)


@lru_cache(maxsize=1024)
def _is_signed(subject: x509.Certificate, issuer: x509.Certificate) -> bool:
    """Whether a certificate has the signature of an issuer: a day or a lifetime that changes makes no difference to it."""
    try:
        subject.verify_directly_issued_by(issuer)
    except (ValueError, TypeError, InvalidSignature, UnsupportedAlgorithm):
        return False
    return True


def _broken(last: Certificate, known: Iterable[Certificate], sent: Sequence[Certificate]) -> BrokenChain:
    wanted = last.facts.issuer
    if wanted == last.facts.subject:
        return BrokenChain(ChainFault.SELF_SIGNED, wanted)
    namesakes = [certificate for certificate in (*known, *sent[1:]) if certificate.facts.subject == wanted]
    if any(not namesake.facts.is_authority for namesake in namesakes):
        return BrokenChain(ChainFault.NO_AUTHORITY, wanted)
    return BrokenChain(ChainFault.OTHER_KEY if namesakes else ChainFault.LACKING, wanted)
