"""What was worked out for an earlier state of a design, so that an edit costs what it touches."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, NamedTuple, TypeVar

from pontifex.core.failures import FailedCheck
from pontifex.core.findings.finding import Finding, Remark
from pontifex.core.findings.outlined import Outlines, in_full
from pontifex.core.findings.recorded import Place, Recorder, changed_places
from pontifex.core.matching import Remedy
from pontifex.core.model import Design

R = TypeVar("R")
_PartName = tuple[str, str]  # what is examined, and the object that it is about
_WHOLE, _OUTLINED = "whole", "outlined"  # the states of a design that parts are worked out of


@dataclass(frozen=True, slots=True)
class Examined(Generic[R]):
    """What a part of an analysis gives: what other parts ask of it, its remarks, and its checks that failed."""

    result: R
    remarks: Sequence[Remark] = ()
    failed: Sequence[FailedCheck] = ()


class _Part(NamedTuple, Generic[R]):
    """A part of the analysis, with all that it was worked out from, and how. It keeps nothing of the design itself."""

    state: str
    work: Callable[[Design], Examined[R]]
    given: tuple[object, ...]
    reads: set[Place]
    result: R
    findings: tuple[Finding, ...]


@dataclass
class AnalysisCache:
    """The parts of the last analysis.

    A part is taken over when it was worked out from the very same values: those that it is given, and those that it has
    read of the design.
    """

    outlines: Outlines = field(default_factory=Outlines)
    failed: list[FailedCheck] = field(default_factory=list)  # in the parts that were worked out for this analysis
    _parts: dict[_PartName, _Part[Any]] = field(default_factory=dict)
    _used: dict[_PartName, _Part[Any]] = field(default_factory=dict)
    _seen: dict[str, Recorder] = field(default_factory=dict)  # the states that the parts hold for
    _changed: dict[str, frozenset[Place]] = field(default_factory=dict)
    _read: dict[str, frozenset[str]] = field(default_factory=dict)  # the attributes that parts have read of each state
    _complete: bool = True

    def copy(self) -> AnalysisCache:
        """Return what is kept, to go on from without a change of this."""
        return AnalysisCache(self.outlines.copy(), [], dict(self._parts), {}, self._seen, {}, dict(self._read), self._complete)

    def begin(self, design: Design) -> None:
        """Begin an analysis of a state of the design."""
        if not self._complete:  # the last analysis was broken off: what was not asked for then may be out of date
            self._parts, self._used = {}, {}
        self._complete, self.failed = False, []
        states = {_WHOLE: design, _OUTLINED: self.outlines.of(design)}
        self._changed = {
            name: changed_places(self._seen[name].state, state, self._read.get(name, frozenset()))
            if name in self._seen
            else frozenset()
            for name, state in states.items()
        }
        self._seen = {name: Recorder(state) for name, state in states.items()}

    def part(
        self, name: _PartName, work: Callable[[Design], Examined[R]], given: tuple[object, ...] = (), state: str = _WHOLE
    ) -> tuple[R, tuple[Finding, ...]]:
        """Return a part of the analysis: its result and its findings.

        `work` reads the state that it is given, in which tunnels are as they are, and nothing else that may change.
        """
        known: _Part[R] | None = self._parts.get(name)
        if known is None or known.given != given or not known.reads.isdisjoint(self._changed[state]):
            design, reads = self._seen[state].record()
            examined = work(design)
            findings = tuple([remark.finding for remark in examined.remarks])
            known = _Part(state, work, given, reads, examined.result, findings)
            self.failed += examined.failed
        self._used[name] = known
        return known.result, known.findings

    def outlined_part(
        self, name: _PartName, work: Callable[[Design], Examined[R]], given: tuple[object, ...] = ()
    ) -> tuple[R, tuple[Finding, ...]]:
        """Return a part for which outlines of tunnels are enough."""
        return self.part(name, work, given, _OUTLINED)

    def end(self) -> None:
        """End an analysis: parts that it had no use for are forgotten, since their objects are gone."""
        self._parts, self._used, self._complete = self._used, {}, True
        for name, recorder in self._seen.items():
            self._read[name] = self._read.get(name, frozenset()) | recorder.names

    def remedies(self, findings: Sequence[Finding]) -> list[tuple[Remedy, ...]]:
        """Return what mends each of some findings of the last analysis, the best one first; nothing where nothing does.

        The parts that have told them are worked out once more, so that no finding keeps what only its remedies need.
        """
        wanted = {finding.told for finding in findings if finding.mendable}
        found: dict[object, tuple[Remedy, ...]] = {}
        for part in self._parts.values():
            if any(finding.mendable and finding.told in wanted for finding in part.findings):
                for finding, remedies in part.work(self._seen[part.state].state).remarks:
                    if remedies and finding.told in wanted:
                        found[finding.told] = tuple(map(self._in_full, remedies()) if part.state == _OUTLINED else remedies())
        return [found.get(finding.told, ()) for finding in findings]

    def _in_full(self, remedy: Remedy) -> Remedy:
        return in_full(remedy, self._seen[_OUTLINED].state, self._seen[_WHOLE].state)
