"""Tickets that opened their session, and sessions that were ended: none of them is accepted again."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine, delete, func, select
from sqlalchemy.dialects.postgresql import insert

from pontifex.store import tables


class SpentTokens:
    """The tokens that are spent, kept over restarts."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def spend(self, token_id: str, until: float) -> bool:
        """Spend a token that would end at a time, in seconds since 1970; return whether it was not spent before."""
        row = {"id": token_id, "until": datetime.fromtimestamp(until, UTC)}
        with self._engine.begin() as connection:
            spent = insert(tables.spent_token).values(row).on_conflict_do_nothing().returning(tables.spent_token.c.id)
            return connection.scalar(spent) is not None

    def all(self) -> frozenset[str]:
        """Return all spent tokens that have not ended by themselves."""
        columns = tables.spent_token.c
        with self._engine.begin() as connection:
            connection.execute(delete(tables.spent_token).where(columns.until < func.now()))
            return frozenset(connection.scalars(select(columns.id)))
