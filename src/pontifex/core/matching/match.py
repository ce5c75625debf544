"""The comparison of the two ends of a tunnel, row by row."""

from __future__ import annotations

from pydantic import Field

from pontifex.core.matching.identity import identity_row
from pontifex.core.matching.key import key_row
from pontifex.core.matching.lifetimes import lifetime_row
from pontifex.core.matching.networks import networks_row
from pontifex.core.matching.pair import Pair
from pontifex.core.matching.proposals import CHILD, IKE, proposals_row
from pontifex.core.matching.reach import peer_address_row, role_row, uplink_text
from pontifex.core.matching.row import EndField, Row, ShownRow, Verdict
from pontifex.core.model import Design, Side, Tunnel
from pontifex.core.model.difference import written
from pontifex.core.value import Value


class Match(Value):
    """Both ends of a tunnel side by side."""

    tunnel_id: str
    left_name: str = Field(title="What the left end is called", examples=["Harbour House"])
    right_name: str = Field(title="What the right end is called", examples=["Ostvik Terminal"])
    rows: tuple[ShownRow, ...] = Field(title="Rows", description="In the order of the stages at which they matter.")
    summary: str = Field(title="Summary", examples=["Both ends agree on 11 of 12 rows."])


def compare(pair: Pair) -> tuple[Row, ...]:
    """Compare the two ends of a tunnel. Rows are in the order in which a call would meet them."""
    return (
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


def match(design: Design, tunnel: Tunnel) -> Match:
    """Compare the two ends of a tunnel, with both values of each row written for a person."""
    pair = Pair(design, tunnel)
    rows = compare(pair)
    agreed = sum(row.verdict in (Verdict.AGREED, Verdict.NEGOTIATED) for row in rows)
    return Match.of(
        tunnel_id=tunnel.id,
        left_name=pair.names[Side.LEFT],
        right_name=pair.names[Side.RIGHT],
        rows=tuple(_shown(pair, row) for row in rows),
        summary=f"Both ends agree on {agreed} of {len(rows)} rows.",
    )


def _shown(pair: Pair, row: Row) -> ShownRow:
    return ShownRow.of(**row.__dict__, left_text=_text(pair, row.left), right_text=_text(pair, row.right))


def _text(pair: Pair, place: EndField) -> str:
    """Write a field of an end; an uplink as the other end needs it."""
    if place.field == "uplink_id":
        return uplink_text(pair.uplink(place.side))
    return written(getattr(pair.end(place.side), place.field))
