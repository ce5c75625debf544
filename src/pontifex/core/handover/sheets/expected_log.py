"""What the log of a device says when a tunnel comes up, in the terms of the standards."""

from __future__ import annotations

from typing import Final

from pontifex.core.kinds import Side, Technology
from pontifex.core.matching import TunnelEnds

# what is read in the log of either end, in its order; {far} is the identity that the other end must prove
_EXPECTED: Final = {
    Technology.IPSEC_IKEV2: (
        "IKE_SA_INIT: request and answer, one proposal chosen. NO_PROPOSAL_CHOSEN here: the IKE proposals don't fit.",
        "IKE_AUTH: the other end is authenticated as {far}. AUTHENTICATION_FAILED here: key, method or identity.",
        "Child SA installed with both networks. TS_UNACCEPTABLE here: the networks; NO_PROPOSAL_CHOSEN: the ESP proposals.",
        "Nothing more until the first rekey; a CREATE_CHILD_SA at the lifetime, less the margin.",
    ),
    Technology.IPSEC_IKEV1: (
        "Phase 1: ISAKMP SA established with {far}.",
        "Phase 2 (Quick Mode): IPsec SA established with both networks.",
    ),
    Technology.TLS: (
        "TLS handshake done; certificate of the other end accepted, account accepted where one is used.",
        "Networks pushed or entered; the tunnel's interface is up.",
    ),
    Technology.PEER_KEY: ("Handshake with the peer's public key, not older than a few minutes while traffic flows.",),
    Technology.CLOUD_PEERING: ("State active at both sides; pending means that nobody has accepted the request yet.",),
}


def expected_log(ends: TunnelEnds, side: Side) -> tuple[str, ...]:
    """Return what the log of an end must say, line by line."""
    end = ends.end(side)
    expected = str(end.remote_identity) if end.remote_identity else "the identity that it is expected to have"
    return tuple(line.format(far=expected) for line in _EXPECTED[end.technology])
