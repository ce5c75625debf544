"""Designs: loaded once a revision, changed through the repository, analysed once a revision."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, date, datetime
from threading import Lock
from typing import Annotated, Final

import structlog
from pydantic import Field

from pontifex.core.design_file import read_design_file
from pontifex.core.errors import NotFound
from pontifex.core.failures import FailedCheck
from pontifex.core.findings import Analysis, AnalysisCache, AnalysisChange, analyse, analysis_change
from pontifex.core.kinds import ObjectType
from pontifex.core.matching import Match, match
from pontifex.core.model import AnyOperation, Design, FieldChange, LoggedOperation, apply_operations, difference
from pontifex.core.model.ids import slug
from pontifex.store import MOST_FIELDS, AppliedChange, ChangeKind, DesignExists, DesignRepository, LoggedChange

_KEPT_DESIGNS = 8
_PATIENCE_S: Final = 0.25
_MOST_EXAMINED: Final = 16  # designs at a time; most of the others wait for a lock
_MOST_IDS_TRIED = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignSummary:
    """A design in a list."""

    id: str
    name: str
    revision: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeResult:
    """What a change did, or would do when it is only tried."""

    revision: Annotated[int, Field(title="Revision", description="Of the design after the change; as it was when only tried.")]
    fields: Annotated[tuple[FieldChange, ...], Field(title="What changed", description="At most 200 fields.")]
    operations: Annotated[
        tuple[LoggedOperation, ...], Field(title="Operations that lead there", description="None when only tried.")
    ] = ()
    analysis: Annotated[
        AnalysisChange | None,
        Field(title="What it does to the analysis", description="Null when the analysis is to be read anew."),
    ] = None


@dataclass(frozen=True, slots=True, kw_only=True)
class History:
    """The newest changes, and what undo and redo would be about."""

    revision: int
    changes: Annotated[tuple[LoggedChange, ...], Field(title="Changes", description="Newest first.")]
    undo: Annotated[str | None, Field(title="Note of the change that undo takes back", description="Null when there is none.")]
    redo: Annotated[str | None, Field(title="Note of the change that redo makes again", description="Null when there is none.")]


class TunnelNotFound(NotFound):
    """The design has no tunnel of this id."""

    title = "No such tunnel"


def utc_day() -> date:
    """Return today, in UTC."""
    return datetime.now(UTC).date()


class DesignService:
    """All use cases about designs."""

    def __init__(
        self, repository: DesignRepository, today: Callable[[], date] = utc_day, patience_s: float = _PATIENCE_S
    ) -> None:
        """`patience_s` is how long a change waits for what is to be said of it before it is answered without."""
        self._repository, self._today, self._patience_s = repository, today, patience_s
        self._examining = ThreadPoolExecutor(_MOST_EXAMINED, thread_name_prefix="analysis")
        self._designs: dict[str, Design] = {}
        self._analyses: dict[str, Analysis] = {}
        self._memories: dict[str, AnalysisCache] = {}
        self._lock, self._analysis_locks = Lock(), dict[str, Lock]()
        self.failed_checks = 0  # since the start

    def list(self) -> list[DesignSummary]:
        """Return all designs by name."""
        return [DesignSummary(id=id_, name=name, revision=revision) for id_, name, revision in self._repository.names()]

    def revision(self, design_id: str) -> int:
        """Return the current revision of a design."""
        return self._repository.revision(design_id)

    def get(self, design_id: str) -> Design:
        """Return a design as it stands; read again only when its revision moved on."""
        revision = self._repository.revision(design_id)
        kept = self._designs.get(design_id)
        if kept and kept.revision == revision:
            return kept
        return self._keep(self._repository.load(design_id))

    def at(self, design_id: str, revision: int) -> Design:
        """Return a design as it stood at an earlier revision. Raise DesignNotFound, or NothingToUndo where there was none."""
        return self._repository.at(self.get(design_id), revision)

    @property
    def today(self) -> date:
        """The day for which certificates and exceptions are judged."""
        return self._today()

    def analysis(self, design_id: str) -> Analysis:
        """Return the analysis of a design as it stands, today."""
        return self._analysed(self.get(design_id))

    def _analysed(self, design: Design) -> Analysis:
        today = self.today
        kept = self._analyses.get(design.id)
        if kept and (kept.revision, kept.today) == (design.revision, today):
            return kept
        with self._analysing(design.id):  # the memory of a design is shared by all who ask for it
            kept = self._analyses.get(design.id)
            if kept and (kept.revision, kept.today) == (design.revision, today):
                return kept  # somebody else has asked for it meanwhile
            memory = self._memories.setdefault(design.id, AnalysisCache())
            fresh = analyse(design, today, memory, lambda failed: self._failed(design, failed))
            self._analyses[design.id] = fresh
        return fresh

    def _analysing(self, design_id: str) -> Lock:
        """Return the lock of a design's analysis: who asks for one design never waits for another."""
        with self._lock:
            return self._analysis_locks.setdefault(design_id, Lock())

    def _failed(self, design: Design, failed: FailedCheck) -> None:
        """Log and count a check that ended in an error of ours: the analysis names it, and stands without it."""
        self.failed_checks += 1
        named = {"design": design.id, "revision": design.revision, "check": failed.check, "about": failed.object_id}
        structlog.get_logger("analysis").error("check failed", **named, kind=failed.kind, exc_info=failed.error)

    def match(self, design_id: str, tunnel_id: str) -> tuple[int, Match]:
        """Return the revision and the comparison of the two ends of a tunnel. Raise TunnelNotFound."""
        design = self.get(design_id)
        tunnel = design.tunnel_by_id.get(tunnel_id)
        if tunnel is None:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        return design.revision, match(design, tunnel, self.today)

    def create(self, name: str) -> Design:
        """Make an empty design and return it."""
        return self.add(Design(id="new", revision=0, name=name, key_salt=secrets.token_hex(16)))

    def import_text(self, text: str) -> Design:
        """Make a design of a design file. Raise UnreadableDesign with every place that is wrong."""
        return self.add(read_design_file(text, "new"))

    def add(self, design: Design) -> Design:
        """Keep a design under an id made of its name, and return it."""
        base = slug(design.name, "design")
        for number in range(1, _MOST_IDS_TRIED):
            named = design.changed(id=base if number == 1 else f"{base}-{number}")
            try:
                self._repository.create(named)
            except DesignExists:
                continue
            return self._keep(named)
        raise DesignExists(base)

    def change(
        self, design_id: str, base_revision: int, operations: Sequence[AnyOperation], note: str, author: str
    ) -> ChangeResult:
        """Apply a change through the repository."""
        kept = self._designs.get(design_id)
        return self._changed(self._repository.change(design_id, base_revision, operations, note, author, kept))

    def try_change(self, design_id: str, operations: Sequence[AnyOperation]) -> ChangeResult:
        """Return what a change would do to the design as it stands, and write nothing."""
        before = self.get(design_id)
        after = apply_operations(before, operations)
        return ChangeResult(revision=before.revision, fields=difference(before, after).fields(MOST_FIELDS))

    def undo(self, design_id: str, base_revision: int, author: str) -> ChangeResult:
        """Take the last change back that stands, as a change of its own."""
        kept = self._designs.get(design_id)
        return self._changed(self._repository.step(design_id, base_revision, ChangeKind.UNDO, author, kept))

    def redo(self, design_id: str, base_revision: int, author: str) -> ChangeResult:
        """Make the change again that was undone last, as a change of its own."""
        kept = self._designs.get(design_id)
        return self._changed(self._repository.step(design_id, base_revision, ChangeKind.REDO, author, kept))

    def history(self, design_id: str, tunnel_id: str | None = None, most: int = 100) -> History:
        """Return the newest changes, of one tunnel if it is named, and what undo and redo would be about."""
        revision = self._repository.revision(design_id)
        about = (ObjectType.TUNNEL, tunnel_id) if tunnel_id else None
        changes, undoable, redoable = self._repository.history(design_id, most, about)
        notes = {change.revision: change.note for change in changes}
        return History(
            revision=revision,
            changes=tuple(changes),
            undo=None if undoable is None else notes.get(undoable, f"revision {undoable}"),
            redo=None if redoable is None else notes.get(redoable, f"revision {redoable}"),
        )

    def _changed(self, written: AppliedChange) -> ChangeResult:
        design = written.design
        before = self._analyses.get(design.id)
        self._keep(design)
        after = self._soon_analysed(design)
        fits = before and after and (before.revision, before.today) == (design.revision - 1, after.today)
        return ChangeResult(
            revision=design.revision,
            fields=written.fields,
            operations=written.operations,
            analysis=analysis_change(before, after) if before and after and fits else None,
        )

    def _soon_analysed(self, design: Design) -> Analysis | None:
        """Return the analysis of a design that was just changed, if it is there soon: the change is answered in any case.

        It goes on by itself, and is there for whoever asks for it next.
        """
        coming = self._examining.submit(self._analysed_if_newest, design)
        try:
            return coming.result(self._patience_s)
        except TimeoutError:
            return None
        except Exception as error:
            structlog.get_logger("analysis").error("analysis failed", design=design.id, kind=type(error).__name__, exc_info=error)
            return None

    def _analysed_if_newest(self, design: Design) -> Analysis | None:
        """Wait for an analysis of the design that goes on; then return this one, unless there is a newer state by then."""
        with self._analysing(design.id):
            newest = self._designs.get(design.id)
        return self._analysed(design) if newest is None or newest.revision <= design.revision else None

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
                    self._memories.pop(oldest, None)
        return design
