"""The one repository for writes: a change is checked, applied and logged in one transaction, or refused whole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from typing import Any, Final

from pydantic import Field, TypeAdapter
from sqlalchemy import Connection, Engine, insert, select, text, update
from sqlalchemy.exc import IntegrityError

from pontifex.core.errors import Conflict
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import KINDS, ObjectType
from pontifex.core.model import (
    AnyOperation,
    Design,
    FieldChange,
    LoggedOperation,
    Put,
    Remove,
    apply_operations,
    difference,
    put,
    touched_objects,
)
from pontifex.core.model.operations import target
from pontifex.store import tables
from pontifex.store.database import violated_constraint
from pontifex.store.errors import DesignExists, DesignNotFound
from pontifex.store.rows import load_design, settings_row, write_operations

_OPERATIONS: Final[TypeAdapter[tuple[Put | Remove, ...]]] = TypeAdapter(tuple[LoggedOperation, ...])
_FIELDS: Final[TypeAdapter[tuple[FieldChange, ...]]] = TypeAdapter(tuple[FieldChange, ...])
MOST_FIELDS: Final = 200  # a pasted table of thousands of rows is summed up by its note
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


class ChangeConflict(Conflict):
    """Somebody changed the same objects since the base revision; nothing was written."""

    title = "Somebody was quicker"

    def __init__(self, revision: int, meanwhile: Sequence[LoggedChange]) -> None:
        super().__init__("the same objects were changed meanwhile")
        self.revision, self.meanwhile = revision, tuple(meanwhile)


class NothingToUndo(Conflict):
    """There is no change left to undo, or none to redo."""

    title = "Nothing left"


@dataclass(frozen=True, slots=True)
class AppliedChange:
    """What a change led to."""

    design: Design
    operations: tuple[Put | Remove, ...]  # that lead from the state before to this one
    fields: tuple[FieldChange, ...]  # at most MOST_FIELDS of them


class DesignRepository:
    """Reads designs and writes changes. No other code path writes to a design."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def revision(self, design_id: str) -> int:
        """Return the current revision of a design. Raise DesignNotFound."""
        with self._engine.connect() as connection:
            found: int | None = connection.scalar(select(tables.design.c.revision).where(tables.design.c.id == design_id))
        if found is None:
            raise DesignNotFound(design_id)
        return found

    def load(self, design_id: str) -> Design:
        """Return a design as it stands, read in one snapshot. Raise DesignNotFound."""
        with self._engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
            return _loaded(connection, design_id)

    def at(self, design: Design, revision: int) -> Design:
        """Return a design as it stood at an earlier revision: with all later changes taken back. Raise NothingToUndo."""
        if not 0 <= revision <= design.revision:
            raise NothingToUndo(f"there is no revision {revision}: the design is at {design.revision}")
        columns = tables.change.c
        later = select(columns.backward).where(
            columns.design_id == design.id, columns.revision > revision, columns.revision <= design.revision
        )
        with self._engine.connect() as connection:
            for backward in connection.scalars(later.order_by(columns.revision.desc())):
                design = apply_operations(design, _OPERATIONS.validate_python(backward))
        return design.changed(revision=revision)

    def names(self) -> list[tuple[str, str, int]]:
        """Return id, name and revision of all designs, by name."""
        columns = tables.design.c
        query = select(columns.id, columns.name, columns.revision).order_by(columns.name, columns.id)
        with self._engine.connect() as connection:
            return [(row.id, row.name, row.revision) for row in connection.execute(query)]

    def create(self, design: Design) -> None:
        """Write a new design at its revision 0. Raise DesignExists."""
        row = {"id": design.id, "key_salt": design.key_salt, "revision": 0, **settings_row(design.settings)}
        items = [item for kind in KINDS for item in getattr(design, kind.members)]
        try:
            with self._engine.begin() as connection:
                connection.execute(insert(tables.design), row)
                write_operations(connection, design.id, [put(design.settings), *(put(item) for item in items)])
        except IntegrityError as error:
            if violated_constraint(error) == tables.design.primary_key.name:
                raise DesignExists(design.id) from None
            raise

    def change(
        self,
        design_id: str,
        base_revision: int,
        operations: Sequence[AnyOperation],
        note: str,
        author: str,
        kept: Design | None = None,
    ) -> AppliedChange:
        """Apply operations to a design and log them.

        Changes that others made since `base_revision` stand in the way only where they touch the same objects.
        `kept` saves reading the design again where it is at the current revision. A change that changes nothing makes
        no revision. Raise DesignNotFound, ChangeConflict, or ChangeRefused of the core.
        """
        with self._engine.begin() as connection:
            revision = _lock(connection, design_id)
            before = kept if kept and kept.revision == revision else _loaded(connection, design_id)
            wanted = touched_objects(before, operations) if base_revision < revision else frozenset()
            meanwhile = _touching(connection, design_id, base_revision, wanted) if wanted else []
            if meanwhile or base_revision > revision:
                raise ChangeConflict(revision, meanwhile)
            return _write(connection, before, operations, note, author, ChangeKind.EDIT, None)

    def step(
        self, design_id: str, base_revision: int, kind: ChangeKind, author: str, kept: Design | None = None
    ) -> AppliedChange:
        """Undo the last change that stands, or redo the last one undone.

        Either is a change of its own. Raise DesignNotFound, NothingToUndo, or ChangeConflict when the base revision is
        not the current one.
        """
        with self._engine.begin() as connection:
            revision = _lock(connection, design_id)
            if base_revision != revision:
                raise ChangeConflict(revision, _log(connection, design_id, after=base_revision))
            undoable, redoable = _stacks(connection, design_id)
            stack = undoable if kind is ChangeKind.UNDO else redoable
            if not stack:
                raise NothingToUndo(f"there is nothing to {kind.value}")
            columns = tables.change.c
            query = select(tables.change).where(columns.design_id == design_id, columns.revision == stack[-1])
            row = connection.execute(query).mappings().one()
            operations = _OPERATIONS.validate_python(row["backward" if kind is ChangeKind.UNDO else "forward"])
            before = kept if kept and kept.revision == revision else _loaded(connection, design_id)
            return _write(connection, before, operations, row["note"], author, kind, stack[-1])

    def history(
        self, design_id: str, most: int, about: tuple[ObjectType, str] | None = None
    ) -> tuple[list[LoggedChange], int | None, int | None]:
        """Return the newest changes, newest first, and the revisions that undo and redo would be about.

        With `about`, only the changes that put or removed that object.
        """
        with self._engine.connect() as connection:
            undoable, redoable = _stacks(connection, design_id)
            log = _log(connection, design_id, most=most, about=about)
        return log, undoable[-1] if undoable else None, redoable[-1] if redoable else None


