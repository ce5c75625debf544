"""Auth, last part: the pre-shared keys of both ends, compared by what the design knows of them."""

from __future__ import annotations

from functools import partial

from pontifex.core.catalogue import Code
from pontifex.core.ipsec.preshared_key import key_difference
from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Relation, Row, Stage, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds

_FIELDS = ("key", "key")


def key_row(pair: TunnelEnds) -> Row:
    """Compare the two keys (RFC 7296 section 2.15) without seeing either."""
    row = partial(pair.row, "key", "Pre-shared key", Stage.AUTH, Relation.EQUAL, _FIELDS)
    left, right = pair.tunnel.left.key, pair.tunnel.right.key
    if left is None or right is None:
        missing = [pair.names[side] for side in SIDES if pair.end(side).key is None]
        return row(Verdict.UNKNOWN, f"the key of {' and '.join(missing)} is not known yet")
    clause = key_difference(left, right, pair.names[Side.LEFT], pair.names[Side.RIGHT])
    if clause is None:
        return row(Verdict.AGREED, f"both have the key {left.fingerprint}")
    return row(Verdict.DIFFERS, clause, Code.END_KEY_DIFFERS, pair.copies("the key", *_FIELDS))
