"""The comparison of the two ends of a tunnel, row by row."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Annotated

from pydantic import Field

from pontifex.core.catalogue import Code
from pontifex.core.failures import FailedCheck
from pontifex.core.ipsec.preshared_key import KeyFacts, spoken
from pontifex.core.kinds import Side, Tunnel, is_set
from pontifex.core.matching.forecast import is_told
from pontifex.core.matching.gateway_tunnels import NO_NEIGHBOURS, GatewayTunnels, Neighbours, neighbour_rows
from pontifex.core.matching.proposals import ladder
from pontifex.core.matching.questions import Questions, questions
from pontifex.core.matching.reach import uplink_text
from pontifex.core.matching.reversed_call import CallFact, call_facts
from pontifex.core.matching.rotation import RotationStep, rotation
from pontifex.core.matching.row import EndField, Judgement, Remedy, Row, ShownRow, Stage, Verdict
from pontifex.core.matching.shared_rows import AlikeTunnels, SharedJudgements, nothing_shared
from pontifex.core.matching.spec import RowSpec
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.matching.vetting import mending
from pontifex.core.model import Design
from pontifex.core.model.standards import departures
from pontifex.core.model.written import written
from pontifex.core.reasons import unknown

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
    call: Annotated[
        tuple[CallFact, ...], Field(title="A call that one end alone can make", description="Empty where both can, or neither.")
    ]
    departures: Annotated[
        tuple[str, ...],
        Field(title="Departures from its standard", description="Paths of fields.", examples=[["left/ike_lifetime_s"]]),
    ] = ()


def compare(ends: TunnelEnds, neighbours: Neighbours = NO_NEIGHBOURS) -> tuple[Row, ...]:
    """Compare the two ends of a tunnel, and with `neighbours` what other tunnels of its gateways are to it.

    Rows are in the order in which a call would meet them.
    """
    return _compared(ends, neighbours, nothing_shared(ends))


def row_remedies(ends: TunnelEnds, row: Row) -> tuple[Remedy, ...]:
    """Return what mends a row of a comparison; each that may touch what another row reads is tried first."""
    return mending(ends, row, lambda state: _made(state, nothing_shared(state)))


def telling_rows(ends: TunnelEnds, neighbours: Neighbours, alike: AlikeTunnels) -> tuple[Row, ...]:
    """Return the rows of a comparison that a forecast and findings are made of.

    What hangs on settings alone is taken over from all tunnels that are set `alike`.
    """
    return _compared(ends, neighbours, alike.telling, told_alone=True)


def _compared(ends: TunnelEnds, neighbours: Neighbours, judged: SharedJudgements, told_alone: bool = False) -> tuple[Row, ...]:
    rows = tuple(_made(ends, judged, told_alone))
    if not neighbours.has_others:
        return rows
    beside: tuple[Row, ...] = ()
    with ends.failures.guard("tunnels of one gateway", ends.tunnel.id):
        beside = tuple(neighbour_rows(ends, neighbours))
    return _in_order(rows, beside) if beside else rows


def _in_order(rows: tuple[Row, ...], beside: tuple[Row, ...]) -> tuple[Row, ...]:
    """Put each further row behind the last one of its stage, or of an earlier one."""
    order = {stage: place for place, stage in enumerate(Stage)}
    found = list(rows)
    for row in beside:
        behind = [place for place, candidate in enumerate(found) if order[candidate.stage] <= order[row.stage]]
        found.insert(behind[-1] + 1 if behind else 0, row)
    return tuple(found)


def _made(ends: TunnelEnds, judged: SharedJudgements, told_alone: bool = False) -> Iterator[Row]:
    """Yield the rows that apply, or those alone that something is told of.

    One that can't be judged for an error of ours says so, and the others stand.
    """
    names = ends.names
    ends.settled.update(judged.settled)
    for spec, judgement, this, applies in judged.rows:
        if judgement:
            yield Row(spec, judgement, this, names)
        elif (own := _own(spec, ends, applies)) and (not told_alone or is_told(spec.key, own)):
            yield Row(spec, own, spec.about(ends), names)


def _own(spec: RowSpec, ends: TunnelEnds, applies: bool) -> Judgement | None:
    """Judge a row for this tunnel by itself; None where it doesn't apply."""
    try:
        return spec.judge(ends) if applies or spec.applies(ends) else None
    except Exception as error:
        failed = FailedCheck(spec.key, ends.tunnel.id, error)
        ends.failures.found.append(failed)
        return Judgement(Verdict.UNKNOWN, unknown.NotComparable(failed.kind), Code.ANALYSIS_CHECK_FAILED)


def match(design: Design, tunnel: Tunnel, today: date) -> Match:
    """Compare the two ends of a tunnel, with both values of each row written for a person."""
    ends = TunnelEnds(design, tunnel, today)
    return shown_match(ends, compare(ends, GatewayTunnels.of(design).neighbours(tunnel)))


def shown_match(ends: TunnelEnds, rows: Sequence[Row]) -> Match:
    """Return rows of a comparison, with both values of each written for a person."""
    tunnel = ends.tunnel
    agreed = sum(row.verdict in (Verdict.AGREED, Verdict.NEGOTIATED) for row in rows)
    return Match(
        tunnel_id=tunnel.id,
        left_name=ends.names[_LEFT],
        right_name=ends.names[_RIGHT],
        rows=tuple(_shown(ends, row) for row in rows),
        summary=f"Both ends agree on {agreed} of {len(rows)} rows.",
        questions=questions(ends, rows),
        left_spoken=_spoken(tunnel.left.key),
        right_spoken=_spoken(tunnel.right.key),
        rotation=rotation(ends),
        call=tuple(call_facts(ends, rows)),
        departures=tuple(_departures(ends.design, tunnel)),
    )


def _departures(design: Design, tunnel: Tunnel) -> Iterator[str]:
    """Yield the fields of a tunnel's ends that are set otherwise than its standard says."""
    if tunnel.standard_id:
        for side, field in departures(design, design.standard_by_id[tunnel.standard_id], tunnel):
            yield f"{side.value}/{field}"


def _spoken(key: KeyFacts | None) -> str:
    return spoken(key.fingerprint) if key else ""


def _shown(ends: TunnelEnds, row: Row) -> ShownRow:
    left, right = row.fields
    both = left.field == right.field and row.key.endswith("-proposals")
    return ShownRow(
        key=row.key,
        title=row.title,
        stage=row.stage,
        relation=row.heading.relation,
        left=left,
        right=right,
        copyable=row.heading.is_copyable,
        verdict=row.verdict,
        value=row.value,
        reason=row.clause,
        code=row.code,
        left_text=_text(ends, left),
        right_text=_text(ends, right),
        ladder=ladder(ends, left.field) if both else None,
    )


def _text(ends: TunnelEnds, place: EndField) -> str | None:
    """Write a field of an end, an uplink as the other end needs it; None where it isn't set."""
    value = getattr(ends.end(place.side), place.field)
    if not is_set(value):
        return None
    return uplink_text(ends, place.side) if place.field == "uplink_id" else written(value)