def _loaded(connection: Connection, design_id: str) -> Design:
    design = load_design(connection, design_id)
    if design is None:
        raise DesignNotFound(design_id)
    return design


def _lock(connection: Connection, design_id: str) -> int:
    """Let one change at a time into a design; return its revision."""
    query = select(tables.design.c.revision).where(tables.design.c.id == design_id).with_for_update()
    revision: int | None = connection.scalar(query)
    if revision is None:
        raise DesignNotFound(design_id)
    return revision


def _write(
    connection: Connection,
    before: Design,
    operations: Sequence[AnyOperation],
    note: str,
    author: str,
    kind: ChangeKind,
    target: int | None,
) -> AppliedChange:
    after = apply_operations(before, operations)
    changed = difference(before, after)
    if not changed.objects:
        return AppliedChange(before, (), ())
    forward, fields = changed.forward, changed.fields(MOST_FIELDS)
    write_operations(connection, before.id, forward)
    connection.execute(update(tables.design).where(tables.design.c.id == before.id).values(revision=after.revision))
    entry = {
        "design_id": before.id,
        "revision": after.revision,
        "kind": kind.value,
        "target": target,
        "author": author,
        "note": note,
        "forward": _OPERATIONS.dump_python(forward, mode="json"),
        "backward": _OPERATIONS.dump_python(changed.backward, mode="json"),
        "fields": _FIELDS.dump_python(fields, mode="json"),
    }
    connection.execute(insert(tables.change), entry)
    connection.execute(text("SET CONSTRAINTS ALL IMMEDIATE"))  # a broken reference shows here, not at commit
    return AppliedChange(after, forward, fields)


def _touching(
    connection: Connection, design_id: str, base_revision: int, wanted: frozenset[tuple[ObjectType, str]]
) -> list[LoggedChange]:
    """Return the changes since the base revision that touched one of these objects, oldest first, with what they did to these."""
    columns = tables.change.c
    query = select(tables.change).where(columns.design_id == design_id, columns.revision > base_revision)
    rows = connection.execute(query.order_by(columns.revision)).mappings()
    touching = (row for row in rows if wanted & {target(one) for one in _OPERATIONS.validate_python(row["forward"])})
    return [_about(_logged(row), wanted) for row in touching]


def _about(change: LoggedChange, wanted: frozenset[tuple[ObjectType, str]]) -> LoggedChange:
    fields = tuple(field for field in change.fields if (field.type, field.id) in wanted)
    return change.changed(fields=fields[:_MOST_CONFLICTING_FIELDS])


def _log(
    connection: Connection,
    design_id: str,
    after: int = -1,
    most: int = 1000,
    about: tuple[ObjectType, str] | None = None,
) -> list[LoggedChange]:
    columns = tables.change.c
    shown = [tables.change.c[field] for field in LoggedChange.model_fields]
    query = select(*shown).where(columns.design_id == design_id, columns.revision > after)
    if about:
        type_, id_ = about
        put_it = [{"op": f"put-{type_.value}", "object": {"id": id_}}]
        remove_it = [{"op": "remove", "type": type_.value, "id": id_}]
        query = query.where(columns.forward.contains(put_it) | columns.forward.contains(remove_it))
    return [_logged(row) for row in connection.execute(query.order_by(columns.revision.desc()).limit(most)).mappings()]


def _logged(row: Any) -> LoggedChange:
    return LoggedChange.model_validate({field: row[field] for field in LoggedChange.model_fields})


def _stacks(connection: Connection, design_id: str) -> tuple[list[int], list[int]]:
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
