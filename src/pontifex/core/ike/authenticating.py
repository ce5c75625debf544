"""What the ends do in IKE_AUTH however they prove themselves: IntAuth, INITIAL_CONTACT, and what follows from the proof.

Sources: RFC 9242 section 3.3, RFC 7296 sections 2.4 and 2.8.3.
"""

from __future__ import annotations

from collections.abc import Iterable

from pontifex.core.ike import child
from pontifex.core.ike.ike_sa import DueRequest, IkeSa, IkeSaState
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import HEADER_OCTETS, Header, Message
from pontifex.core.ike.payloads import Notify, NotifyType, Payload, PayloadType

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
    return not any(other.phase is IkeSaState.ESTABLISHED for other in m.sas.values() if other is not sa)


def finish_initiator(m: Machine, sa: IkeSa, message: Message) -> None:
    """Let the IKE SA stand at the initiator, with the Child SA that the last answer brings; in place of the one before it."""
    m.log("Both ends have proved themselves: the IKE SA stands.")
    m.establish(sa)
    sa.mobike = m.settings.mobike and message.notified(NotifyType.MOBIKE_SUPPORTED) is not None
    child.first_answered(m, sa, message)
    for other in m.sas.values():
        if other is not sa and other.phase is IkeSaState.ESTABLISHED and m.settings.reauthenticate:
            other.waiting.append((DueRequest.DELETE_IKE, b""))  # the new one takes its place (section 2.8.3)


def forget_others(m: Machine, sa: IkeSa) -> None:
    """The caller has no other IKE SA: what this end has of the same identity is left over (RFC 7296 section 2.4)."""
    if not m.settings.forgets_others:
        return
    for other in list(m.sas.values()):
        if other is not sa and other.far_identity == sa.far_identity and other.phase is not IkeSaState.KEYED:
            m.end(other, "the caller says that it has no other")


def mobike_agreed(m: Machine, sa: IkeSa, request: Message) -> Iterable[Payload]:
    """Take note at the responder that both ends can move, and yield what says so (RFC 4555 section 3.1)."""
    sa.mobike = m.settings.mobike and request.notified(NotifyType.MOBIKE_SUPPORTED) is not None
    if sa.mobike:
        yield Notify(NotifyType.MOBIKE_SUPPORTED)
