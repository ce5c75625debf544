"""Payloads behind one another, each with the generic header that names the next (RFC 7296 section 3.2)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
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

_HEADER_OCTETS: Final = 4
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
        written += bytes((inside, critical)) + (len(body) + _HEADER_OCTETS).to_bytes(2) + body
    return (types[0] if types else 0), bytes(written)


def read_payloads(first: int, octets: bytes) -> tuple[Payload, ...]:
    """Read payloads until the octets end. Raise MalformedError where they can't be parted or read."""
    payloads: list[Payload] = []
    type_, at = first, 0
    while type_:
        header = octets[at : at + _HEADER_OCTETS]
        if len(header) < _HEADER_OCTETS:
            raise MalformedError(f"payload {type_} has no whole header")
        length = int.from_bytes(header[2:])
        if not _HEADER_OCTETS <= length <= len(octets) - at:
            raise MalformedError(f"payload {type_} says {length} octets, where {len(octets) - at} are left")
        body = octets[at + _HEADER_OCTETS : at + length]
        at += length
        if type_ in _LAST:
            payloads.append(_LAST[type_](header[0], body))
            break
        reader = _READERS.get(type_)
        payloads.append(reader(body) if reader else Unknown(type_, body, bool(header[1] & _CRITICAL)))
        type_ = header[0]
    if at != len(octets):
        raise MalformedError(f"{len(octets) - at} octets behind the last payload")
    return tuple(payloads)
