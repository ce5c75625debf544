"""Certificates as X.509 and RFC 4945 have them: what one says, whom it speaks for, and what chain leads to a trust anchor."""

from pontifex.core.certificates.certificate import AlternativeName, Certificate, CertificateFacts, NameKind, SigningKey
from pontifex.core.certificates.chain import BrokenChain, Chain, ChainFault, chain_to

__all__ = [
    "AlternativeName",
    "BrokenChain",
    "Certificate",
    "CertificateFacts",
    "Chain",
    "ChainFault",
    "NameKind",
    "SigningKey",
    "chain_to",
]
