"""What both ends do about IKE_INTERMEDIATE and INITIAL_CONTACT (RFC 9242 section 3.3, RFC 7296 section 2.4)."""

from __future__ import annotations

from pontifex.core.ike.ike_sa import IkeSa, Phase
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import HEADER_OCTETS, Header
from pontifex.core.ike.payloads import PayloadType

_PAYLOAD_HEADER = 4


def intermediate(sa: IkeSa, header: Header, first: int, plain: bytes, *, own: bool) -> bytes:
    """Return IntAuth after one more message of IKE_INTERMEDIATE, as if it had gone whole (RFC 9242 section 3.3.2)."""
    assert sa.suite and sa.keys  # noqa: PT018 -- it is keyed
    by_initiator = header.from_initiator
    inside = _PAYLOAD_HEADER + len(plain)
    head = header.written(PayloadType.SK, HEADER_OCTETS + inside) + bytes((first, 0)) + inside.to_bytes(2)
    before = sa.between_own if own else sa.between_far
    return sa.suite.prf.mac(sa.keys.proof_i if by_initiator else sa.keys.proof_r, before + head + plain)


def between(sa: IkeSa, message_id: int) -> bytes:
    """Return what IKE_INTERMEDIATE adds to the octets that AUTH protects; nothing where there was none."""
    if not sa.between_own:
        return b""
    both = (sa.between_own, sa.between_far) if sa.initiated else (sa.between_far, sa.between_own)
    return b"".join(both) + message_id.to_bytes(4)


def is_initial_contact(m: Machine, sa: IkeSa) -> bool:
    """Whether this is the only IKE SA that the end knows of."""
    return not any(other.phase is Phase.ESTABLISHED for other in m.sas.values() if other is not sa)
