"""Findings that the comparison of the two ends of a tunnel gives."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial

from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import ObjectType, Side, Tunnel
from pontifex.core.matching import Row, Stage, TunnelEnds, Verdict, row_remedies
from pontifex.core.reasons import named
from pontifex.core.reasons.tunnels import InTunnel, RowsNotComparable


def row_findings(ends: TunnelEnds, rows: Sequence[Row]) -> Iterator[Remark]:
    """Yield what the rows of a comparison say: a remark for each that differs, and one for all that isn't known."""
    tunnel = ends.tunnel
    for row in rows:
        code = row.judgement.code
        if code:
            fields = row.fields if _left_first(code, row.key) else row.fields[::-1]
            where = tuple(_place(tunnel, end.side, end.field) for end in fields if end.field != "uplink_id")
            remedies = partial(row_remedies, ends, row) if row.judgement.remedies else None
            yield remark(code, where, InTunnel(named(tunnel), row.reason), remedies, row.names)
    unknown = [row for row in rows if row.judgement.verdict is Verdict.UNKNOWN and row.stage is not Stage.RESTART]
    if unknown:
        where = tuple(_place(tunnel, end.side, end.field) for row in unknown for end in row.fields)
        rows_open = RowsNotComparable(len(unknown), tuple(row.title for row in unknown))
        yield remark(Code.TUNNEL_NOT_KNOWN, where, InTunnel(named(tunnel), rows_open))


def _left_first(code: Code, key: str) -> bool:
    """The cursor goes to the end that is more likely wrong: the far one, but where a row is about the left end."""
    return code.subject == "reach" or key.endswith("-left")


def _place(tunnel: Tunnel, side: Side, field: str) -> Place:
    return Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field=f"{side.value}/{field}")
