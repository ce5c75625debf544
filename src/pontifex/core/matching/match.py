"""The comparison of the two ends of a tunnel, row by row."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from datetime import date
from functools import partial
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.catalogue import Code
from pontifex.core.ipsec.preshared_key import KeyFacts, spoken
from pontifex.core.kinds import SIDES, AuthMethod, Side, Technology, Tunnel
from pontifex.core.matching.alive import dead_peer_row, keepalive_row
from pontifex.core.matching.authentication import account_row, eap_method_row, method_row, uses
from pontifex.core.matching.certificate import certificate_row
from pontifex.core.matching.exchange_mode import exchange_mode_row
from pontifex.core.matching.gateway_tunnels import GatewayTunnels
from pontifex.core.matching.identity import identity_row
from pontifex.core.matching.inner import compression_row, inner_mtu_row, inner_network_row, mode_row, tcp_mss_row
from pontifex.core.matching.key import key_row
from pontifex.core.matching.networks import networks_row, passing_row
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
from pontifex.core.matching.row import EndField, Relation, Row, ShownRow, Stage, Verdict
from pontifex.core.matching.technology import switch_row, technology_row
from pontifex.core.matching.tls import (
    cipher_row,
    control_key_row,
    digest_row,
    equal_row,
    pushed_row,
    renegotiation_row,
)
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.matching.vetting import vetted
from pontifex.core.model import Design
from pontifex.core.model.difference import written

_LEFT, _RIGHT = Side


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """Both ends of a tunnel side by side."""

    tunnel_id: str
    left_name: Annotated[str, Field(title="What the left end is called", examples=["Harbour House"])]
    right_name: Annotated[str, Field(title="What the right end is called", examples=["Ostvik Terminal"])]
    rows: Annotated[tuple[ShownRow, ...], Field(title="Rows", description="In the order of the stages at which they matter.")]
    summary: Annotated[str, Field(title="Summary", examples=["Both ends agree on 11 of 12 rows."])]
    questions: Annotated[Questions, Field(title="What to ask each side")]
    left_spoken: Annotated[
        str, Field(title="Fingerprint of the left key in words", description="Empty while the key isn't known.")
    ]
    right_spoken: Annotated[
        str, Field(title="Fingerprint of the right key in words", description="Empty while the key isn't known.")
    ]
    rotation: Annotated[
        tuple[RotationStep, ...], Field(title="How to change the key", description="Empty where no key is shared.")
    ]


RowMaker = Callable[[TunnelEnds], Row]


def compare(pair: TunnelEnds, together: GatewayTunnels | None = None) -> tuple[Row, ...]:
    """Compare the two ends of a tunnel, and with `together` what other tunnels of its gateways are to it.

    Rows are in the order in which a call would meet them.
    """
    makers = ROWS[pair.technology] if pair.technology else _reach
    rows = vetted(pair, _made(pair, makers(pair)), lambda changed: _made(changed, makers(changed)))
    beside: tuple[Row, ...] = ()
    if together:
        with pair.failures.guard("tunnels of one gateway", pair.tunnel.id):
            beside = tuple(together.rows(pair))
    return _in_order(rows, beside) if beside else rows


def _in_order(rows: tuple[Row, ...], beside: tuple[Row, ...]) -> tuple[Row, ...]:
    """Put each further row behind the last one of its stage, or of an earlier one."""
    order = {stage: place for place, stage in enumerate(Stage)}
    found = list(rows)
    for row in beside:
        behind = [place for place, one in enumerate(found) if order[one.stage] <= order[row.stage]]
        found.insert(behind[-1] + 1 if behind else 0, row)
    return tuple(found)


def _made(pair: TunnelEnds, makers: Iterable[RowMaker]) -> Iterator[Row]:
    """Yield the rows; one that can't be made for an error of ours says so, and the others stand."""
    stage = Stage.REACH
    for make in makers:
        name = getattr(make, "func", make).__name__.removesuffix("_row")
        row: Row | None = None
        with pair.failures.guard(name, pair.tunnel.id):
            row = make(pair)
        if row is None:
            kind = pair.failures.found[-1].kind
            reason = f"this can't be compared: an error of Pontifex itself ({kind}), which is in its log"
            title = name.replace("_", " ").capitalize()
            relation = Relation.COMPLEMENTARY
            row = pair.row(
                f"failed-{name}",
                title,
                stage,
                relation,
                ("enabled", "enabled"),
                Verdict.UNKNOWN,
                reason,
                Code.ANALYSIS_CHECK_FAILED,
            )
        stage = row.stage
        yield row


def _each_side(make: Callable[..., Row]) -> Iterator[RowMaker]:
    for side in SIDES:
        yield partial(make, side=side)


