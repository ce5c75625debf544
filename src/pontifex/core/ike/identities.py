"""Identities as they are sent and compared, with what is expected and with a certificate (RFC 7296 section 3.5, RFC 4945)."""

from __future__ import annotations

from typing import Final

from pontifex.core.addressing import AddressError, Family, parse_address
from pontifex.core.certificates import Certificate, NameKind
from pontifex.core.ike.payloads import Identification, PayloadType
from pontifex.core.ike.payloads.identification import IdentificationType
from pontifex.core.kinds import Identity, IdentityType
from pontifex.core.kinds.identity import distinguished

_NUMBERS: Final[dict[IdentityType, int]] = {
    type_: IdentificationType[type_.name] for type_ in IdentityType if type_ is not IdentityType.ANY
}
_NAME_KINDS: Final[dict[int, NameKind]] = {  # RFC 4945 section 3.1
    IdentificationType.IPV4_ADDR: NameKind.IP,
    IdentificationType.IPV6_ADDR: NameKind.IP,
    IdentificationType.FQDN: NameKind.DNS,
    IdentificationType.RFC822_ADDR: NameKind.EMAIL,
}
_FAMILIES: Final = {IdentityType.IPV4_ADDR: Family.V4, IdentityType.IPV6_ADDR: Family.V6}
_FOLDED: Final = frozenset({IdentityType.FQDN, IdentityType.RFC822_ADDR})


def identity_octets(identity: Identity | None) -> bytes | None:
    """Return the octets that are sent for an identity; None where its type has no such value."""
    if identity is None:
        return None
    if identity.type in _FAMILIES:
        octets = _address_octets(identity.value)
        return octets if octets and len(octets) == _FAMILIES[identity.type].bits // 8 else None
    if identity.type is IdentityType.DER_ASN1_DN:
        name = distinguished(identity.value)
        return name.public_bytes() if name else None
    if identity.type is IdentityType.RFC822_ADDR and "@" not in identity.value[1:-1]:
        return None
    return identity.value.encode()


def _address_octets(text: str) -> bytes | None:
    try:
        family, value = parse_address(text)
    except AddressError:
        return None
    return value.to_bytes(family.bits // 8)


def identification(type_: PayloadType, identity: Identity | None) -> Identification:
    """Return the payload for an end's own identity. One that can't be sent goes out empty."""
    kind = _NUMBERS[identity.type] if identity else _NUMBERS[IdentityType.KEY_ID]
    return Identification(type_, kind, identity_octets(identity) or b"")


def is_expected(heard: Identification, expected: Identity | None, folds_case: bool) -> bool:
    """Whether an identity is the one that an end expects: by type and octet for octet, letter case ignored where the end does."""
    if not heard.octets or expected is None:
        return False
    if expected.type is IdentityType.ANY:
        return True
    wanted = identity_octets(expected)
    if not wanted or heard.kind != _NUMBERS[expected.type]:
        return False
    if folds_case and expected.type in _FOLDED:
        return heard.octets.decode(errors="replace").casefold() == wanted.decode().casefold()
    return heard.octets == wanted


def is_certified(heard: Identification, certificate: Certificate) -> bool:
    """Whether a certificate speaks for an identity; key ids are bound by nothing in it."""
    if heard.kind == IdentificationType.DER_ASN1_DN:
        return certificate.facts.parsed.subject.public_bytes() == heard.octets
    kind = _NAME_KINDS.get(heard.kind)
    if kind is None:
        return True
    names = (name.value for name in certificate.facts.names if name.kind is kind)
    return any((_address_octets(name) if kind is NameKind.IP else name.encode()) == heard.octets for name in names)
