"""Designs: made, changed through the repository, and put aside."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import count
from typing import Annotated, Final
from uuid import UUID

from pydantic import Field, TypeAdapter
from sqlalchemy.exc import DBAPIError

from pontifex.core.as_json import json_octets
from pontifex.core.design_file import read_design_file, write_design_file
from pontifex.core.errors import NotFound
from pontifex.core.kinds import KINDS, ObjectType
from pontifex.core.model import AnyOperation, Design, FieldChange, LoggedOperation, Operation, apply_operations, difference, put
from pontifex.core.model.ids import slug
from pontifex.services.kept import KeptDesigns
from pontifex.services.revised import Revised
from pontifex.services.turns import Turns
from pontifex.store import (
    MOST_FIELDS,
    AppliedChange,
    ChangeKind,
    DesignExists,
    DesignListing,
    DesignState,
    DesignSummary,
    LoggedChange,
)
from pontifex.store.errors import DatabaseFull, unavailable

OPERATIONS: Final[TypeAdapter[Sequence[AnyOperation]]] = TypeAdapter(list[Operation])
_MOST_SMALL: Final = 3000  # objects: about 50 ms to write
_MOST_LARGE: Final = 4  # kinds of object that are named where a design is too large for a question


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeResult:
    """What a change did, or would do when it is only tried."""

    revision: Annotated[int, Field(title="Revision", description="Of the design after the change; as it was when only tried.")]
    fields: Annotated[tuple[FieldChange, ...], Field(title="What changed", description="At most 200 fields.")]
    operations: Annotated[
        tuple[LoggedOperation, ...], Field(title="Operations that lead there", description="None when only tried.")
    ] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class History:
    """The newest changes, and what undo and redo would be about."""

    revision: int
    changes: Annotated[tuple[LoggedChange, ...], Field(title="Changes", description="Newest first.")]
    undo: Annotated[str | None, Field(title="Note of the change that undo takes back", description="Null when there is none.")]
    redo: Annotated[str | None, Field(title="Note of the change that redo makes again", description="Null when there is none.")]


class ChangeNotFound(NotFound):
    """No change of this id was written."""

    title = "Not written"


class RevisionNotFound(NotFound):
    """The design has no such revision."""

    title = "No such revision"


class DesignService:
    """All use cases about designs."""

    def __init__(self, kept: KeptDesigns, listing: DesignListing) -> None:
        self._kept, self._repository, self._listing = kept, kept.repository, listing
        self._turns = Turns()

    def list(self, *, deleted: bool = False) -> list[DesignSummary]:
        """Return all designs by name: those that are there, or those that were deleted."""
        return self._listing.summaries(deleted=deleted)

    def standing(self, design_id: str) -> DesignState:
        """Return which state of a design stands. Raise DesignNotFound."""
        return self._repository.standing(design_id)

    def get(self, design_id: str) -> Design:
        """Return a design as it stands. Raise DesignNotFound."""
        return self._kept.get(design_id)

    def revised(self, design_id: str) -> Revised[Design]:
        """Return a design as it stands, with its revision. Raise DesignNotFound."""
        design = self._kept.get(design_id)
        return Revised.of(design, design)

    def written_if_small(self, design_id: str) -> Revised[bytes] | None:
        """Return a design as JSON; None for one so large that writing it would hold others up. Raise DesignNotFound."""
        design = self._kept.get(design_id)
        if sum(len(getattr(design, kind.members)) for kind in KINDS) > _MOST_SMALL:
            return None
        return Revised.of(design, json_octets(design))

    def largest(self, design_id: str) -> str:
        """Say what makes a design large; nothing for one that isn't known here."""
        design = self._kept.known(design_id)
        counts = sorted(((len(getattr(design, kind.members)), kind.title) for kind in KINDS), reverse=True) if design else ()
        return ", ".join(f"{number:,} {title.lower()}" for number, title in counts[:_MOST_LARGE] if number)

    def create(self, name: str) -> DesignSummary:
        """Make an empty design."""
        return summary(self.add(Design(id="new", revision=0, name=name, key_salt=secrets.token_hex(16))))

    def import_text(self, text: str) -> DesignSummary:
        """Make a design of a design file. Raise UnreadableDesign with every place that is wrong."""
        return summary(self.add(read_design_file(text, "new")))

    def export(self, design_id: str, *, weak_secrets: bool = True) -> bytes:
        """Return a design's file, without `weak_secrets` with nothing of those that could be guessed. Raise DesignNotFound."""
        return write_design_file(self.get(design_id), weak_secrets=weak_secrets).encode()

    def add(self, design: Design) -> Design:
        """Keep a design under an id made of its name, and return it."""
        base = slug(design.name, "design")
        taken = self._listing.ids_like(base)
        for number in count(1):
            id_ = base if number == 1 else f"{base}-{number}"
            if id_ in taken:
                continue
            try:
                return self.add_as(id_, design)
            except DesignExists:  # somebody else has made it just now
                continue
        raise AssertionError("numbers don't end")

    def is_taken(self, design_id: str) -> bool:
        """Whether a design has an id, or had it and was deleted."""
        return design_id in self._listing.ids_like(design_id)

    def add_as(self, design_id: str, design: Design) -> Design:
        """Keep a design under an id, and return it. Raise DesignExists."""
        return self._kept.keep(self._repository.create(design.changed(id=design_id)))

    def change(
        self, base: DesignState, operations: Sequence[AnyOperation], note: str, author: str, change_id: UUID | None = None
    ) -> ChangeResult:
        """Apply a change through the repository."""
        try:
            with self._turns.of(base.design_id):
                kept = self._kept.known(base.design_id)
                return self._changed(self._repository.change(base, operations, note, author, kept, change_id))
        except DBAPIError as error:
            return self._after_all(error, base, change_id)

    def try_change(self, design_id: str, operations: bytes) -> ChangeResult:
        """Return what a change, whose operations are given as JSON, would do to the design as it stands; write nothing."""
        before = self.get(design_id)
        after = apply_operations(before, OPERATIONS.validate_json(operations))
        return ChangeResult(revision=before.revision, fields=difference(before, after).fields(MOST_FIELDS))

    def way_back(self, design_id: str, revision: int) -> ChangeResult:
        """Return the change that leads a design as it stands back to an earlier revision. Raise RevisionNotFound."""
        now = self.get(design_id)
        if not 0 <= revision <= now.revision:
            raise RevisionNotFound(f"there is no revision {revision}; the design is at {now.revision}")
        found = difference(now, self._repository.at(now, revision))
        return ChangeResult(revision=now.revision, fields=found.fields(MOST_FIELDS), operations=found.forward)

    def undo(self, base: DesignState, author: str, change_id: UUID | None = None) -> ChangeResult:
        """Take the last change back that stands, as a change of its own."""
        return self._stepped(ChangeKind.UNDO, base, author, change_id)

    def redo(self, base: DesignState, author: str, change_id: UUID | None = None) -> ChangeResult:
        """Make the change again that was undone last, as a change of its own."""
        return self._stepped(ChangeKind.REDO, base, author, change_id)

    def _stepped(self, kind: ChangeKind, base: DesignState, author: str, change_id: UUID | None) -> ChangeResult:
        try:
            with self._turns.of(base.design_id):
                kept = self._kept.known(base.design_id)
                return self._changed(self._repository.step(base, kind, author, kept, change_id))
        except DBAPIError as error:
            return self._after_all(error, base, change_id)

    def _after_all(self, error: DBAPIError, base: DesignState, change_id: UUID | None) -> ChangeResult:
        """Find out whether a change was written whose end the database could not tell; answer it if it was.

        Raise Unavailable, which says what is known; or the error itself, which is one of ours.
        """
        trouble = unavailable(error, "Nothing was written.")
        if trouble is None:
            raise error
        if isinstance(trouble, DatabaseFull):
            raise trouble from None
        try:
            written = self._repository.change_of_id(base.design_id, change_id) if change_id else None
        except DBAPIError:
            raise unavailable(error, "Whether this change was written isn't known.") or error from None
        if written is None:
            raise (trouble if change_id else unavailable(error, "Whether this was written isn't known.") or error) from None
        return ChangeResult(revision=written.revision, fields=written.fields)

    def written(self, design_id: str, change_id: UUID) -> LoggedChange:
        """Return the change that its maker gave an id. Raise DesignNotFound, or ChangeNotFound when it was not written."""
        found = self._repository.change_of_id(design_id, change_id)
        if found is None:
            raise ChangeNotFound("no change of this id was written")
        return found

    def history(self, design_id: str, tunnel_id: str | None = None, most: int = 100) -> History:
        """Return the newest changes, of one tunnel if it is named, and what undo and redo would be about."""
        revision = self.standing(design_id).revision
        about = (ObjectType.TUNNEL, tunnel_id) if tunnel_id else None
        changes, undoable, redoable = self._repository.history(design_id, most, about)
        notes = {change.revision: change.note for change in changes}
        return History(
            revision=revision,
            changes=tuple(changes),
            undo=None if undoable is None else notes.get(undoable, f"revision {undoable}"),
            redo=None if redoable is None else notes.get(redoable, f"revision {redoable}"),
        )

    def rename(self, design_id: str, name: str, author: str) -> ChangeResult:
        """Give a design another name, as a change. Its id stays, since links name it. Raise DesignNotFound, Archived."""
        design = self.get(design_id)
        base = DesignState(design_id, design.revision, design.incarnation)
        return self.change(base, [put(design.settings.changed(name=name))], f"Rename to {name}", author)

    def archive(self, design_id: str, *, archived: bool) -> None:
        """Put a design aside, or take it out again. Raise DesignNotFound."""
        self._listing.archive(design_id, archived=archived)

    def delete(self, design_id: str) -> None:
        """Delete a design, so that it can be restored within 30 days. Raise DesignNotFound."""
        self._listing.delete(design_id)

    def restore(self, design_id: str) -> None:
        """Bring a deleted design back, with its history and keys. Raise DesignNotFound."""
        self._listing.restore(design_id)

    def purge(self) -> int:
        """Remove for good what can't be restored any more; return how many designs."""
        return self._listing.purge()

    def _changed(self, written: AppliedChange) -> ChangeResult:
        self._kept.keep(written.design)
        return ChangeResult(revision=written.design.revision, fields=written.fields, operations=written.operations)


def summary(design: Design) -> DesignSummary:
    """Return a design as it stands in a list."""
    sites, tunnels = len(design.sites), len(design.tunnels)
    return DesignSummary(id=design.id, name=design.name, revision=design.revision, sites=sites, tunnels=tunnels)
