"""Remedies are offered only if they mend: the few that may touch what another row reads are tried first."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.matching.row import Remedy, Row, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds

# findings whose remedies change what other rows read, too: who calls, which networks stand where, whose account is used
_TOUCHING_OTHERS: Final = frozenset(
    {
        *(code for code in Code if code.subject in {"reach", "account", "auth", "lists", "ike1", "tls"}),
        Code.CHILD_NO_COMMON_NETWORK,
        Code.CHILD_NETWORKS_NARROWED,
        Code.CHILD_NETWORKS_REDUNDANT,
        Code.CHILD_NETWORKS_OVERLAP,
        Code.CHILD_ALL_TRAFFIC_ONE_SIDE,
        Code.CHILD_NOTHING_PASSES,
    }
)


def vetted(ends: TunnelEnds, rows: Iterable[Row], compare: Callable[[TunnelEnds], Iterable[Row]]) -> tuple[Row, ...]:
    """Return the rows without the remedies that would leave their own row as it is, or make another one block."""
    found = tuple(rows)
    if not any(row.judgement.remedies and row.code in _TOUCHING_OTHERS for row in found):
        return found
    before = _blocking(found)
    return tuple(
        _with(row, tuple(remedy for remedy in row.remedies if _mends(row, before, compare(ends.after(remedy)))))
        if row.remedies and row.code in _TOUCHING_OTHERS
        else row
        for row in found
    )


def _with(row: Row, remedies: tuple[Remedy, ...]) -> Row:
    return row._replace(judgement=row.judgement._replace(remedies=remedies))


def _blocking(rows: Iterable[Row]) -> set[tuple[str, Code | None]]:
    return {(row.key, row.code) for row in rows if row.verdict is Verdict.DIFFERS}


def _mends(row: Row, before: set[tuple[str, Code | None]], after: Iterable[Row]) -> bool:
    rows = tuple(after)
    gone = (row.key, row.code) not in {(left.key, left.code) for left in rows}
    return gone and _blocking(rows) <= before
