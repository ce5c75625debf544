"""Links by which partners fill in their end of one tunnel, with what they have answered."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import Engine, func, insert, select, update

from pontifex.core.errors import NotFound
from pontifex.store import tables

_LINK = tables.partner_link.c


class LinkNotFound(NotFound):
    """The design has no such link."""

    title = "No such link"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartnerLink:
    """A link: to which end it is, until when, and what came back."""

    id: UUID
    design_id: str
    tunnel_id: str
    side: str
    until: datetime
    made_by: str
    made_at: datetime
    revoked_at: datetime | None
    answer: dict[str, str]
    answered_at: datetime | None


class PartnerLinks:
    """Reads and writes the links."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def make(self, design_id: str, tunnel_id: str, side: str, until: datetime, person: str) -> PartnerLink:
        """Keep a new link."""
        values = {"id": uuid4(), "design_id": design_id, "tunnel_id": tunnel_id, "side": side, "until": until, "made_by": person}
        with self._engine.begin() as connection:
            row = connection.execute(insert(tables.partner_link).values(values).returning(tables.partner_link)).mappings().one()
            return _link(row)

    def of_design(self, design_id: str) -> list[PartnerLink]:
        """Return the links of a design, the newest first."""
        query = select(tables.partner_link).where(_LINK.design_id == design_id).order_by(_LINK.made_at.desc())
        with self._engine.connect() as connection:
            return [_link(row) for row in connection.execute(query).mappings()]

    def find(self, link_id: UUID) -> PartnerLink | None:
        """Return a link, None where there is none; that of a deleted design is none."""
        columns = tables.design.c
        there = tables.partner_link.join(tables.design, (columns.id == _LINK.design_id) & columns.deleted_at.is_(None))
        query = select(tables.partner_link).select_from(there).where(_LINK.id == link_id)
        with self._engine.connect() as connection:
            row = connection.execute(query).mappings().first()
            return _link(row) if row else None

    def answered(self, link_id: UUID, answer: dict[str, str]) -> None:
        """Keep what came back, in the place of what came before."""
        with self._engine.begin() as connection:
            connection.execute(
                update(tables.partner_link).where(_LINK.id == link_id).values(answer=answer, answered_at=func.now())
            )

    def revoke(self, design_id: str, link_id: UUID) -> None:
        """End a link before its time. Raise LinkNotFound."""
        is_it = (_LINK.design_id == design_id) & (_LINK.id == link_id)
        revoked = update(tables.partner_link).where(is_it).values(revoked_at=func.coalesce(_LINK.revoked_at, func.now()))
        with self._engine.begin() as connection:
            if not connection.execute(revoked).rowcount:
                raise LinkNotFound("this design has no such link")


def _link(row: Any) -> PartnerLink:
    return PartnerLink(**{name: row[name] for name in PartnerLink.__dataclass_fields__})
