"""All findings about one tunnel: what the comparison of its two ends gives, and what is to be said of it beside."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import date
from functools import partial
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.findings.algorithms import algorithm_findings, exception_findings
from pontifex.core.findings.cache import Examined
from pontifex.core.findings.checks import Checks
from pontifex.core.findings.exposures import (
    certificate_findings,
    identity_findings,
    key_findings,
    key_prints,
    networks_inside,
    redundant_networks,
    technology_findings,
)
from pontifex.core.findings.finding import Place, Remark, remark
from pontifex.core.kinds import ObjectType, Side, Tunnel
from pontifex.core.matching import (
    AlikeTunnels,
    Forecast,
    Neighbours,
    Row,
    Stage,
    TunnelEnds,
    Verdict,
    alike,
    forecast,
    row_remedies,
    telling_rows,
)
from pontifex.core.matching.forecast import unknown_forecast
from pontifex.core.model import Design
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


# what is looked at in each tunnel beside the rows of its comparison, by what it is about
TUNNEL_CHECKS: Final[dict[str, Callable[[TunnelEnds], Iterable[Remark]]]] = {
    "algorithms": algorithm_findings,
    "exceptions": exception_findings,
    "keys": key_findings,
    "identities": identity_findings,
    "certificates": certificate_findings,
    "technology": technology_findings,
    "networks within others": redundant_networks,
    "networks of both sides": networks_inside,
}


def examined_tunnel(tunnel: Tunnel, today: date, beside: Neighbours, design: Design) -> Examined[tuple[Forecast, frozenset[str]]]:
    """Return the forecast of a tunnel and the fingerprints of its keys, and what is to be said of it."""
    ends = TunnelEnds(design, tunnel, today)
    checks = Checks(design, tunnel)
    rows: tuple[Row, ...] | None = None
    similar: AlikeTunnels | None = None
    with checks.guard("both ends", tunnel.id):
        similar = alike(ends)
        rows = telling_rows(ends, beside, similar)
        checks.remarks += row_findings(ends, rows)
    foretold = forecast(tunnel, rows) if rows is not None else unknown_forecast(tunnel)
    for name, check in TUNNEL_CHECKS.items():
        if similar is None or not similar.silence(check):
            checks.run(name, check, ends)
    prints: frozenset[str] = frozenset()
    with checks.guard("keys used more than once", tunnel.id):
        prints = key_prints(tunnel)
    return Examined((foretold, prints), checks.remarks, (*ends.failures.found, *checks.found))
