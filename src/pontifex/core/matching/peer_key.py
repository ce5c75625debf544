"""What two ends with static public keys must agree on: each has the other's public key, as it is."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, KeyPair, Side
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored


def judge_public_key(pair: TunnelEnds, side: Side) -> Judgement:
    """Compare an end's public key with the one that the other end has for it."""
    own, theirs = pair.end(side).key_pair, pair.end(side.other).peer_public_key
    mirrored(side, "key_pair", "peer_public_key")
    name, far = pair.names[side], pair.names[side.other]
    if own is None or theirs is None:
        return Judgement(Verdict.UNKNOWN, f"{name}'s public key is not known yet at {name if own is None else far}")
    if own.public == theirs:
        return Judgement(Verdict.AGREED, "both have the same key")
    mend = pair.set_field(side.other, f"Give {far} {name}'s public key", peer_public_key=own.public)
    far_own = pair.end(side.other).key_pair
    if far_own and far_own.public == theirs:
        return Judgement(Verdict.DIFFERS, f"{far} has its own public key as that of {name}", Code.PEER_OWN_KEY, (mend,))
    return Judgement(
        Verdict.DIFFERS,
        f"{far} has another key for {name} ({_short(theirs)} for {_short(own.public)})",
        Code.PEER_KEY_DIFFERS,
        (mend,),
    )


def _short(public: str) -> str:
    return f"{public[:8]}…"


def judge_same_key(pair: TunnelEnds) -> Judgement:
    """Find two ends that share one key pair: each would talk to itself."""
    pairs: list[KeyPair | None] = [pair.end(side).key_pair for side in SIDES]
    left, right = pairs
    if left and right and left.public == right.public:
        reason = "both ends have the same key pair; it was copied with the configuration"
        return Judgement(Verdict.DIFFERS, reason, code=Code.PEER_ONE_KEY_PAIR)
    reason = "each end has a key pair of its own" if left and right else "not known at both ends"
    return Judgement(Verdict.AGREED, reason)
