"""The comparison of the two ends of a tunnel, row by row."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date
from typing import Final

from pydantic import Field

from pontifex.core.ipsec.preshared_key import KeyFacts, spoken
from pontifex.core.matching.alive import dead_peer_row, keepalive_row
from pontifex.core.matching.authentication import account_row, eap_method_row, method_row, uses
from pontifex.core.matching.certificate import certificate_row
from pontifex.core.matching.exchange_mode import exchange_mode_row
from pontifex.core.matching.identity import identity_row
from pontifex.core.matching.inner import compression_row, inner_mtu_row, inner_network_row, mode_row, tcp_mss_row
from pontifex.core.matching.key import key_row
from pontifex.core.matching.networks import networks_row
from pontifex.core.matching.pair import Pair
from pontifex.core.matching.peer_key import public_key_row, same_key_row
from pontifex.core.matching.peering import agreement_row
from pontifex.core.matching.proposals import child_row, ike_row, ladder
from pontifex.core.matching.questions import Questions, questions
from pontifex.core.matching.reach import peer_address_row, role_row, uplink_text
from pontifex.core.matching.rekey import (
    child_rekey_row,
    lifetime_row,
    margin_row,
    phase_lifetime_row,
    reauthentication_row,
    volume_row,
)
from pontifex.core.matching.rotation import RotationStep, rotation
from pontifex.core.matching.row import EndField, Row, ShownRow, Verdict
from pontifex.core.matching.technology import switch_row, technology_row
from pontifex.core.matching.tls import (
    cipher_row,
    control_key_row,
    digest_row,
    equal_row,
    pushed_row,
    renegotiation_row,
)
from pontifex.core.matching.vetting import vetted
from pontifex.core.model import SIDES, AuthMethod, Design, Side, Technology, Tunnel
from pontifex.core.model.difference import written
from pontifex.core.value import Value

_LEFT, _RIGHT = Side


class Match(Value):
    """Both ends of a tunnel side by side."""

    tunnel_id: str
    left_name: str = Field(title="What the left end is called", examples=["Harbour House"])
    right_name: str = Field(title="What the right end is called", examples=["Ostvik Terminal"])
    rows: tuple[ShownRow, ...] = Field(title="Rows", description="In the order of the stages at which they matter.")
    summary: str = Field(title="Summary", examples=["Both ends agree on 11 of 12 rows."])
    questions: Questions = Field(title="What to ask each side")
    left_spoken: str = Field(title="Fingerprint of the left key in words", description="Empty while the key isn't known.")
    right_spoken: str = Field(title="Fingerprint of the right key in words", description="Empty while the key isn't known.")
    rotation: tuple[RotationStep, ...] = Field(title="How to change the key", description="Empty where no key is shared.")


def compare(pair: Pair) -> tuple[Row, ...]:
    """Compare the two ends of a tunnel. Rows are in the order in which a call would meet them."""
    rows = ROWS[pair.technology] if pair.technology else _reach
    return vetted(pair, rows(pair), rows)


def _reach(pair: Pair) -> Iterator[Row]:
    """What matters whatever the technology, and all that can be compared where the ends have different ones."""
    yield technology_row(pair)
    yield switch_row(pair)
    yield role_row(pair)
    yield peer_address_row(pair, _LEFT)
    yield peer_address_row(pair, _RIGHT)
    yield keepalive_row(pair)


def _proofs(pair: Pair) -> Iterator[Row]:
    """What IPsec asks of authentication, with the rows of the methods in use."""
    yield method_row(pair, _LEFT)
    yield method_row(pair, _RIGHT)
    yield identity_row(pair, _LEFT)
    yield identity_row(pair, _RIGHT)
    if uses(pair, AuthMethod.PRE_SHARED_KEY):
        yield key_row(pair)
    for side in SIDES:
        if AuthMethod.CERTIFICATE in (pair.end(side).local_auth, pair.end(side.other).remote_auth):
            yield certificate_row(pair, side)
    if uses(pair, AuthMethod.EAP):
        yield eap_method_row(pair)
        yield account_row(pair)


def _traffic(pair: Pair) -> Iterator[Row]:
    yield inner_network_row(pair)
    yield inner_mtu_row(pair)
    yield tcp_mss_row(pair)
    yield compression_row(pair)


def _ikev2(pair: Pair) -> Iterator[Row]:
    yield from _reach(pair)
    yield ike_row(pair)
    yield from _proofs(pair)
    yield child_row(pair)
    yield networks_row(pair, _LEFT)
    yield networks_row(pair, _RIGHT)
    yield mode_row(pair)
    yield from _traffic(pair)
    yield child_rekey_row(pair)
    yield lifetime_row(pair, "child_lifetime_s")
    yield volume_row(pair)
    yield lifetime_row(pair, "ike_lifetime_s")
    yield margin_row(pair)
    yield reauthentication_row(pair)
    yield dead_peer_row(pair)


def _ikev1(pair: Pair) -> Iterator[Row]:
    yield from _reach(pair)
    yield exchange_mode_row(pair)
    yield ike_row(pair)
    yield phase_lifetime_row(pair, "ike_lifetime_s")
    yield from _proofs(pair)
    yield child_row(pair)
    yield networks_row(pair, _LEFT)
    yield networks_row(pair, _RIGHT)
    yield mode_row(pair)
    yield phase_lifetime_row(pair, "child_lifetime_s")
    yield from _traffic(pair)
    yield dead_peer_row(pair)


def _tls(pair: Pair) -> Iterator[Row]:
    yield from _reach(pair)
    yield equal_row(pair, "transport")
    yield equal_row(pair, "port")
    yield cipher_row(pair)
    yield digest_row(pair)
    yield control_key_row(pair)
    yield certificate_row(pair, _LEFT, with_identity=False)
    yield certificate_row(pair, _RIGHT, with_identity=False)
    yield account_row(pair)
    yield networks_row(pair, _LEFT)
    yield networks_row(pair, _RIGHT)
    yield pushed_row(pair)
    yield inner_network_row(pair)
    yield compression_row(pair)
    yield renegotiation_row(pair)
    yield dead_peer_row(pair)


def _peer_key(pair: Pair) -> Iterator[Row]:
    yield from _reach(pair)
    yield equal_row(pair, "port")
    yield same_key_row(pair)
    yield public_key_row(pair, _LEFT)
    yield public_key_row(pair, _RIGHT)
    yield networks_row(pair, _LEFT)
    yield networks_row(pair, _RIGHT)
    yield inner_network_row(pair)


def _cloud_peering(pair: Pair) -> Iterator[Row]:
    yield technology_row(pair)
    yield switch_row(pair)
    yield agreement_row(pair)


ROWS: Final[dict[Technology, Callable[[Pair], Iterator[Row]]]] = {
    Technology.IPSEC_IKEV2: _ikev2,
    Technology.IPSEC_IKEV1: _ikev1,
    Technology.TLS: _tls,
    Technology.PEER_KEY: _peer_key,
    Technology.CLOUD_PEERING: _cloud_peering,
}


def match(design: Design, tunnel: Tunnel, today: date) -> Match:
    """Compare the two ends of a tunnel, with both values of each row written for a person."""
    pair = Pair(design, tunnel, today)
    rows = compare(pair)
    agreed = sum(row.verdict in (Verdict.AGREED, Verdict.NEGOTIATED) for row in rows)
    return Match.of(
        tunnel_id=tunnel.id,
        left_name=pair.names[_LEFT],
        right_name=pair.names[_RIGHT],
        rows=tuple(_shown(pair, row) for row in rows),
        summary=f"Both ends agree on {agreed} of {len(rows)} rows.",
        questions=questions(pair, rows),
        left_spoken=_spoken(tunnel.left.key),
        right_spoken=_spoken(tunnel.right.key),
        rotation=rotation(pair),
    )


def _spoken(key: KeyFacts | None) -> str:
    return spoken(key.fingerprint) if key else ""


def _shown(pair: Pair, row: Row) -> ShownRow:
    return ShownRow.of(
        **row.__dict__,
        left_text=_text(pair, row.left),
        right_text=_text(pair, row.right),
        ladder=ladder(pair, row.left.field) if row.left.field == row.right.field and row.key.endswith("-proposals") else None,
    )


def _text(pair: Pair, place: EndField) -> str:
    """Write a field of an end; an uplink as the other end needs it."""
    if place.field == "uplink_id":
        return uplink_text(pair, place.side)
    return written(getattr(pair.end(place.side), place.field))