def _reach(pair: TunnelEnds) -> Iterator[RowMaker]:  # noqa: ARG001 -- one signature for all
    """What matters whatever the technology, and all that can be compared where the ends have different ones."""
    yield from (technology_row, switch_row, role_row)
    yield from _each_side(peer_address_row)
    yield keepalive_row


def _proofs(pair: TunnelEnds) -> Iterator[RowMaker]:
    """What IPsec asks of authentication, with the rows of the methods in use."""
    yield from _each_side(method_row)
    yield from _each_side(identity_row)
    if uses(pair, AuthMethod.PRE_SHARED_KEY):
        yield key_row
    for side in SIDES:
        if AuthMethod.CERTIFICATE in (pair.end(side).local_auth, pair.end(side.other).remote_auth):
            yield partial(certificate_row, side=side)
    if uses(pair, AuthMethod.EAP):
        yield from (eap_method_row, account_row)


def _networks() -> Iterator[RowMaker]:
    yield from _each_side(networks_row)
    yield passing_row


_TRAFFIC: Final = (inner_network_row, inner_mtu_row, tcp_mss_row, compression_row)


def _ikev2(pair: TunnelEnds) -> Iterator[RowMaker]:
    yield from _reach(pair)
    yield ike_row
    yield from _proofs(pair)
    yield child_row
    yield from _networks()
    yield mode_row
    yield from _TRAFFIC
    yield child_rekey_row
    yield partial(lifetime_row, field="child_lifetime_s")
    yield volume_row
    yield partial(lifetime_row, field="ike_lifetime_s")
    yield from (margin_row, reauthentication_row, dead_peer_row)


def _ikev1(pair: TunnelEnds) -> Iterator[RowMaker]:
    yield from _reach(pair)
    yield from (exchange_mode_row, ike_row)
    yield partial(phase_lifetime_row, field="ike_lifetime_s")
    yield from _proofs(pair)
    yield child_row
    yield from _networks()
    yield mode_row
    yield partial(phase_lifetime_row, field="child_lifetime_s")
    yield from _TRAFFIC
    yield dead_peer_row


def _tls(pair: TunnelEnds) -> Iterator[RowMaker]:
    yield from _reach(pair)
    yield partial(equal_row, field="transport")
    yield partial(equal_row, field="port")
    yield from (cipher_row, digest_row, control_key_row)
    for side in SIDES:
        yield partial(certificate_row, side=side, with_identity=False)
    yield account_row
    yield from _networks()
    yield from (pushed_row, inner_network_row, compression_row, renegotiation_row, dead_peer_row)


def _peer_key(pair: TunnelEnds) -> Iterator[RowMaker]:
    yield from _reach(pair)
    yield partial(equal_row, field="port")
    yield same_key_row
    yield from _each_side(public_key_row)
    yield from _networks()
    yield inner_network_row


def _cloud_peering(pair: TunnelEnds) -> Iterator[RowMaker]:  # noqa: ARG001 -- one signature for all
    yield from (technology_row, switch_row, agreement_row)


ROWS: Final[dict[Technology, Callable[[TunnelEnds], Iterator[RowMaker]]]] = {
    Technology.IPSEC_IKEV2: _ikev2,
    Technology.IPSEC_IKEV1: _ikev1,
    Technology.TLS: _tls,
    Technology.PEER_KEY: _peer_key,
    Technology.CLOUD_PEERING: _cloud_peering,
}


def match(design: Design, tunnel: Tunnel, today: date) -> Match:
    """Compare the two ends of a tunnel, with both values of each row written for a person."""
    pair = TunnelEnds(design, tunnel, today)
    rows = compare(pair, GatewayTunnels(design))
    agreed = sum(row.verdict in (Verdict.AGREED, Verdict.NEGOTIATED) for row in rows)
    return Match(
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


def _shown(pair: TunnelEnds, row: Row) -> ShownRow:
    return ShownRow(
        key=row.key,
        title=row.title,
        stage=row.stage,
        relation=row.relation,
        left=row.left,
        right=row.right,
        verdict=row.verdict,
        value=row.value,
        reason=row.reason,
        code=row.code,
        remedies=row.remedies,
        left_text=_text(pair, row.left),
        right_text=_text(pair, row.right),
        ladder=ladder(pair, row.left.field) if row.left.field == row.right.field and row.key.endswith("-proposals") else None,
    )


def _text(pair: TunnelEnds, place: EndField) -> str:
    """Write a field of an end; an uplink as the other end needs it."""
    if place.field == "uplink_id":
        return uplink_text(pair, place.side)
    return written(getattr(pair.end(place.side), place.field))
