"""Auth, first part: whether the messages that carry proofs and additional key exchanges fit the path (RFC 7383)."""

from __future__ import annotations

from typing import Final

from cryptography.hazmat.primitives.asymmetric import rsa
from cryptography.hazmat.primitives.serialization import Encoding

from pontifex.core.addressing import Family
from pontifex.core.catalogue import Code
from pontifex.core.certificates import Certificate
from pontifex.core.ipsec import Agreement
from pontifex.core.kinds import SIDES, AuthMethod, Side
from pontifex.core.matching.inner import USUAL_MTU
from pontifex.core.matching.proposals import IKE, settled
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import auth, unknown

PIECE_OCTETS: Final = 1280  # of an IP packet with a piece, whatever the family
_HEADERS: Final = 28 + 4 + 28 + 4  # IPv4 and UDP, no ESP; IKE, Encrypted payload (RFC 7296 sections 3.1 and 3.14)
_SEAL: Final = 32  # initialization vector, padding and integrity value
_PAYLOAD: Final = 5  # generic header and the kind of what follows, of a certificate or a request for one
_HASH: Final = 20  # by which an authority is asked for
_BY_KEY: Final = 40  # AUTH by a shared key
_SIGNED: Final = {"Ed25519": 80, "Ed448": 130}
_BY_CURVE: Final = 90
_TRANSFORM: Final = 10
_SELECTOR: Final = {Family.V4: 16, Family.V6: 40}
_ALWAYS: Final = _HEADERS + _SEAL + 16  # with notifications and what precedes an identity
_PUBLIC_VALUE: Final = {35: 800, 36: 1184, 37: 1568}  # ML-KEM-512, -768 and -1024 (FIPS 203, table 3)


def judge_fragmentation(ends: TunnelEnds) -> Judgement:
    """Compare the largest message with the path: where it doesn't fit, both ends cut it, or IP does and its pieces pass."""
    largest = max(_key_exchange(ends), _proof(ends, Side.LEFT), _proof(ends, Side.RIGHT))
    uplinks = [uplink for side in SIDES if (uplink := ends.uplink(side))]
    path = min([uplink.mtu or USUAL_MTU for uplink in uplinks], default=USUAL_MTU)
    if largest <= path:
        return Judgement(Verdict.AGREED, auth.MessagesFit(largest))
    if all(uplink.fragments_pass for uplink in uplinks):
        return Judgement(Verdict.AGREED, auth.MessagesGoInFragments(largest))
    cuts = {side: ends.end(side).fragmentation for side in SIDES}
    whole = tuple(side for side in SIDES if cuts[side] is False)
    if whole:
        return Judgement(
            Verdict.DIFFERS,
            auth.MessagesTooLarge(largest, whole),
            Code.AUTH_TOO_LARGE,
            lambda ends: [ends.set_same("Let both ends cut their messages", fragmentation=True)],
        )
    missing = tuple(side for side in SIDES if cuts[side] is None)
    if missing:
        return Judgement(Verdict.UNKNOWN, unknown.FieldNotKnown(missing))
    if path < PIECE_OCTETS:
        return Judgement(Verdict.DIFFERS, auth.PiecesTooLarge(path), Code.AUTH_TOO_LARGE)
    return Judgement(Verdict.AGREED, auth.MessagesCut(largest))


def _key_exchange(ends: TunnelEnds) -> int:
    """Return the octets of the largest message of IKE_INTERMEDIATE (RFC 9370); 0 where there is none."""
    outcome = settled(ends, IKE[ends.left.technology])
    if not isinstance(outcome, Agreement) or not outcome.additional:
        return 0
    largest = max(_PUBLIC_VALUE.get(transform.id, 0) for transform in outcome.additional)
    return largest and _HEADERS + _SEAL + 8 + largest


def _proof(ends: TunnelEnds, side: Side) -> int:
    """Return about how many octets an end's message of IKE_AUTH has."""
    end = ends.end(side)
    identity = end.local_identity
    octets = _ALWAYS + (len(identity.value) if identity else 0)
    if end.local_auth is AuthMethod.CERTIFICATE and end.certificates:
        octets += sum(_PAYLOAD + len(certificate.facts.parsed.public_bytes(Encoding.DER)) for certificate in end.certificates)
        octets += _signature(end.certificates[0])
    else:
        octets += _BY_KEY
    if end.remote_auth is AuthMethod.CERTIFICATE and ends.calls(side):
        octets += _PAYLOAD + _HASH * len(end.trust_anchors)
    octets += sum([12 + _TRANSFORM * len(proposal.transforms) for proposal in end.child_proposals])
    return octets + sum([_SELECTOR[selector.family] for selector in (*end.local_networks, *end.remote_networks)])


def _signature(certificate: Certificate) -> int:
    """Return the octets of AUTH by the key of a certificate."""
    key = certificate.facts.parsed.public_key()
    if isinstance(key, rsa.RSAPublicKey):
        return key.key_size // 8 + 24
    return _SIGNED.get(certificate.facts.key, _BY_CURVE)
