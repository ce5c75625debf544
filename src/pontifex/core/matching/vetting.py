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


def mending(ends: TunnelEnds, row: Row, compare: Callable[[TunnelEnds], Iterable[Row]]) -> tuple[Remedy, ...]:
    """Return the remedies of a row, without those that would leave it as it is, or make another one block."""
    remedies = tuple(row.judgement.remedies(ends)) if row.judgement.remedies else ()
    if not remedies or row.code not in _TOUCHING_OTHERS:
        return remedies
    before = _blocking(compare(ends))
    return tuple(remedy for remedy in remedies if _mends(row, before, compare(ends.after(remedy))))


def _blocking(rows: Iterable[Row]) -> set[tuple[str, Code | None]]:
    return {(row.key, row.code) for row in rows if row.verdict is Verdict.DIFFERS}


def _mends(row: Row, before: set[tuple[str, Code | None]], after: Iterable[Row]) -> bool:
    rows = tuple(after)
    gone = (row.key, row.code) not in {(left.key, left.code) for left in rows}
    return gone and _blocking(rows) <= before
