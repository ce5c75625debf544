"""Auth: how each end proves itself, who it says it is, keys, certificates and accounts."""

from __future__ import annotations

from datetime import date

from pontifex.core.certificates import AlternativeName, ChainFault
from pontifex.core.choice import Choice
from pontifex.core.ipsec.preshared_key import KeyEdge
from pontifex.core.kinds import AccountKind, AuthMethod, EapMethod, Identity, IdentityType, Side
from pontifex.core.reasons.reason import Reason


class ProofsDiffer(Reason, text="{side} gives {given}, {side:far} expects {expected}"):
    side: Side
    given: ProofNamed
    expected: ProofNamed


class ProofAgreed(Reason, text="{proof} is given and expected"):
    proof: ProofNamed


class ProofNamed(Reason, text="{article}{method}"):
    article: str
    method: AuthMethod

    @classmethod
    def of(cls, method: AuthMethod) -> ProofNamed:
        """Return the proof by a method."""
        return cls("" if method is AuthMethod.EAP else "a ", method)


class OnlyCallersUseEap(Reason, text="only an end that calls can use EAP, and {side} doesn't"):
    side: Side


class EapNeedsCertificate(Reason, text="with EAP at {side}, {side:far} must prove itself by a certificate"):
    side: Side


class EapMethodsDiffer(Reason, text="{left} and {right}"):
    left: EapMethod
    right: EapMethod


class EapMethodAgreed(Reason, text="both have {method}"):
    method: EapMethod


class NoAccounts(Reason, text="neither end has one; the certificates alone prove both"):
    pass


class AccountNamesDiffer(Reason, text="{side} uses the account '{used}', {side:far} has made '{made}'"):
    side: Side
    used: str
    made: str


class AccountDisabled(Reason, text="the account '{account}' is disabled at {side}"):
    account: str
    side: Side


class AccountUse(Choice):
    """For whom an account is made, in words."""

    PERSON = "people"
    ADMINISTRATION = "administering the device"
    TUNNEL = "tunnels"

    @classmethod
    def of(cls, kind: AccountKind) -> AccountUse:
        """Return the use of a kind of account."""
        return cls[kind.name]


class AccountOfWrongKind(Reason, text="the account '{account}' at {side} is for {use}, not for a gateway that calls"):
    account: str
    side: Side
    use: AccountUse


class AccountAgreed(Reason, text="both have '{account}' with the same secret"):
    account: str


class AccountTwice(
    Reason, text="{side} calls with the account '{account}', and so does the caller of {others}: the hub keeps one at a time"
):
    side: Side
    account: str
    others: str


# Keys


class EdgeAt(Reason, text="a {edge} at {side}"):
    edge: KeyEdge
    side: Side


class DifferByEdges(Reason, text=" only by {edges:and}"):
    edges: tuple[EdgeAt, ...]


class DifferByCase(Reason, text=" only by case"):
    pass


class DifferInLength(Reason, text=" ({left_end}'s has {left} characters, {right_end}'s {right})"):
    left_end: Side
    left: int
    right_end: Side
    right: int


KeysDifference = DifferByEdges | DifferByCase | DifferInLength | None


class KeysDiffer(Reason, text="the keys differ{by}"):
    by: KeysDifference


class ControlKeysDiffer(Reason, text="the control keys differ{by}"):
    by: KeysDifference


class SecretsDiffer(Reason, text="the secrets of '{account}' differ{by}"):
    account: str
    by: KeysDifference


class KeysAgreed(Reason, text="both have the key {fingerprint}"):
    fingerprint: str


class ControlKeyAlone(Reason, text="only {side} has a control key, so it drops every message of the other end in silence"):
    side: Side


class NoControlKeys(Reason, text="neither end has one"):
    pass


class PublicKeyAgreed(Reason, text="both have the same key"):
    pass


class OwnPublicKey(Reason, text="{side:far} has its own public key as that of {side}"):
    side: Side


class PublicKeysDiffer(Reason, text="{side:far} has another key for {side} ({theirs}… for {own}…)"):
    side: Side
    theirs: str
    own: str


class OneKeyPair(Reason, text="both ends have the same key pair; it was copied with the configuration"):
    pass


