"""Auth, last part: the pre-shared keys of both ends, compared by what the design knows of them."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.ipsec.preshared_key import key_difference
from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds

_FIELDS = ("key", "key")


def judge_key(pair: TunnelEnds) -> Judgement:
    """Compare the two keys (RFC 7296 section 2.15) without seeing either."""
    left, right = pair.tunnel.left.key, pair.tunnel.right.key
    if left is None or right is None:
        missing = [pair.names[side] for side in SIDES if pair.end(side).key is None]
        return Judgement(Verdict.UNKNOWN, f"the key of {' and '.join(missing)} is not known yet")
    clause = key_difference(left, right, pair.names[Side.LEFT], pair.names[Side.RIGHT])
    if clause is None:
        return Judgement(Verdict.AGREED, f"both have the key {left.fingerprint}")
    return Judgement(Verdict.DIFFERS, clause, Code.END_KEY_DIFFERS, pair.copies("the key", *_FIELDS))
