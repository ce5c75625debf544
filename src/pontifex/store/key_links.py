"""Links that show a key once: how often a code was tried, and whether one was right, is decided in one transaction."""

from __future__ import annotations

import hmac
from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from typing import Final
from uuid import UUID, uuid4

from sqlalchemy import Engine, func, insert, select, update

from pontifex.store import tables

MOST_TRIES: Final = 5
_LINK = tables.key_link.c


class Opening(Enum):
    """What came of an attempt."""

    RIGHT = "right"
    WRONG = "wrong"
    CLOSED = "closed"  # unknown, ended, opened before, or tried too often


@dataclass(frozen=True, slots=True)
class OpenedKey:
    """Which key a link is about."""

    design_id: str
    reference: UUID
    made_by: str


class KeyLinks:
    """Reads and writes the links."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def make(self, design_id: str, reference: UUID, code_hash: bytes, until: datetime, person: str) -> UUID:
        """Keep a new link; links to the same key that nobody has opened are closed."""
        link_id = uuid4()
        values = {"id": link_id, "design_id": design_id, "reference": reference, "code_hash": code_hash}
        others = (_LINK.design_id == design_id) & (_LINK.reference == reference) & _LINK.opened_at.is_(None)
        with self._engine.begin() as connection:
            connection.execute(update(tables.key_link).where(others).values(tries=MOST_TRIES))
            connection.execute(insert(tables.key_link), {**values, "until": until, "made_by": person})
        return link_id

    def is_open(self, link_id: UUID) -> bool:
        """Whether a link waits for its code."""
        with self._engine.connect() as connection:
            return connection.scalar(select(_LINK.id).where(_LINK.id == link_id, *_OPEN)) is not None

    def try_code(self, link_id: UUID, code_hash: bytes) -> tuple[Opening, OpenedKey | None]:
        """Try a code: the right one opens the link for good, and shuts it; a wrong one counts."""
        with self._engine.begin() as connection:
            row = connection.execute(select(tables.key_link).where(_LINK.id == link_id, *_OPEN).with_for_update()).first()
            if row is None:
                return Opening.CLOSED, None
            is_right = hmac.compare_digest(row.code_hash, code_hash)
            changed = {"opened_at": func.now()} if is_right else {"tries": row.tries + 1}
            connection.execute(update(tables.key_link).where(_LINK.id == link_id).values(changed))
            if not is_right:
                return (Opening.WRONG if row.tries + 1 < MOST_TRIES else Opening.CLOSED), None
            return Opening.RIGHT, OpenedKey(row.design_id, row.reference, row.made_by)


_OPEN: Final = (_LINK.until > func.now(), _LINK.opened_at.is_(None), _LINK.tries < MOST_TRIES)
