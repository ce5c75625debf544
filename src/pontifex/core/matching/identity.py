"""Auth, first part: what each end says it is against what the other expects (RFC 7296 sections 2.15 and 3.5)."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from typing import Final

from pontifex.core.addressing import Address, AddressError, Family, parse_address
from pontifex.core.catalogue import Code
from pontifex.core.kinds import Identity, IdentityType, Side, SiteKind
from pontifex.core.kinds.identity import distinguished
from pontifex.core.matching.row import Judgement, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored
from pontifex.core.reasons import auth, unknown

_Fault = auth.IdentityFault
_How = auth.DifferInType | auth.DifferByBlank | auth.DifferInCase | auth.DifferByLetter | auth.DifferWholly


_AGREED: Final = Judgement(Verdict.AGREED, auth.IdentityAgreed())


def judge_identity(ends: TunnelEnds, side: Side) -> Judgement:
    """Compare the identity that an end sends with the one that the other expects."""
    sent, expected = ends.end(side).local_identity, ends.end(side.other).remote_identity
    if sent is None or expected is None:
        return _unknown(ends, side, sent, expected)
    takes_any = expected.type is IdentityType.ANY
    if sent == expected and sent.value and not _malformed(sent):
        return _AGREED
    for end, given, reason in (
        (side, sent, auth.IdentityEmpty(side)),
        (side.other, expected, auth.ExpectsEmptyIdentity(side.other)),
    ):
        if not given.value and given.type is not IdentityType.ANY:
            other = expected if end is side else sent
            mendable = other.value and not takes_any and not _malformed(other)  # else there is nothing to copy
            return Judgement(Verdict.DIFFERS, reason, Code.END_IDENTITY_EMPTY, _copied(side, end) if mendable else None)
    for end, given in ((side, sent), (side.other, expected)):
        fault = _malformed(given)
        if fault:
            other = expected if end is side else sent
            mendable = other.value and not takes_any and not _malformed(other)
            invalid = auth.IdentityInvalid(end, given.value, given.type, fault)
            return Judgement(Verdict.DIFFERS, invalid, Code.END_IDENTITY_INVALID, _copied(side, end) if mendable else None)
    if takes_any:
        return Judgement(Verdict.AGREED, auth.AcceptsAnyIdentity(side.other))
    folds = ends.gateway(side.other).folds_case
    if sent.type is expected.type and _means_the_same(sent, expected, folds):
        return Judgement(Verdict.AGREED, auth.IdentitySameMeaning())
    code, how = _difference(sent, expected)
    return Judgement(
        Verdict.DIFFERS,
        auth.IdentitiesDiffer(side, how),
        code,
        lambda ends: ends.copies(f"{ends.names[side]}'s identity", *_fields(side)),
    )


def _fields(side: Side) -> tuple[str, str]:
    return mirrored(side, "local_identity", "remote_identity")


def _copied(side: Side, to: Side) -> RowRemedies:
    """Make what one end has for a side's identity like what the other has."""
    return lambda ends: [ends.copy_to(to, f"{ends.names[side]}'s identity", *_fields(side))]


def _unknown(ends: TunnelEnds, side: Side, sent: Identity | None, expected: Identity | None) -> Judgement:
    """Judge an identity of which one end at least has nothing."""
    if sent is None and _is_forgotten(ends, side):
        mendable = expected and expected.value and not _malformed(expected)
        copied = _copied(side, side) if mendable else None
        return Judgement(Verdict.DIFFERS, auth.SendsNoIdentity(side), Code.END_IDENTITY_EMPTY, copied)
    if sent is None:
        return Judgement(Verdict.UNKNOWN, unknown.IdentityNotKnown(side))
    return Judgement(Verdict.UNKNOWN, unknown.ExpectedIdentityNotKnown(side.other))


def _is_forgotten(ends: TunnelEnds, side: Side) -> bool:
    """Whether an identity is lacking on a device of ours that is configured otherwise: nobody is there to be asked."""
    end = ends.end(side)
    ours = ends.design.site_of(end).kind is not SiteKind.PARTNER
    return ours and any((end.ike_proposals, end.key, end.certificates, end.account, end.remote_identity))


def _family_fault(family: Family) -> Callable[[str], _Fault | None]:
    def fault(value: str) -> _Fault | None:
        try:
            return None if parse_address(value)[0] is family else _Fault.OTHER_FAMILY
        except AddressError:
            return _Fault.NO_ADDRESS

    return fault


def _name_fault(value: str) -> _Fault | None:
    return _Fault.NO_NAME if distinguished(value) is None else None


def _mail_fault(value: str) -> _Fault | None:
    return None if "@" in value[1:-1] else _Fault.NO_MAIL


_FAULTS: Final[dict[IdentityType, Callable[[str], _Fault | None]]] = {  # what the types of RFC 7296 section 3.5 ask of a value
    IdentityType.IPV4_ADDR: _family_fault(Family.V4),
    IdentityType.IPV6_ADDR: _family_fault(Family.V6),
    IdentityType.RFC822_ADDR: _mail_fault,
    IdentityType.DER_ASN1_DN: _name_fault,
}


def _malformed(identity: Identity) -> _Fault | None:
    """Return what is wrong with a value of its type; None when nothing is."""
    check = _FAULTS.get(identity.type)
    return check(identity.value) if check else None


def _means_the_same(sent: Identity, expected: Identity, folds_case: bool) -> bool:
    """Compare by meaning where the type has one; names without regard to case where the device that expects them ignores it."""
    if sent.type in (IdentityType.IPV4_ADDR, IdentityType.IPV6_ADDR):
        return Address(*parse_address(sent.value)) == Address(*parse_address(expected.value))
    if sent.type is IdentityType.DER_ASN1_DN:
        return distinguished(sent.value) == distinguished(expected.value)
    named = sent.type in (IdentityType.FQDN, IdentityType.RFC822_ADDR)
    return named and folds_case and sent.value.casefold() == expected.value.casefold()


def _difference(sent: Identity, expected: Identity) -> tuple[Code, _How]:
    """Return the code and how two identities differ, the least visible difference named as such."""
    if sent.type is not expected.type:
        return Code.END_IDENTITY_TYPE, auth.DifferInType(sent.type, expected.type)
    if sent.value.strip() == expected.value.strip():
        return Code.END_IDENTITY_BLANK, auth.DifferByBlank(sent.value, expected.value)
    if sent.value.casefold() == expected.value.casefold():
        return Code.END_IDENTITY_CASE, auth.DifferInCase(sent.value, expected.value)
    foreign = [letter for letter in sent.value + expected.value if not letter.isascii()]
    if foreign:
        letter = unicodedata.name(foreign[0], "an unnamed character").lower()
        return Code.END_IDENTITY_HOMOGRAPH, auth.DifferByLetter(letter)
    return Code.END_IDENTITY_DIFFERS, auth.DifferWholly(sent.value, expected.value)
