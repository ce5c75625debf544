"""Analyses of designs: made once a revision and day, and from the one before it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Annotated, Final

import structlog
from pydantic import Field
from sqlalchemy.exc import DBAPIError

from pontifex.core.catalogue import Severity
from pontifex.core.errors import NotFound
from pontifex.core.failures import FailedCheck
from pontifex.core.find import Hit, find
from pontifex.core.findings import (
    Analysis,
    AnalysisCache,
    AnalysisChange,
    FindingAt,
    analyse,
    analysis_change,
    mended_together,
)
from pontifex.core.matching import Match, Remedy, match
from pontifex.core.model import Design, FieldChange, Operation
from pontifex.services.day import utc_day
from pontifex.services.kept import KeptDesigns
from pontifex.services.revised import Revised
from pontifex.store import MOST_FIELDS, DesignListing, DesignState

MOST_SHOWN: Final = 1000  # collisions, and findings, in one answer


class TunnelNotFound(NotFound):
    """The design has no tunnel of this id."""

    title = "No such tunnel"


class FindingNotFound(NotFound):
    """The design has no such finding."""

    title = "No such finding"


@dataclass(frozen=True, slots=True, kw_only=True)
class Mending:
    """What mends several findings as one change."""

    operations: Annotated[tuple[Operation, ...], Field(title="Operations")]
    mended: Annotated[int, Field(title="How many of them it mends")]
    fields: Annotated[tuple[FieldChange, ...], Field(title="What changes")]


@dataclass
class _Examined:
    """A design with its analysis, and what the next one can be made of."""

    memory: AnalysisCache = field(default_factory=AnalysisCache)
    design: Design | None = None
    analysis: Analysis | None = None
    is_noted: bool = False  # whether its counts are kept: a task may be broken off before they are

    def holds(self, design: Design, today: date) -> bool:
        """Whether the analysis is of this very state and day."""
        return self.design is design and self.analysis is not None and self.analysis.today == today


class AnalysisService:
    """What is found about designs. It is asked by one task at a time."""

    def __init__(self, kept: KeptDesigns, listing: DesignListing, today: Callable[[], date] = utc_day) -> None:
        self._kept, self._listing, self._today = kept, listing, today
        self._examined: dict[str, _Examined] = {}
        self.failed_checks = 0  # since the start

    @property
    def today(self) -> date:
        """The day for which certificates and exceptions are judged."""
        return self._today()

    def analysis(self, design_id: str) -> Revised[Analysis]:
        """Return the analysis of a design as it stands, today, with the first of its collisions and findings."""
        design = self._kept.get(design_id)
        return Revised.of(design, self.of(design).first(MOST_SHOWN))

    def of(self, design: Design) -> Analysis:
        """Return the analysis of a design that is kept, today."""
        today = self.today
        examined = self._examined.setdefault(design.id, _Examined())
        if examined.analysis is None or not examined.holds(design, today):
            examined.is_noted, examined.analysis = False, None  # which a task that is broken off here leaves unknown
            examined.analysis = analyse(design, today, examined.memory, lambda failed: self._failed(design, failed))
            examined.design = design
            self._examined = {id_: candidate for id_, candidate in self._examined.items() if id_ in self._kept}
        if not examined.is_noted:
            self._note_counts(design, examined.analysis)
            examined.is_noted = True
        return examined.analysis

    def _note_counts(self, design: Design, analysis: Analysis) -> None:
        """Keep for the list of designs how many findings nobody has accepted. The analysis stands without it, too."""
        open_findings = [found for found in analysis.findings if found.accepted is None or not found.accepted.holds]
        blockers = sum(found.severity is Severity.BLOCKER for found in open_findings)
        standing = DesignState(design.id, design.revision, design.incarnation)
        try:
            self._listing.examined(standing, len(open_findings), blockers)
        except DBAPIError as error:
            structlog.get_logger("analysis").warning("counts not kept", design=design.id, kind=type(error).__name__)

    def supposed(self, known: Design, then: Design) -> Analysis:
        """Return the analysis of a state that isn't written, made of what is kept of the one that is."""
        self.of(known)
        return analyse(then, self.today, self._examined[known.id].memory.copy())

    def change(self, design_id: str, revision: int) -> AnalysisChange | None:
        """Return what a change did to the analysis, which led to a revision; None where the analysis before isn't known."""
        examined = self._examined.get(design_id, _Examined())
        before, design_before = examined.analysis, examined.design
        design = self._kept.get(design_id)
        after = self.of(design)
        if before is None or design_before is None or design.revision != revision:
            return None
        fits = (design_before.incarnation, before.revision, before.today) == (design.incarnation, revision - 1, after.today)
        return analysis_change(before.first(MOST_SHOWN), after.first(MOST_SHOWN)) if fits else None

    def remedies(self, design_id: str, at: FindingAt) -> list[Remedy]:
        """Return what mends a finding, the best one first; of several at the same places the first one that anything mends.

        Raise FindingNotFound.
        """
        design = self._kept.get(design_id)
        there = [finding for finding in self.of(design).findings if finding.at == at]
        if not there:
            raise FindingNotFound(f"there is no such finding '{at.code}' in this design any more")
        return list(next(filter(None, self._examined[design_id].memory.remedies(there)), ()))

    def mending(self, design_id: str, wanted: Sequence[FindingAt]) -> Mending:
        """Return the one change that mends several findings at once."""
        design = self._kept.get(design_id)
        self.of(design)
        change, count = mended_together(design, wanted, self.today, self._examined[design_id].memory.copy())
        return Mending(operations=change.forward, mended=count, fields=change.fields(MOST_FIELDS))

    def match(self, design_id: str, tunnel_id: str) -> Revised[Match]:
        """Return the comparison of the two ends of a tunnel. Raise TunnelNotFound."""
        design = self._kept.get(design_id)
        tunnel = design.tunnel_by_id.get(tunnel_id)
        if tunnel is None:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        return Revised.of(design, match(design, tunnel, self.today))

    def find(self, design_id: str, query: str) -> list[Hit]:
        """Return what a name, a prefix or an address is in a design."""
        return list(find(self._kept.get(design_id), query))

    def _failed(self, design: Design, failed: FailedCheck) -> None:
        """Log and count a check that ended in an error of ours: the analysis names it, and stands without it."""
        self.failed_checks += 1
        named = {"design": design.id, "revision": design.revision, "check": failed.check, "about": failed.object_id}
        structlog.get_logger("analysis").error("check failed", **named, kind=failed.kind, exc_info=failed.error)
