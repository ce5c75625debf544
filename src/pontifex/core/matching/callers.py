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
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored

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
        return f"{', '.join(one.tunnel.name for one in self.first)}{f' and {more} more' if more else ''}"


NOBODY: Final = OtherCalls((), 0)


def identity_twice(pair: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two callers of one identity: a new one says INITIAL_CONTACT, and the other's SAs are deleted (RFC 7296 section 2.4)."""
    side = call.caller
    name, hub = pair.names[side], pair.names[call.answers]
    identity = pair.end(side).local_identity
    reason = f"{name} is {identity} to {hub}, and so is the caller of {others.named}: whoever calls puts the other out"
    remedies = (_own_identity(pair, side), _spare(pair))
    yield pair.row(
        IDENTITY_SHARED,
        Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_IDENTITY_TWICE, tuple(one for one in remedies if one)),
        call.caller,
    )


def _own_identity(pair: TunnelEnds, side: Side) -> Remedy | None:
    """Give a caller an identity of its own at both ends; None where a certificate would have to hold it."""
    identity, own = pair.end(side).local_identity, pair.gateway(side).id
    if identity is None or pair.end(side).local_auth is AuthMethod.CERTIFICATE:
        return None
    domain = identity.value.partition(".")[2]
    if identity.type is IdentityType.FQDN and domain:
        better = Identity(type=IdentityType.FQDN, value=f"{own}.{domain}")
    else:
        better = Identity(type=IdentityType.KEY_ID, value=own)
    says, expects = pair.end(side).changed(local_identity=better), pair.end(side.other).changed(remote_identity=better)
    return pair.set_facing(f"Let {pair.names[side]} be {better} at both ends", side, says, expects)


def _spare(pair: TunnelEnds) -> Remedy:
    """Switch a tunnel off at both ends, to be switched on when the other caller is out of use."""
    return pair.set_same(f"Switch {pair.tunnel.name} off, and keep it as a spare", enabled=False)


def key_pair_twice(pair: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two callers of one key pair: the hub has one address for it, that of the last packet it could authenticate."""
    name = pair.names[call.caller]
    reason = f"{name} has the key pair of the caller of {others.named}: answers go to whoever has called last"
    yield pair.row(
        KEY_PAIR_SHARED, Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_KEY_PAIR_TWICE, (_spare(pair),)), call.caller
    )


def account_twice(pair: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two callers of one account, of which the hub keeps one session."""
    side, name = call.caller, pair.names[call.caller]
    account = pair.end(side).account
    shown = account.name if account else ""
    reason = f"{name} calls with the account '{shown}', and so does the caller of {others.named}: the hub keeps one at a time"
    accepted = pair.end(side.other).accepted_account
    remedies: tuple[Remedy, ...] = ()
    if account and accepted:
        better = f"{shown}-{pair.gateway(side).id}"[:64]
        own = pair.end(side).changed(account=account.changed(name=better))
        far = pair.end(side.other).changed(accepted_account=accepted.changed(name=better))
        remedies = (pair.set_facing(f"Make an account {better} for it", side, own, far),)
    yield pair.row(ACCOUNT_SHARED, Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_ACCOUNT_TWICE, remedies), call.caller)


def first_that_fits(pair: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Version, proposals and group are settled before the identity is heard: the first tunnel that fits decides them."""
    kind = IKE[pair.tunnel.left.technology]
    own = settled(pair, kind)
    (other,) = others.first
    theirs = other.tunnel.end(other.answers).ike_proposals
    found = negotiate(pair.end(call.caller).ike_proposals, theirs, kind.leave_out)
    if not isinstance(own, Agreement) or not isinstance(found, Agreement) or found.chosen == own.chosen:
        return
    hub = pair.names[call.answers]
    reason = (
        f"{hub} doesn't know yet who calls, and takes {other.tunnel.name}, which fits first: "
        f"the IKE SA has {found.label} instead of {own.label}"
    )
    remedy = pair.set_field(call.answers, f"Give {hub} the proposals of {other.tunnel.name} here, too", ike_proposals=theirs)
    yield pair.row(
        FIRST_THAT_FITS, Judgement(Verdict.NARROWED, reason, Code.HUB_FIRST_THAT_FITS, (remedy,), found.label), call.answers
    )


def same_nat(pair: TunnelEnds, call: Call, others: OtherCalls) -> Iterator[Row]:
    """Two gateways behind one outside address: one alone can have its ports forwarded (RFC 7296 section 2.23)."""
    uplink = pair.uplink(call.caller)
    assert uplink  # by whose address they were found
    name, hub = pair.names[call.caller], pair.names[call.answers]
    end = pair.end(call.answers)
    by_address = end.peer_address == str(uplink.address)
    reason = f"{name} comes from {uplink.address}, as the caller of {others.named} does"
    mirrored(call.caller, "uplink_id", "peer_address")
    if by_address:
        remedy = pair.set_field(call.answers, f"Let {hub} accept a call from any address", peer_address=ANY_PEER)
        reason += f", and {hub} tells them apart by that address"
        yield pair.row(OUTSIDE_SHARED, Judgement(Verdict.DIFFERS_LATER, reason, Code.HUB_SAME_NAT, (remedy,)), call.caller)
        return
    reason += f"; {hub} tells them apart by their identities, and can call neither"
    yield pair.row(OUTSIDE_SHARED, Judgement(Verdict.AGREED, reason), call.caller)
