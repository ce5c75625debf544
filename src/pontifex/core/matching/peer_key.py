"""What two ends with static public keys must agree on: each has the other's public key, as it is."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, KeyPair, Side
from pontifex.core.matching.row import Judgement, Remedy, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import auth, unknown

_SHOWN: Final = 8  # letters of a public key, which tell two apart


def judge_public_key(ends: TunnelEnds, side: Side) -> Judgement:
    """Compare an end's public key with the one that the other end has for it."""
    own, theirs = ends.end(side).key_pair, ends.end(side.other).peer_public_key
    if own is None or theirs is None:
        return Judgement(Verdict.UNKNOWN, unknown.PublicKeyNotKnown(side, side if own is None else side.other))
    if own.public == theirs:
        return Judgement(Verdict.AGREED, auth.PublicKeyAgreed())
    given = _given_key(side, own.public)
    far_own = ends.end(side.other).key_pair
    if far_own and far_own.public == theirs:
        return Judgement(Verdict.DIFFERS, auth.OwnPublicKey(side), Code.PEER_OWN_KEY, given)
    differ = auth.PublicKeysDiffer(side, theirs[:_SHOWN], own.public[:_SHOWN])
    return Judgement(Verdict.DIFFERS, differ, Code.PEER_KEY_DIFFERS, given)


def _given_key(side: Side, public: str) -> RowRemedies:
    def given(ends: TunnelEnds) -> Iterator[Remedy]:
        title = f"Give {ends.names[side.other]} {ends.names[side]}'s public key"
        yield ends.set_field(side.other, title, peer_public_key=public)

    return given


def judge_same_key(ends: TunnelEnds) -> Judgement:
    """Find two ends that share one key pair: each would talk to itself."""
    pairs: list[KeyPair | None] = [ends.end(side).key_pair for side in SIDES]
    left, right = pairs
    if left and right and left.public == right.public:
        return Judgement(Verdict.DIFFERS, auth.OneKeyPair(), Code.PEER_ONE_KEY_PAIR)
    return Judgement(Verdict.AGREED, auth.OwnKeyPairs() if left and right else auth.KeyPairsNotKnown())
