"""IPsec as the standards write it: the registry of transforms, proposals and their negotiation.

Numbers are IANA's ("Internet Key Exchange Version 2 Parameters"); rules are RFC 7296's.
"""

from pontifex.core.ipsec.negotiation import Agreement, Habit, Mismatch, Refusal, negotiate, weakest_link
from pontifex.core.ipsec.proposal import Phase, Proposal, ProposalFacts, Protocol, Transform
from pontifex.core.ipsec.registry import REGISTRY, Level, RegisteredTransform, TransformType, registered

__all__ = [
    "REGISTRY",
    "Agreement",
    "Habit",
    "Level",
    "Mismatch",
    "Phase",
    "Proposal",
    "ProposalFacts",
    "Protocol",
    "Refusal",
    "RegisteredTransform",
    "Transform",
    "TransformType",
    "negotiate",
    "registered",
    "weakest_link",
]
