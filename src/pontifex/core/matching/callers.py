"""Rows about what a caller has in common with the other callers of its hub.

A gateway that answers many knows a caller only by what it has heard so far: its address, then the proposals of the IKE SA,
then its identity.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.ipsec import Agreement, negotiate
from pontifex.core.kinds import ANY_PEER, AuthMethod, Identity, IdentityType, Side, Tunnel
from pontifex.core.matching.proposals import IKE, settled
from pontifex.core.matching.row import Judgement, Relation, Remedy, Row, RowHeading, Stage, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import auth, init, named, reach

_AMONG: Final = "{this} among other callers"
IDENTITY_SHARED: Final = RowHeading(
    "identity-shared", _AMONG, Stage.AUTH, Relation.COMPLEMENTARY, "local_identity", "remote_identity"
)
KEY_PAIR_SHARED: Final = RowHeading("key-pair-shared", _AMONG, Stage.AUTH, Relation.COMPLEMENTARY, "key_pair", "peer_public_key")
ACCOUNT_SHARED: Final = RowHeading(
    "account-shared", "{this}'s account among other callers", Stage.AUTH, Relation.COMPLEMENTARY, "account", "accepted_account"
)
FIRST_THAT_FITS: Final = RowHeading(
    "first-that-fits", "Which tunnel {this} takes first", Stage.INIT, Relation.NEGOTIATED, "ike_proposals", "ike_proposals"
)
OUTSIDE_SHARED: Final = RowHeading(
    "outside-shared",
    "{this}'s outside address among other callers",
    Stage.REACH,
    Relation.COMPLEMENTARY,
    "uplink_id",
    "peer_address",
)


@dataclass(frozen=True, slots=True)
class Call:
    """Who calls whom in a tunnel."""

    tunnel: Tunnel
    caller: Side

    @property
    def answers(self) -> Side:
        """The side that is called."""
        return self.caller.other


@dataclass(frozen=True, slots=True)
class OtherCalls:
    """Calls that a call shares something with: the first of them, and how many there are."""

    first: tuple[Call, ...]
    count: int

    @property
    def named(self) -> str:
        """The names of their tunnels."""
        more = self.count - len(self.first)
        return f"{', '.join(call.tunnel.name for call in self.first)}{f' and {more} more' if more else ''}"


NOBODY: Final = OtherCalls((), 0)


def identity_twice(ends: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two callers of one identity: a new one says INITIAL_CONTACT, and the other's SAs are deleted (RFC 7296 section 2.4)."""
    side = call.caller
    identity = ends.end(side).local_identity
    assert identity  # by which they were found
    reason = auth.IdentityTwice(side, identity, others.named)
    judged = Judgement(
        Verdict.DIFFERS_LATER,
        reason,
        Code.HUB_IDENTITY_TWICE,
        lambda ends: (*_own_identity(ends, side), _spare(ends)),
    )
    yield ends.row(IDENTITY_SHARED, judged, side)


def _own_identity(ends: TunnelEnds, side: Side) -> Iterator[Remedy]:
    """Give a caller an identity of its own at both ends; nothing where a certificate would have to hold it."""
    identity, own = ends.end(side).local_identity, ends.gateway(side).id
    if identity is None or ends.end(side).local_auth is AuthMethod.CERTIFICATE:
        return
    domain = identity.value.partition(".")[2]
    if identity.type is IdentityType.FQDN and domain:
        better = Identity(type=IdentityType.FQDN, value=f"{own}.{domain}")
    else:
        better = Identity(type=IdentityType.KEY_ID, value=own)
    says, expects = ends.end(side).changed(local_identity=better), ends.end(side.other).changed(remote_identity=better)
    yield ends.set_facing(f"Let {ends.names[side]} be {better} at both ends", side, says, expects)


def _spare(ends: TunnelEnds) -> Remedy:
    """Switch a tunnel off at both ends, to be switched on when the other caller is out of use."""
    return ends.set_same(f"Switch {ends.tunnel.name} off, and keep it as a spare", enabled=False)


def key_pair_twice(ends: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two callers of one key pair: the hub has one address for it, that of the last packet it could authenticate."""
    reason = auth.KeyPairTwice(call.caller, others.named)
    judged = Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_KEY_PAIR_TWICE, lambda ends: [_spare(ends)])
    yield ends.row(KEY_PAIR_SHARED, judged, call.caller)


def account_twice(ends: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two callers of one account, of which the hub keeps one session."""
    side = call.caller
    account = ends.end(side).account
    shown = account.name if account else ""
    reason = auth.AccountTwice(side, shown, others.named)
    judged = Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_ACCOUNT_TWICE, lambda ends: _own_account(ends, side))
    yield ends.row(ACCOUNT_SHARED, judged, side)


def _own_account(ends: TunnelEnds, side: Side) -> Iterator[Remedy]:
    """Give a caller an account of its own at both ends, where both know the one that it has."""
    account, accepted = ends.end(side).account, ends.end(side.other).accepted_account
    if account and accepted:
        better = f"{account.name}-{ends.gateway(side).id}"[:64]
        own = ends.end(side).changed(account=account.changed(name=better))
        far = ends.end(side.other).changed(accepted_account=accepted.changed(name=better))
        yield ends.set_facing(f"Make an account {better} for it", side, own, far)


def first_that_fits(ends: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Version, proposals and group are settled before the identity is heard: the first tunnel that fits decides them."""
    kind = IKE[ends.left.technology]
    own = settled(ends, kind)
    (other,) = others.first
    theirs = other.tunnel.end(other.answers).ike_proposals
    found = negotiate(ends.end(call.caller).ike_proposals, theirs, kind.leave_out)
    if not isinstance(own, Agreement) or not isinstance(found, Agreement) or found.chosen == own.chosen:
        return
    reason = init.FirstThatFits(call.answers, named(other.tunnel), found.label, own.label)
    judged = Judgement(
        Verdict.NARROWED,
        reason,
        Code.HUB_FIRST_THAT_FITS,
        lambda ends: [_proposals_as(ends, call.answers, other)],
        found.label,
    )
    yield ends.row(FIRST_THAT_FITS, judged, call.answers)


def _proposals_as(ends: TunnelEnds, side: Side, other: Call) -> Remedy:
    title = f"Give {ends.names[side]} the proposals of {other.tunnel.name} here, too"
    return ends.set_field(side, title, ike_proposals=other.tunnel.end(other.answers).ike_proposals)


def same_nat(ends: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two gateways behind one outside address: one alone can have its ports forwarded (RFC 7296 section 2.23)."""
    uplink = ends.uplink(call.caller)
    assert uplink  # by whose address they were found
    assert uplink.address
    if ends.end(call.answers).peer_address == str(uplink.address):
        reason = reach.SameNat(call.caller, uplink.address, others.named)
        judged = Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_SAME_NAT, lambda ends: [_accepting_any(ends, call.answers)])
        yield ends.row(OUTSIDE_SHARED, judged, call.caller)
        return
    apart = reach.SameNatByIdentity(call.caller, uplink.address, others.named)
    yield ends.row(OUTSIDE_SHARED, Judgement(Verdict.AGREED, apart), call.caller)


def _accepting_any(ends: TunnelEnds, side: Side) -> Remedy:
    return ends.set_field(side, f"Let {ends.names[side]} accept a call from any address", peer_address=ANY_PEER)
