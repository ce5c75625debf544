"""Payloads behind one another, each with the generic header that names the next (RFC 7296 section 3.2)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from struct import Struct
from typing import Final

from pontifex.core.ike.payloads.authentication import Authentication
from pontifex.core.ike.payloads.certificate import CertificatePayload, CertificateRequest
from pontifex.core.ike.payloads.configuration import Configuration
from pontifex.core.ike.payloads.delete import Delete
from pontifex.core.ike.payloads.eap import EapPayload
from pontifex.core.ike.payloads.encrypted import Encrypted, EncryptedFragment
from pontifex.core.ike.payloads.identification import Identification
from pontifex.core.ike.payloads.key_exchange import KeyExchangePayload
from pontifex.core.ike.payloads.nonce import Nonce
from pontifex.core.ike.payloads.notify import Notify
from pontifex.core.ike.payloads.payload import MalformedError, Payload, PayloadType, Unknown
from pontifex.core.ike.payloads.security_association import SecurityAssociation
from pontifex.core.ike.payloads.traffic_selectors import TrafficSelectors
from pontifex.core.ike.payloads.vendor_id import VendorId

_HEADER: Final = Struct(">BBH")  # type of the next payload, flags, length
_CRITICAL: Final = 0x80
_READERS: Final[dict[int, Callable[[bytes], Payload]]] = {
    PayloadType.SA: SecurityAssociation.read,
    PayloadType.KE: KeyExchangePayload.read,
    PayloadType.IDI: lambda body: Identification.read(PayloadType.IDI, body),
    PayloadType.IDR: lambda body: Identification.read(PayloadType.IDR, body),
    PayloadType.CERT: CertificatePayload.read,
    PayloadType.CERTREQ: CertificateRequest.read,
    PayloadType.AUTH: Authentication.read,
    PayloadType.NONCE: Nonce.read,
    PayloadType.NOTIFY: Notify.read,
    PayloadType.DELETE: Delete.read,
    PayloadType.VENDOR_ID: VendorId.read,
    PayloadType.CP: Configuration.read,
    PayloadType.EAP: EapPayload.read,
    PayloadType.TSI: lambda body: TrafficSelectors.read(PayloadType.TSI, body),
    PayloadType.TSR: lambda body: TrafficSelectors.read(PayloadType.TSR, body),
}
# nothing stands behind them, and the header names the first payload that is inside
_LAST: Final[dict[int, Callable[[int, bytes], Payload]]] = {
    PayloadType.SK: Encrypted.read,
    PayloadType.SKF: EncryptedFragment.read,
}

_SEALED: Final = (Encrypted, EncryptedFragment)


def write_payloads(payloads: Sequence[Payload]) -> tuple[int, bytes]:
    """Return the type of the first payload, 0 where there is none, and all octets.

    Behind an encrypted payload stands what is inside it: its header names the type of the first one there (section 3.14).
    """
    types = [payload.type for payload in payloads]
    written = bytearray()
    for payload, following in zip(payloads, (*types[1:], 0), strict=False):
        body = payload.body()
        inside = payload.first if isinstance(payload, _SEALED) else following
        critical = _CRITICAL if isinstance(payload, Unknown) and payload.critical else 0
        written += _HEADER.pack(inside, critical, len(body) + _HEADER.size)
        written += body
    return (types[0] if types else 0), bytes(written)


def read_payloads(first: int, octets: bytes) -> tuple[Payload, ...]:
    """Read payloads until the octets end. Raise MalformedError where they can't be parted or read."""
    payloads: list[Payload] = []
    type_, at = first, 0
    while type_:
        if len(octets) - at < _HEADER.size:
            raise MalformedError(f"payload {type_} has no whole header")
        following, flags, length = _HEADER.unpack_from(octets, at)
        if not _HEADER.size <= length <= len(octets) - at:
            raise MalformedError(f"payload {type_} says {length} octets, where {len(octets) - at} are left")
        body = octets[at + _HEADER.size : at + length]
        at += length
        if type_ in _LAST:
            payloads.append(_LAST[type_](following, body))
            break
        reader = _READERS.get(type_)
        payloads.append(reader(body) if reader else Unknown(type_, body, bool(flags & _CRITICAL)))
        type_ = following
    if at != len(octets):
        raise MalformedError(f"{len(octets) - at} octets behind the last payload")
    return tuple(payloads)
