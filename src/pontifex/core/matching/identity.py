"""Auth, first part: what each end says it is against what the other expects (RFC 7296 sections 2.15 and 3.5)."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from typing import Final

from cryptography import x509

from pontifex.core.addressing import Address, AddressError, Family, parse_address
from pontifex.core.catalogue import Code
from pontifex.core.kinds import Identity, IdentityType, Side, SiteKind
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored


def judge_identity(pair: TunnelEnds, side: Side) -> Judgement:
    """Compare the identity that an end sends with the one that the other expects."""
    sent, expected = pair.end(side).local_identity, pair.end(side.other).remote_identity
    fields = mirrored(side, "local_identity", "remote_identity")
    name, far = pair.names[side], pair.names[side.other]

    if sent is None and _is_forgotten(pair, side):
        mendable = expected and expected.value and not _malformed(expected)
        remedies = (pair.copy_to(side, f"{name}'s identity", *fields),) if mendable else ()
        return Judgement(Verdict.DIFFERS, f"{name} sends no identity: its own is not set", Code.END_IDENTITY_EMPTY, remedies)
    if sent is None or expected is None:
        who = name if sent is None else far
        return Judgement(Verdict.UNKNOWN, f"what {who} {'says' if sent is None else 'expects'} is not known yet")
    takes_any = expected.type is IdentityType.ANY
    if sent == expected and sent.value and not _malformed(sent):
        return Judgement(Verdict.AGREED, "both have the same type and value")
    what = f"{name}'s identity"
    for end, given, reason in (
        (side, sent, f"{name}'s own identity is empty"),
        (side.other, expected, f"{far} expects an empty identity"),
    ):
        if not given.value and given.type is not IdentityType.ANY:
            other = expected if end is side else sent
            mendable = other.value and not takes_any and not _malformed(other)  # else there is nothing to copy
            return Judgement(
                Verdict.DIFFERS, reason, Code.END_IDENTITY_EMPTY, (pair.copy_to(end, what, *fields),) if mendable else ()
            )
    for end, given in ((side, sent), (side.other, expected)):
        fault = _malformed(given)
        if fault:
            other = expected if end is side else sent
            mendable = other.value and not takes_any and not _malformed(other)
            reason = f"{pair.names[end]} has '{given.value}' as {given.type.value}, which {fault}"
            return Judgement(
                Verdict.DIFFERS, reason, Code.END_IDENTITY_INVALID, (pair.copy_to(end, what, *fields),) if mendable else ()
            )
    if takes_any:
        return Judgement(Verdict.AGREED, f"{far} accepts any identity")
    folds = pair.gateway(side.other).folds_case
    if sent.type is expected.type and _means_the_same(sent, expected, folds):
        return Judgement(Verdict.AGREED, "both mean the same, though it is written differently")
    code, clause = _difference(sent, expected)
    return Judgement(Verdict.DIFFERS, f"{name}'s identities differ {clause}", code, pair.copies(what, *fields))


def _is_forgotten(pair: TunnelEnds, side: Side) -> bool:
    """Whether an identity is lacking on a device of ours that is configured otherwise: nobody is there to be asked."""
    end = pair.end(side)
    ours = pair.design.site_of(end).kind is not SiteKind.PARTNER
    return ours and any((end.ike_proposals, end.key, end.certificates, end.account, end.remote_identity))


def _family_fault(family: Family) -> Callable[[str], str]:
    def fault(value: str) -> str:
        try:
            return "" if parse_address(value)[0] is family else "is of the other address family"
        except AddressError:
            return "is no address"

    return fault


def _name_fault(value: str) -> str:
    return "is no distinguished name (RFC 4514), such as 'CN=gate,O=Skerry Line'" if distinguished(value) is None else ""


def _mail_fault(value: str) -> str:
    return "" if "@" in value[1:-1] else "has no '@' as an address of mail has"


_FAULTS: Final[dict[IdentityType, Callable[[str], str]]] = {  # what the types of RFC 7296 section 3.5 ask of a value
    IdentityType.IPV4_ADDR: _family_fault(Family.V4),
    IdentityType.IPV6_ADDR: _family_fault(Family.V6),
    IdentityType.RFC822_ADDR: _mail_fault,
    IdentityType.DER_ASN1_DN: _name_fault,
}


def _malformed(identity: Identity) -> str:
    """Say what is wrong with a value of its type; empty when nothing is."""
    check = _FAULTS.get(identity.type)
    return check(identity.value) if check else ""


def distinguished(value: str) -> x509.Name | None:
    """Read a distinguished name of RFC 4514; None when it is none."""
    try:
        return x509.Name.from_rfc4514_string(value.replace(", ", ","))
    except ValueError:
        return None


def _means_the_same(sent: Identity, expected: Identity, folds_case: bool) -> bool:
    """Compare by meaning where the type has one; names without regard to case where the device that expects them ignores it."""
    if sent.type in (IdentityType.IPV4_ADDR, IdentityType.IPV6_ADDR):
        return Address(*parse_address(sent.value)) == Address(*parse_address(expected.value))
    if sent.type is IdentityType.DER_ASN1_DN:
        return distinguished(sent.value) == distinguished(expected.value)
    named = sent.type in (IdentityType.FQDN, IdentityType.RFC822_ADDR)
    return named and folds_case and sent.value.casefold() == expected.value.casefold()


def _difference(sent: Identity, expected: Identity) -> tuple[Code, str]:
    """Return the code and how two identities differ, the least visible difference named as such."""
    if sent.type is not expected.type:
        return Code.END_IDENTITY_TYPE, f"in type ({sent.type.value} and {expected.type.value})"
    if sent.value.strip() == expected.value.strip():
        return Code.END_IDENTITY_BLANK, f"by a blank at the edge ('{sent.value}' and '{expected.value}')"
    if sent.value.casefold() == expected.value.casefold():
        return Code.END_IDENTITY_CASE, f"in case ({sent.value} and {expected.value})"
    foreign = [letter for letter in sent.value + expected.value if not letter.isascii()]
    if foreign:
        letter = unicodedata.name(foreign[0], "an unnamed character").lower()
        return Code.END_IDENTITY_HOMOGRAPH, f"and one holds a letter from outside ASCII ({letter})"
    return Code.END_IDENTITY_DIFFERS, f"({sent.value} and {expected.value})"
