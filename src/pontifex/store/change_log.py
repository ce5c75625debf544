"""The change log: what changed a design, who did, and what of it stands."""

from __future__ import annotations

from datetime import datetime
from enum import Enum
from typing import Any, Final
from uuid import UUID

from pydantic import Field, TypeAdapter
from sqlalchemy import Connection, select

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import ObjectType
from pontifex.core.model import FieldChange, LoggedOperation, Put, Remove
from pontifex.core.model.operations import target
from pontifex.store import tables

OPERATIONS: Final[TypeAdapter[tuple[Put | Remove, ...]]] = TypeAdapter(tuple[LoggedOperation, ...])
FIELDS: Final[TypeAdapter[tuple[FieldChange, ...]]] = TypeAdapter(tuple[FieldChange, ...])
_MOST_CONFLICTING_FIELDS: Final = 10  # of one change, that a conflict tells


class ChangeKind(Enum):
    """What a change is."""

    EDIT = "edit"
    UNDO = "undo"
    REDO = "redo"


class LoggedChange(FrozenModel):
    """One entry of the change log."""

    revision: int = Field(title="Revision", description="The one that the change led to.")
    kind: ChangeKind
    target: int | None = Field(title="Revision that an undo or redo is about")
    author: str = Field(title="Author")
    note: str = Field(title="Note")
    made_at: datetime = Field(title="Time", description="UTC.")
    fields: tuple[FieldChange, ...] = Field(title="What changed", description="At most 200 fields.")


def touching(
    connection: Connection, design_id: str, base_revision: int, wanted: frozenset[tuple[ObjectType, str]]
) -> list[LoggedChange]:
    """Return the changes since the base revision that touched one of these objects, oldest first, with what they did to these."""
    columns = tables.change.c
    query = select(tables.change).where(columns.design_id == design_id, columns.revision > base_revision)
    rows = connection.execute(query.order_by(columns.revision)).mappings()
    touching = (row for row in rows if wanted & {target(operation) for operation in OPERATIONS.validate_python(row["forward"])})
    return [_about(_logged(row), wanted) for row in touching]


def _about(change: LoggedChange, wanted: frozenset[tuple[ObjectType, str]]) -> LoggedChange:
    fields = tuple(field for field in change.fields if (field.type, field.id) in wanted)
    return change.changed(fields=fields[:_MOST_CONFLICTING_FIELDS])


def log(
    connection: Connection,
    design_id: str,
    after: int = -1,
    most: int = 1000,
    about: tuple[ObjectType, str] | None = None,
) -> list[LoggedChange]:
    """Return the newest changes after a revision, newest first; with `about`, only those that put or removed that object."""
    columns = tables.change.c
    shown = [tables.change.c[field] for field in LoggedChange.model_fields]
    query = select(*shown).where(columns.design_id == design_id, columns.revision > after)
    if about:
        type_, id_ = about
        put_it = [{"op": f"put-{type_.value}", "object": {"id": id_}}]
        remove_it = [{"op": "remove", "type": type_.value, "id": id_}]
        query = query.where(columns.forward.contains(put_it) | columns.forward.contains(remove_it))
    return [_logged(row) for row in connection.execute(query.order_by(columns.revision.desc()).limit(most)).mappings()]


def change_of_id(connection: Connection, design_id: str, change_id: UUID) -> LoggedChange | None:
    """Return the change that its maker gave an id, if it was written."""
    columns = tables.change.c
    query = select(tables.change).where(columns.design_id == design_id, columns.change_id == change_id)
    row = connection.execute(query).mappings().first()
    return _logged(row) if row else None


def _logged(row: Any) -> LoggedChange:
    return LoggedChange.model_validate({field: row[field] for field in LoggedChange.model_fields})


def stacks(connection: Connection, design_id: str) -> tuple[list[int], list[int]]:
    """Replay the kinds of the log: return the revisions that can be undone and redone, the next one last."""
    columns = tables.change.c
    query = select(columns.revision, columns.kind, columns.target).where(columns.design_id == design_id)
    undoable: list[int] = []
    redoable: list[int] = []
    for revision, kind, about in connection.execute(query.order_by(columns.revision)):
        if kind == ChangeKind.EDIT.value:
            undoable.append(revision)
            redoable.clear()
        elif kind == ChangeKind.UNDO.value:
            undoable.remove(about)
            redoable.append(about)
        else:
            redoable.remove(about)
            undoable.append(about)
    return undoable, redoable
