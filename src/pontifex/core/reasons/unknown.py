"""What isn't known yet, and stops a comparison."""

from __future__ import annotations

from pontifex.core.kinds import Side
from pontifex.core.reasons.reason import Reason


class ProposalsNotKnown(Reason, text="the proposals of {sides:and} are not known yet"):
    sides: tuple[Side, ...]


class CiphersNotKnown(Reason, text="the ciphers of {sides:and} are not known yet"):
    sides: tuple[Side, ...]


class DigestNotKnown(Reason, text="the digest of {sides:and} is not known yet"):
    sides: tuple[Side, ...]


class FieldNotKnown(Reason, text="not known yet at {sides:and}"):
    sides: tuple[Side, ...]


class KeyNotKnown(Reason, text="the key of {sides:and} is not known yet"):
    sides: tuple[Side, ...]


class EapMethodNotKnown(Reason, text="the EAP method of {sides:and} is not known yet"):
    sides: tuple[Side, ...]


class ProofNotKnown(Reason, text="how {side} proves itself is not known yet"):
    side: Side


class ExpectedProofNotKnown(Reason, text="what proof {side} expects is not known yet"):
    side: Side


class AccountNotKnown(Reason, text="the account at {side} is not known yet"):
    side: Side


class AccountSecretNotKnown(Reason, text="the account's secret at {side} is not known yet"):
    side: Side


class CertificateNotKnown(Reason, text="{side}'s certificate is not known yet"):
    side: Side


class TrustNotKnown(Reason, text="what {side} trusts is not known yet"):
    side: Side


class IdentityNotKnown(Reason, text="what {side} says is not known yet"):
    side: Side


class ExpectedIdentityNotKnown(Reason, text="what {side} expects is not known yet"):
    side: Side


class PublicKeyNotKnown(Reason, text="{side}'s public key is not known yet at {at}"):
    side: Side
    at: Side


class NetworksNotKnown(Reason, text="the networks that {at} has for {side} are not known yet"):
    side: Side
    at: Side


class RoleNotKnown(Reason, text="the role or the uplink of {sides:and} is not known yet"):
    sides: tuple[Side, ...]


class TransportNotKnown(Reason, text="whether UDP or TCP carries the tunnel is not known yet, and only one of them passes"):
    pass


class PeerNotKnown(Reason, text="where {side} finds {side:far} is not known yet"):
    side: Side


class UplinkAddressNotKnown(Reason, text="the address of {side}'s uplink is not known yet"):
    side: Side


class AgreementNotKnown(Reason, text="whether {side} has agreed is not known yet"):
    side: Side


class ExchangeModeNotKnown(Reason, text="main or aggressive is not known yet at both ends"):
    pass


class LifetimeNotKnown(Reason, text="one lifetime is not known yet, and IKEv1 compares them"):
    pass


class CallerNotKnown(Reason, text="who calls again after a restart is not known yet"):
    pass


class DeadPeerCheckNotKnown(Reason, text="whether {side} notices a dead peer is not known yet"):
    side: Side


class NotComparable(Reason, text="this can't be compared: an error of Pontifex itself ({kind}), which is in its log"):
    kind: str
