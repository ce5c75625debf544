"""The one repository for writes: a change is checked, applied and logged in one transaction, or refused whole."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Final
from uuid import UUID, uuid4

from sqlalchemy import Connection, Engine, insert, select, text, update
from sqlalchemy.exc import DBAPIError, IntegrityError

from pontifex.core.errors import Conflict
from pontifex.core.kinds import KINDS, ObjectType
from pontifex.core.model import (
    AnyOperation,
    Design,
    FieldChange,
    Put,
    Remove,
    apply_operations,
    difference,
    put,
    touched_objects,
)
from pontifex.store import change_log, tables
from pontifex.store.change_log import ChangeKind, LoggedChange
from pontifex.store.database import violated_constraint
from pontifex.store.errors import DesignExists, DesignNotFound, unavailable
from pontifex.store.rows import load_design, settings_row, write_operations

MOST_FIELDS: Final = 200  # a pasted table of thousands of rows is summed up by its note
_MOST_STEPS: Final = 50  # changes that are made again rather than that the whole design is read


class ChangeConflict(Conflict):
    """Somebody changed the same objects since the base revision; nothing was written."""

    title = "Somebody was quicker"

    def __init__(self, revision: int, meanwhile: Sequence[LoggedChange], *, is_other_history: bool = False) -> None:
        super().__init__("the same objects were changed meanwhile")
        self.revision, self.meanwhile, self.is_other_history = revision, tuple(meanwhile), is_other_history


class Archived(Conflict):
    """The design is put aside: it is read, and not changed."""

    title = "The design is archived"


class OnceOnly(Conflict):
    """A change of this id was written already; it is not made a second time."""

    title = "Written already"

    def __init__(self, written: LoggedChange) -> None:
        super().__init__(f"this change was written as revision {written.revision}")
        self.written = written


class NothingToUndo(Conflict):
    """There is no change left to undo, or none to redo."""

    title = "Nothing left"


@dataclass(frozen=True, slots=True)
class DesignState:
    """A state of a design: the one that stands, or the one that somebody saw."""

    design_id: str
    revision: int
    incarnation: str = ""  # empty for whichever stands
    is_archived: bool = False


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

    def standing(self, design_id: str) -> DesignState:
        """Return which state of a design stands. Raise DesignNotFound."""
        with self._engine.connect() as connection:
            return _standing(connection, design_id)

    def load(self, design_id: str) -> Design:
        """Return a design as it stands, read in one snapshot. Raise DesignNotFound."""
        with self._snapshot() as connection:
            return _loaded(connection, design_id)

    def advanced(self, design: Design) -> Design:
        """Return a design as it stands by now, made of an earlier state and the changes since. Raise DesignNotFound.

        What they didn't touch is the very same as before.
        """
        with self._snapshot() as connection:
            return _advanced(connection, design, _standing(connection, design.id))

    @contextmanager
    def _writing(self) -> Iterator[Connection]:
        """Give a connection within a transaction. Raise Unavailable where there is none to be had: nothing was written then."""
        try:
            connection = self._engine.connect()
        except DBAPIError as error:
            raise unavailable(error, "Nothing was written.") or error from None
        with connection, connection.begin():
            yield connection

    def _snapshot(self) -> Connection:
        return self._engine.connect().execution_options(isolation_level="REPEATABLE READ")

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
                design = apply_operations(design, change_log.OPERATIONS.validate_python(backward))
        return design.changed(revision=revision)

    def create(self, design: Design) -> Design:
        """Write a new design at its revision 0, and return it as an incarnation of its own. Raise DesignExists."""
        design = design.changed(incarnation=uuid4().hex)
        own = {"id": design.id, "key_salt": design.key_salt, "incarnation": design.incarnation, "revision": 0}
        items = [item for kind in KINDS for item in getattr(design, kind.members)]
        try:
            with self._engine.begin() as connection:
                connection.execute(insert(tables.design), {**own, **settings_row(design.settings)})
                write_operations(connection, design.id, [put(design.settings), *(put(item) for item in items)])
        except IntegrityError as error:
            if violated_constraint(error) == tables.design.primary_key.name:
                raise DesignExists(design.id) from None
            raise
        return design

    def change(
        self,
        base: DesignState,
        operations: Sequence[AnyOperation],
        note: str,
        author: str,
        kept: Design | None = None,
        change_id: UUID | None = None,
    ) -> AppliedChange:
        """Apply operations to a design and log them.

        Changes that others made since the `base` stand in the way only where they touch the same objects.
        `kept` saves reading the design again where it is at the current revision. A change that changes nothing makes
        no revision. Raise DesignNotFound, ChangeConflict, Archived, or ChangeRefused of the core; OnceOnly for an id that
        a change was written under already.
        """
        with self._writing() as connection:
            revision, before = _locked(connection, base, kept, change_id)
            wanted = touched_objects(before, operations) if base.revision < revision else frozenset()
            meanwhile = change_log.touching(connection, base.design_id, base.revision, wanted) if wanted else []
            if meanwhile or base.revision > revision:
                raise ChangeConflict(revision, meanwhile)
            return _write(connection, before, operations, note, author, ChangeKind.EDIT, None, change_id)

    def step(
        self, base: DesignState, kind: ChangeKind, author: str, kept: Design | None = None, change_id: UUID | None = None
    ) -> AppliedChange:
        """Undo the last change that stands, or redo the last one undone.

        Either is a change of its own. Raise DesignNotFound, Archived, NothingToUndo, OnceOnly, or ChangeConflict when the
        base is not the current state.
        """
        with self._writing() as connection:
            revision, before = _locked(connection, base, kept, change_id)
            if base.revision != revision:
                raise ChangeConflict(revision, change_log.log(connection, base.design_id, after=base.revision))
            undoable, redoable = change_log.stacks(connection, base.design_id)
            stack = undoable if kind is ChangeKind.UNDO else redoable
            if not stack:
                raise NothingToUndo(f"there is nothing to {kind.value}")
            columns = tables.change.c
            query = select(tables.change).where(columns.design_id == base.design_id, columns.revision == stack[-1])
            row = connection.execute(query).mappings().one()
            operations = change_log.OPERATIONS.validate_python(row["backward" if kind is ChangeKind.UNDO else "forward"])
            return _write(connection, before, operations, row["note"], author, kind, stack[-1], change_id)

    def change_of_id(self, design_id: str, change_id: UUID) -> LoggedChange | None:
        """Return the change that its maker gave an id, if it was written, when all that is written now has ended.

        Raise DesignNotFound.
        """
        with self._engine.begin() as connection:
            _standing(connection, design_id, locked=True)
            return change_log.change_of_id(connection, design_id, change_id)

    def history(
        self, design_id: str, most: int, about: tuple[ObjectType, str] | None = None
    ) -> tuple[list[LoggedChange], int | None, int | None]:
        """Return the newest changes, newest first, and the revisions that undo and redo would be about.

        With `about`, only the changes that put or removed that object.
        """
        with self._engine.connect() as connection:
            undoable, redoable = change_log.stacks(connection, design_id)
            log = change_log.log(connection, design_id, most=most, about=about)
        return log, undoable[-1] if undoable else None, redoable[-1] if redoable else None


def _loaded(connection: Connection, design_id: str) -> Design:
    design = load_design(connection, design_id)
    if design is None:
        raise DesignNotFound(design_id)
    return design


_HEAD: Final = (tables.design.c.incarnation, tables.design.c.revision, tables.design.c.archived_at)


def _standing(connection: Connection, design_id: str, *, locked: bool = False) -> DesignState:
    is_it = (tables.design.c.id == design_id) & tables.design.c.deleted_at.is_(None)
    query = select(*_HEAD).where(is_it)
    row = connection.execute(query.with_for_update() if locked else query).first()
    if row is None:
        raise DesignNotFound(design_id)
    return DesignState(design_id, row.revision, row.incarnation, is_archived=row.archived_at is not None)


def _locked(connection: Connection, base: DesignState, kept: Design | None, change_id: UUID | None) -> tuple[int, Design]:
    """Let one change at a time into a design; return its revision, and the design as it stands.

    Raise DesignNotFound, Archived, OnceOnly for a change that was written already, or ChangeConflict where the base is of
    another history.
    """
    standing = _standing(connection, base.design_id, locked=True)
    if base.incarnation not in ("", standing.incarnation):
        raise ChangeConflict(standing.revision, (), is_other_history=True)
    if standing.is_archived:
        raise Archived("this design is put aside; take it out before you change it")
    written = change_log.change_of_id(connection, base.design_id, change_id) if change_id else None
    if written:
        raise OnceOnly(written)
    before = _advanced(connection, kept, standing) if kept else _loaded(connection, base.design_id)
    return standing.revision, before


def _advanced(connection: Connection, design: Design, standing: DesignState) -> Design:
    """Return a design as it stands, made of an earlier state and the changes since where that is cheaper than reading it."""
    steps = standing.revision - design.revision
    if standing.incarnation != design.incarnation or not 0 <= steps <= _MOST_STEPS:
        return _loaded(connection, design.id)
    columns = tables.change.c
    since = select(columns.forward).where(columns.design_id == design.id, columns.revision > design.revision)
    for forward in connection.scalars(since.order_by(columns.revision)) if steps else ():
        design = apply_operations(design, change_log.OPERATIONS.validate_python(forward))
    return design


def _write(
    connection: Connection,
    before: Design,
    operations: Sequence[AnyOperation],
    note: str,
    author: str,
    kind: ChangeKind,
    target: int | None,
    change_id: UUID | None = None,
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
        "forward": change_log.OPERATIONS.dump_python(forward, mode="json"),
        "backward": change_log.OPERATIONS.dump_python(changed.backward, mode="json"),
        "fields": change_log.FIELDS.dump_python(fields, mode="json"),
        "change_id": change_id,
    }
    connection.execute(insert(tables.change), entry)
    connection.execute(text("SET CONSTRAINTS ALL IMMEDIATE"))  # a broken reference shows here, not at commit
    return AppliedChange(after, forward, fields)
