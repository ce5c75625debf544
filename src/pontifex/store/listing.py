"""Which designs there are, and what becomes of them as a whole: archived, deleted, restored, and gone after a time."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated, Final

from pydantic import Field
from sqlalchemy import ColumnElement, Engine, ScalarSelect, Table, delete, exists, func, literal, select, text, true, update
from sqlalchemy.dialects.postgresql import insert

from pontifex.core.kinds import ObjectType
from pontifex.store import tables
from pontifex.store.designs import DesignState
from pontifex.store.errors import DesignNotFound

RESTORED_WITHIN: Final = timedelta(days=30)
_DESIGN: Final = tables.design.c
_CHANGE: Final = tables.change.c
_EXAMINED: Final = tables.examination.c


def _of(table: Table) -> ColumnElement[bool]:
    """Whether a row belongs to the design of the row outside."""
    belongs: ColumnElement[bool] = table.c.design_id == _DESIGN.id
    return belongs


def _count(table: Table) -> ScalarSelect[int]:
    return select(func.count()).select_from(table).where(_of(table)).correlate(tables.design).scalar_subquery()


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignSummary:
    """A design in a list."""

    id: str
    name: str
    revision: int
    sites: Annotated[int, Field(title="Sites")] = 0
    tunnels: Annotated[int, Field(title="Tunnels")] = 0
    findings: Annotated[
        int | None, Field(title="Findings", description="That nobody has accepted, at the last analysis; null before the first.")
    ] = None
    blockers: Annotated[int | None, Field(title="Blockers among them")] = None
    examined: Annotated[
        int | None, Field(title="Revision that was examined last", description="Not this one where it was changed since.")
    ] = None
    changed_at: Annotated[datetime | None, Field(title="Last change", description="Null where there was none yet.")] = None
    changed_by: Annotated[str | None, Field(title="By whom")] = None
    archived_at: Annotated[datetime | None, Field(title="Archived", description="Null for one that is worked on.")] = None
    deleted_at: Annotated[
        datetime | None, Field(title="Deleted", description="It is restored within 30 days; null for one that is there.")
    ] = None


class DesignListing:
    """The designs as a list."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def summaries(self, *, deleted: bool = False) -> list[DesignSummary]:
        """Return all designs by name: those that are there, or those that were deleted."""
        last = (
            select(_CHANGE.made_at, _CHANGE.author).where(_of(tables.change)).order_by(_CHANGE.revision.desc()).limit(1).lateral()
        )
        shown = (
            *(_DESIGN.id, _DESIGN.name, _DESIGN.revision, _DESIGN.archived_at, _DESIGN.deleted_at),
            _count(tables.plain[ObjectType.SITE]).label("sites"),
            _count(tables.tunnel).label("tunnels"),
            *(_EXAMINED.findings, _EXAMINED.blockers, _EXAMINED.revision.label("examined")),
            last.c.made_at.label("changed_at"),
            last.c.author.label("changed_by"),
        )
        designs = tables.design.outerjoin(last, true()).outerjoin(
            tables.examination, _of(tables.examination) & (_EXAMINED.incarnation == _DESIGN.incarnation)
        )
        query = (
            select(*shown)
            .select_from(designs)
            .where(_DESIGN.deleted_at.is_not(None) if deleted else _DESIGN.deleted_at.is_(None))
        )
        with self._engine.connect() as connection:
            rows = connection.execute(query.order_by(_DESIGN.name, _DESIGN.id)).mappings()
            return [DesignSummary(**row) for row in rows]

    def ids_like(self, base: str) -> frozenset[str]:
        """Return the ids that are a name or begin with it and a hyphen, deleted ones included."""
        query = select(_DESIGN.id).where((_DESIGN.id == base) | _DESIGN.id.startswith(f"{base}-", autoescape=True))
        with self._engine.connect() as connection:
            return frozenset(connection.scalars(query))

    def examined(self, standing: DesignState, findings: int, blockers: int) -> None:
        """Keep what an analysis counted, unless the design is gone or a newer state of it was examined meanwhile."""
        counted = {"revision": standing.revision, "findings": findings, "blockers": blockers}
        values = {"design_id": standing.design_id, "incarnation": standing.incarnation, **counted}
        there = select(*(literal(value).label(name) for name, value in values.items())).where(
            exists().where(_DESIGN.id == standing.design_id)
        )
        newer = (_EXAMINED.incarnation != standing.incarnation) | (_EXAMINED.revision <= standing.revision)
        written = insert(tables.examination).from_select(list(values), there)
        with self._engine.begin() as connection:
            connection.execute(text("SET LOCAL synchronous_commit TO off"))  # it is counted again where it gets lost
            connection.execute(written.on_conflict_do_update(index_elements=["design_id"], set_=values, where=newer))

    def archive(self, design_id: str, *, archived: bool) -> None:
        """Put a design aside, or take it out again. Raise DesignNotFound."""
        self._mark(design_id, _DESIGN.deleted_at.is_(None), archived_at=func.now() if archived else None)

    def delete(self, design_id: str) -> None:
        """Delete a design, so that it can be restored for a time. Raise DesignNotFound."""
        self._mark(design_id, _DESIGN.deleted_at.is_(None), deleted_at=func.now())

    def restore(self, design_id: str) -> None:
        """Bring a deleted design back, with its history. Raise DesignNotFound."""
        self._mark(design_id, _DESIGN.deleted_at.is_not(None), deleted_at=None)

    def purge(self) -> int:
        """Remove for good what was deleted longer ago than it can be restored, with its history and keys; return how many."""
        gone = delete(tables.design).where(_DESIGN.deleted_at < func.now() - RESTORED_WITHIN)
        with self._engine.begin() as connection:
            return connection.execute(gone).rowcount

    def _mark(self, design_id: str, is_fit: ColumnElement[bool], **columns: object) -> None:
        marked = update(tables.design).where(_DESIGN.id == design_id, is_fit).values(columns)
        with self._engine.begin() as connection:
            if not connection.execute(marked).rowcount:
                raise DesignNotFound(design_id)