class OwnKeyPairs(Reason, text="each end has a key pair of its own"):
    pass


class KeyPairsNotKnown(Reason, text="not known at both ends"):
    pass


class KeyPairTwice(Reason, text="{side} has the key pair of the caller of {others}: answers go to whoever has called last"):
    side: Side
    others: str


# Identities


class SendsNoIdentity(Reason, text="{side} sends no identity: its own is not set"):
    side: Side


class IdentityAgreed(Reason, text="both have the same type and value"):
    pass


class IdentitySameMeaning(Reason, text="both mean the same, though it is written differently"):
    pass


class IdentityEmpty(Reason, text="{side}'s own identity is empty"):
    side: Side


class ExpectsEmptyIdentity(Reason, text="{side} expects an empty identity"):
    side: Side


class IdentityFault(Choice):
    """What a value lacks to be an identity of its type (RFC 7296 section 3.5)."""

    OTHER_FAMILY = "is of the other address family"
    NO_ADDRESS = "is no address"
    NO_NAME = "is no distinguished name (RFC 4514), such as 'CN=gate,O=Skerry Line'"
    NO_MAIL = "has no '@' as an address of mail has"


class IdentityInvalid(Reason, text="{side} has '{value}' as {type}, which {fault}"):
    side: Side
    value: str
    type: IdentityType
    fault: IdentityFault


class AcceptsAnyIdentity(Reason, text="{side} accepts any identity"):
    side: Side


class DifferInType(Reason, text="in type ({sent} and {expected})"):
    sent: IdentityType
    expected: IdentityType


class DifferByBlank(Reason, text="by a blank at the edge ('{sent}' and '{expected}')"):
    sent: str
    expected: str


class DifferInCase(Reason, text="in case ({sent} and {expected})"):
    sent: str
    expected: str


class DifferByLetter(Reason, text="and one holds a letter from outside ASCII ({letter})"):
    letter: str


class DifferWholly(Reason, text="({sent} and {expected})"):
    sent: str
    expected: str


class IdentitiesDiffer(Reason, text="{side}'s identities differ {how}"):
    side: Side
    how: DifferInType | DifferByBlank | DifferInCase | DifferByLetter | DifferWholly


class IdentityTwice(
    Reason, text="{side} is {identity} to {side:far}, and so is the caller of {others}: whoever calls puts the other out"
):
    side: Side
    identity: Identity
    others: str


# Certificates


class ChainBroken(Reason, text="{side:far} can't trust {side}: '{subject}' {fault}"):
    side: Side
    subject: str
    fault: ChainFault


class CertificateExpired(Reason, text="'{subject}' ran out on {day}"):
    subject: str
    day: date


class CertificateNotYetValid(Reason, text="'{subject}' is not valid before {day}"):
    subject: str
    day: date


class SpeaksForOthers(Reason, text="{side} says it is {identity}, but its certificate speaks for {names}"):
    side: Side
    identity: Identity
    names: tuple[AlternativeName, ...]


class SpeaksForSubject(Reason, text="{side} says it is {identity}, but its certificate speaks for subject {subject}"):
    side: Side
    identity: Identity
    subject: str


class CertificateRunsOut(Reason, text="'{subject}' runs out on {day}"):
    subject: str
    day: date


class ChainHolds(Reason, text="the chain leads to '{anchor}', and holds until {day}"):
    anchor: str
    day: date


class MessagesFit(Reason, text="the largest message has about {octets} octets, and fits"):
    octets: int


class MessagesCut(Reason, text="the largest message has about {octets} octets: both ends cut it"):
    octets: int


class MessagesGoInFragments(Reason, text="the largest message has about {octets} octets: it goes in fragments of IP, which pass"):
    octets: int


class MessagesTooLarge(
    Reason,
    text="the largest message has about {octets} octets, {sides:and} {sides:doesn't|don't} cut it, and IP's fragments don't pass",
):
    octets: int
    sides: tuple[Side, ...]


class PiecesTooLarge(
    Reason, text="even in pieces, messages are larger than the {most} octets of the path, and fragments of IP don't pass"
):
    most: int
