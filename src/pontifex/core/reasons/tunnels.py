"""What findings say of tunnels: what is offered and refused, what weakens one, and what its own packets need."""

from __future__ import annotations

from pontifex.core.addressing import Address, Region, Selector
from pontifex.core.ipsec.policy import AlgorithmException, AlgorithmPolicy
from pontifex.core.kinds import DataCipher, Digest, EapMethod, Gateway, IdentityType, Side, Tunnel
from pontifex.core.reasons.reason import Named, Reason


class InTunnel(Reason, text="{tunnel}: {reason}"):
    tunnel: Named[Tunnel]
    reason: Reason


class RowsNotComparable(Reason, text="{count} {count:row|rows} can't be compared ({titles:some})"):
    count: int
    titles: tuple[str, ...]


class CheckFailed(Reason, text="{name}: the check of {check} ended in an error of Pontifex itself ({kind})"):
    name: str
    check: str
    kind: str


class RefusedTransform(Reason, text="{transform} ({why})"):
    transform: str
    why: str


class ProposalsHold(Reason, text="{side}'s {list} proposals hold {refused}"):
    side: Side
    list: str
    refused: tuple[RefusedTransform, ...]


class NoGroup(Reason, text="{side}'s Child SA proposal {number} has no group, which '{policy}' asks for"):
    side: Side
    number: int
    policy: Named[AlgorithmPolicy]


class LifetimeTooLong(Reason, text="{side}'s {lifetime} is {value}, and '{policy}' allows {longest}"):
    side: Side
    lifetime: str
    value: int
    policy: Named[AlgorithmPolicy]
    longest: int


class Excepted(Reason, text="{exception}"):
    exception: AlgorithmException


class AcceptsAny(Reason, text="{side} accepts any identity"):
    side: Side


class HasEapMethod(Reason, text="{side} has {method}"):
    side: Side
    method: EapMethod


class AddressAsName(Reason, text="{side} has the address {value} as a name ({type})"):
    side: Side
    value: str
    type: IdentityType


class NetworksWithin(Reason, text="{side} lists {networks} within another network"):
    side: Side
    networks: tuple[Selector, ...]


class NetworksOnBothSides(
    Reason,
    text="{side} has {networks} both as its own and as {side:far}'s; "
    "what goes there from {side} enters the tunnel, unless a policy above it says otherwise",
):
    side: Side
    networks: Region


class Because(Reason, text=": {weakness}"):
    weakness: str


class KeyWeak(Reason, text="the key {fingerprint} has a strength of about {bits} bits, {least} is the least{because}"):
    fingerprint: str
    bits: int
    least: int
    because: Because | None


class KeyReused(Reason, text="the key {fingerprint} serves {tunnels:some}"):
    fingerprint: str
    tunnels: tuple[Named[Tunnel], ...]


class CertificateKeyWeak(Reason, text="'{subject}' has a key of {bits} bits ({key})"):
    subject: str
    bits: int
    key: str


class SignedWith(Reason, text="'{subject}' is signed with {algorithm}"):
    subject: str
    algorithm: str


class SpeaksIkev1(Reason, text="{side} speaks IKEv1"):
    side: Side


class KeyInAggressiveMode(Reason, text="{side} uses a pre-shared key in aggressive mode"):
    side: Side


class CiphersHold(Reason, text="{side}'s data ciphers hold {cipher}"):
    side: Side
    cipher: DataCipher


class HasDigest(Reason, text="{side}'s digest is {digest}"):
    side: Side
    digest: Digest


class Compresses(Reason, text="{side} compresses"):
    side: Side


class PeerAt(Reason, text="its peer {address}"):
    address: Address


class PeerAnywhere(Reason, text="its peer, wherever that is,"):
    pass


class ThroughOthers(Reason, text="{tunnels:and} and from there into "):
    tunnels: tuple[Named[Tunnel], ...]


class CarriesItself(Reason, text="{gateway} sends what goes to {peer} into {through}it ({by})"):
    gateway: Named[Gateway]
    peer: PeerAt | PeerAnywhere
    through: ThroughOthers | None
    by: str


class NameBeyondItself(Reason, text="{gateway} asks {resolvers:and} for {name}, and the way there is the tunnel itself"):
    gateway: Named[Gateway]
    resolvers: tuple[Address, ...]
    name: str
