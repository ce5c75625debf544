"""The comparison of the two ends of a tunnel, row by row."""

from __future__ import annotations

from pydantic import Field

from pontifex.core.matching.identity import identity_row
from pontifex.core.matching.key import key_row
from pontifex.core.matching.lifetimes import lifetime_row
from pontifex.core.matching.networks import networks_row
from pontifex.core.matching.pair import Pair
from pontifex.core.matching.proposals import CHILD, IKE, proposals_row
from pontifex.core.matching.reach import peer_address_row, role_row
from pontifex.core.matching.row import Row, Verdict
from pontifex.core.model import Design, Side, Tunnel
from pontifex.core.value import Value


class Match(Value):
    """Both ends of a tunnel side by side."""

    tunnel_id: str
    left_name: str = Field(title="What the left end is called", examples=["Harbour House"])
    right_name: str = Field(title="What the right end is called", examples=["Ostvik Terminal"])
    rows: tuple[Row, ...] = Field(title="Rows", description="In the order of the stages at which they matter.")
    summary: str = Field(title="Summary", examples=["Both ends agree on 11 of 12 rows."])


def match(design: Design, tunnel: Tunnel) -> Match:
    """Compare the two ends of a tunnel. Rows are in the order in which a call would meet them."""
    pair = Pair(design, tunnel)
    rows = (
        role_row(pair),
        peer_address_row(pair, Side.LEFT),
        peer_address_row(pair, Side.RIGHT),
        proposals_row(pair, IKE),
        lifetime_row(pair, "ike_lifetime_s"),
        identity_row(pair, Side.LEFT),
        identity_row(pair, Side.RIGHT),
        key_row(pair),
        proposals_row(pair, CHILD),
        networks_row(pair, Side.LEFT),
        networks_row(pair, Side.RIGHT),
        lifetime_row(pair, "child_lifetime_s"),
    )
    agreed = sum(row.verdict in (Verdict.AGREED, Verdict.NEGOTIATED) for row in rows)
    return Match.model_construct(
        tunnel_id=tunnel.id,
        left_name=pair.names[Side.LEFT],
        right_name=pair.names[Side.RIGHT],
        rows=rows,
        summary=f"Both ends agree on {agreed} of {len(rows)} rows.",
    )
