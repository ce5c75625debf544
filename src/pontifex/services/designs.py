"""Designs: loaded once a revision, changed through the one door, analysed once a revision."""

from __future__ import annotations

import re
import secrets
import unicodedata
from collections.abc import Sequence
from threading import Lock

from pydantic import Field

from pontifex.core.design_file import read_design_file
from pontifex.core.findings import Analysis, analyse
from pontifex.core.matching import Match, match
from pontifex.core.model import Design, FieldChange, Put, Remove, apply_operations, difference
from pontifex.core.value import Value
from pontifex.store import MOST_FIELDS, ChangeKind, DesignExists, LoggedChange, WriteDoor, Written

_KEPT_DESIGNS = 8
_MOST_IDS_TRIED = 100


class DesignSummary(Value):
    """A design in a list."""

    id: str
    name: str
    revision: int


class Changed(Value):
    """What a change did, or would do when it is only tried."""

    revision: int = Field(title="Revision", description="Of the design after the change; as it was when only tried.")
    fields: tuple[FieldChange, ...] = Field(title="What changed", description="At most 200 fields.")


class History(Value):
    """The newest changes, and what undo and redo would be about."""

    revision: int
    changes: tuple[LoggedChange, ...] = Field(title="Changes", description="Newest first.")
    undo: str | None = Field(title="Note of the change that undo takes back", description="Null when there is none.")
    redo: str | None = Field(title="Note of the change that redo makes again", description="Null when there is none.")


class TunnelNotFound(Exception):
    """The design has no tunnel of this id."""


class DesignService:
    """All use cases about designs."""

    def __init__(self, door: WriteDoor) -> None:
        self._door = door
        self._designs: dict[str, Design] = {}
        self._analyses: dict[str, Analysis] = {}
        self._lock = Lock()

    def list(self) -> list[DesignSummary]:
        """Return all designs by name."""
        return [DesignSummary(id=id_, name=name, revision=revision) for id_, name, revision in self._door.names()]

    def revision(self, design_id: str) -> int:
        """Return the current revision of a design."""
        return self._door.revision(design_id)

    def get(self, design_id: str) -> Design:
        """Return a design as it stands; read again only when its revision moved on."""
        revision = self._door.revision(design_id)
        kept = self._designs.get(design_id)
        if kept and kept.revision == revision:
            return kept
        return self._keep(self._door.load(design_id))

    def analysis(self, design_id: str) -> Analysis:
        """Return the analysis of a design as it stands."""
        design = self.get(design_id)
        kept = self._analyses.get(design_id)
        if kept and kept.revision == design.revision:
            return kept
        fresh = analyse(design)
        with self._lock:
            self._analyses[design_id] = fresh
        return fresh

    def match(self, design_id: str, tunnel_id: str) -> tuple[int, Match]:
        """Return the revision and the comparison of the two ends of a tunnel. Raise TunnelNotFound."""
        design = self.get(design_id)
        tunnel = design.tunnel_by_id.get(tunnel_id)
        if tunnel is None:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        return design.revision, match(design, tunnel)

    def create(self, name: str) -> Design:
        """Make an empty design and return it."""
        return self.add(Design(id="new", revision=0, name=name, key_salt=secrets.token_hex(16)))

    def import_text(self, text: str) -> Design:
        """Make a design of a design file. Raise UnreadableDesign with every place that is wrong."""
        return self.add(read_design_file(text, "new"))

    def add(self, design: Design) -> Design:
        """Keep a design under an id made of its name, and return it."""
        base = _slug(design.name)
        for number in range(1, _MOST_IDS_TRIED):
            named = design.model_copy(update={"id": base if number == 1 else f"{base}-{number}"})
            try:
                self._door.create(named)
            except DesignExists:
                continue
            return self._keep(named)
        raise DesignExists(base)

    def change(self, design_id: str, base_revision: int, operations: Sequence[Put | Remove], note: str, author: str) -> Changed:
        """Apply a change through the one door."""
        kept = self._designs.get(design_id)
        return self._changed(self._door.change(design_id, base_revision, operations, note, author, kept))

    def try_change(self, design_id: str, operations: Sequence[Put | Remove]) -> Changed:
        """Return what a change would do to the design as it stands, and write nothing."""
        before = self.get(design_id)
        after = apply_operations(before, operations)
        return Changed(revision=before.revision, fields=difference(before, after).fields(MOST_FIELDS))

    def undo(self, design_id: str, base_revision: int, author: str) -> Changed:
        """Take the last change back that stands, as a change of its own."""
        return self._changed(self._door.step(design_id, base_revision, ChangeKind.UNDO, author))

    def redo(self, design_id: str, base_revision: int, author: str) -> Changed:
        """Make the change again that was undone last, as a change of its own."""
        return self._changed(self._door.step(design_id, base_revision, ChangeKind.REDO, author))

    def history(self, design_id: str, most: int = 100) -> History:
        """Return the newest changes and what undo and redo would be about."""
        revision = self._door.revision(design_id)
        changes, undoable, redoable = self._door.history(design_id, most)
        notes = {change.revision: change.note for change in changes}
        return History(
            revision=revision,
            changes=tuple(changes),
            undo=None if undoable is None else notes.get(undoable, f"revision {undoable}"),
            redo=None if redoable is None else notes.get(redoable, f"revision {redoable}"),
        )

    def _changed(self, written: Written) -> Changed:
        self._keep(written.design)
        return Changed(revision=written.design.revision, fields=written.fields)

    def _keep(self, design: Design) -> Design:
        with self._lock:
            kept = self._designs.get(design.id)
            if kept is None or kept.revision < design.revision:
                self._designs.pop(design.id, None)
                self._designs[design.id] = design
                while len(self._designs) > _KEPT_DESIGNS:
                    oldest = next(iter(self._designs))
                    del self._designs[oldest]
                    self._analyses.pop(oldest, None)
        return design


def _slug(name: str) -> str:
    """Return an id made of a name: letters without marks, digits and hyphens."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:50].strip("-") or "design"
