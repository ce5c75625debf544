"""Auth, last part: the pre-shared keys of both ends, compared by what the design knows of them."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.ipsec.preshared_key import KeyDifference, KeyFacts, edges_of, key_difference
from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import auth, unknown

_FIELDS = ("key", "key")


def judge_key(ends: TunnelEnds) -> Judgement:
    """Compare the two keys (RFC 7296 section 2.15) without seeing either."""
    left, right = ends.left.key, ends.right.key
    if left is None or right is None:
        missing = tuple(side for side in SIDES if ends.end(side).key is None)
        return Judgement(Verdict.UNKNOWN, unknown.KeyNotKnown(missing))
    if left.fingerprint == right.fingerprint:
        return Judgement(Verdict.AGREED, auth.KeysAgreed(left.fingerprint))
    reason = auth.KeysDiffer(how_keys_differ(left, right, Side.LEFT))
    return Judgement(Verdict.DIFFERS, reason, Code.END_KEY_DIFFERS, lambda ends: ends.copies("the key", *_FIELDS))


def how_keys_differ(one: KeyFacts, other: KeyFacts, side: Side) -> auth.KeysDifference:
    """Return how two different secrets differ, as far as what is known of them tells; the first is that of a side."""
    difference = key_difference(one, other)
    if difference is KeyDifference.EDGES:
        return auth.DifferByEdges(
            tuple(auth.EdgeAt(edge, at) for key, at in ((one, side), (other, side.other)) for edge in edges_of(key))
        )
    if difference is KeyDifference.LENGTH:
        return auth.DifferInLength(side, one.length, side.other, other.length)
    return auth.DifferByCase() if difference is KeyDifference.CASE else None
