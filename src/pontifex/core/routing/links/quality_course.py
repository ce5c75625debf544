"""What a rule does while a quality changes: when it leaves a path, and when it comes back to it.

A path is left as soon as a limit is exceeded. It is taken again once it has been better than its limits by the rule's
margin for as long as the rule waits: that keeps traffic from going to and fro (hysteresis).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.kinds import Path, PathType, Rule
from pontifex.core.routing.links.quality import (
    MEASURES,
    Quality,
    Threshold,
    exceeded,
    path_quality,
    returning,
    without_limits,
)
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import unusable
from pontifex.core.routing.trace.flow import Conditions

LONGEST_S: Final = 3600  # of a course; a gateway is taken to measure once a second
_RAMP_S: Final = 20  # of the usual course, from one value to the next


@dataclass(frozen=True, slots=True, kw_only=True)
class CoursePoint:
    """A value that a measure has at a time; between two points it changes evenly."""

    at_s: Annotated[float, Field(title="At, s")]
    value: Annotated[float, Field(title="Value")]


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenSpan:
    """Some time during which a rule takes one path."""

    from_s: Annotated[int, Field(title="From, s")]
    until_s: Annotated[int, Field(title="Until, s")]
    path_id: Annotated[str | None, Field(title="Path", description="Null where none can be taken.")]
    name: Annotated[str, Field(title="What the path is called, or what happens without one")]
    why: Annotated[str, Field(title="What led to it", description="Empty at the beginning.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class QualityCourse:
    """What a rule takes while a measure of one of its paths goes its course."""

    path_id: str
    measure: Annotated[str, Field(examples=["delay_ms"])]
    title: Annotated[str, Field(examples=["delay"])]
    unit: Annotated[str, Field(examples=["ms"])]
    leaves_above: float
    returns_below: float
    back_after_s: int
    points: Annotated[tuple[CoursePoint, ...], Field(title="Course of the measure, in the order of time")]
    spans: Annotated[tuple[TakenSpan, ...], Field(title="What is taken, in the order of time")]


def usual_course(rule: Rule, limit: Threshold) -> tuple[CoursePoint, ...]:
    """Return a course that shows both bounds: well below them, above, between them, and well below again."""
    good, worst = limit.returns_below / 2, limit.leaves_above * 1.5 or 1.0
    between = (limit.leaves_above + limit.returns_below) / 2
    back_s = min(rule.back_after_s, LONGEST_S // 2) + 2 * _RAMP_S
    holds = ((good, _RAMP_S), (worst, _RAMP_S), (between, 2 * _RAMP_S), (good, back_s))
    points: list[CoursePoint] = []
    for value, lasts_s in holds:
        begins = points[-1].at_s + _RAMP_S if points else 0
        points += [CoursePoint(at_s=begins, value=value), CoursePoint(at_s=begins + lasts_s, value=value)]
    return tuple(points)


def value_at(points: Sequence[CoursePoint], at_s: float) -> float:
    """Return the value at a time: evenly between two points, that of the first one before it, that of the last one after it."""
    at_s = max(at_s, points[0].at_s)
    for before, after in pairwise(points):
        if at_s < after.at_s:
            part = (at_s - before.at_s) / (after.at_s - before.at_s)
            return before.value + part * (after.value - before.value)
    return points[-1].value


def quality_course(
    tables: Tables, rule: Rule, path: Path, limit: Threshold, points: Sequence[CoursePoint], conditions: Conditions
) -> QualityCourse:
    """Return what a rule takes while a measure of a path with that limit goes its course, by time from 0 on."""
    measure = next(candidate for candidate in MEASURES if candidate.field == limit.measure)
    return QualityCourse(
        path_id=path.id,
        measure=limit.measure,
        title=measure.word,
        unit=measure.unit,
        leaves_above=limit.leaves_above,
        returns_below=limit.returns_below,
        back_after_s=rule.back_after_s,
        points=tuple(points),
        spans=tuple(_spans(_Measured(tables, rule, conditions), path.id, limit.measure, points)),
    )


def _spans(measured: _Measured, path_id: str, measure: str, points: Sequence[CoursePoint]) -> Iterator[TakenSpan]:
    last = int(points[-1].at_s)
    span: TakenSpan | None = None
    for second in range(last + 1):
        quality = measured.conditions.quality.get(path_id, Quality()).with_measure(measure, value_at(points, second))
        path, why = measured.taken(second, {**measured.conditions.quality, path_id: quality})
        taken = path.id if path else None
        if span is None or span.path_id != taken:
            if span:
                yield replace(span, until_s=second)
            name = measured.name_of(path) if path else measured.rule.on_failure.value
            span = TakenSpan(from_s=second, until_s=last, path_id=taken, name=name, why=why if span else "")
    if span:
        yield span


class _Measured:
    """The paths of a rule as their qualities are measured, second by second."""

    def __init__(self, tables: Tables, rule: Rule, conditions: Conditions) -> None:
        self._design, self.rule, self.conditions = tables.design, rule, conditions
        gateway = self._design.gateway_by_id[rule.gateway_id]
        usable = (path for path in rule.paths if not unusable(tables, gateway, without_limits(path), conditions))
        self._paths = [_MeasuredPath(rule, path) for path in usable]
        self._before: _MeasuredPath | None = None

    def taken(self, second: int, quality: dict[str, Quality]) -> tuple[Path | None, str]:
        """Return the path that the rule takes in a second, and what led to it."""
        for path in self._paths:
            path.measured(second, path_quality(self._design, path.path, quality))
        now = next((measured_path for measured_path in self._paths if measured_path.good), None)
        before, self._before = self._before, now
        # an earlier path is taken since it has come back, a later one since the one before was left
        has_come_back = now is not None and (before is None or self._paths.index(now) < self._paths.index(before))
        led = now if has_come_back else before
        return now.path if now else None, led.why if led else ""

    def name_of(self, path: Path) -> str:
        """Return what a path is called."""
        named = self._design.tunnel_by_id if path.type is PathType.TUNNEL else self._design.uplink_by_id
        return named[path.id].name


class _MeasuredPath:
    """One path: whether it may be taken, and why that has changed."""

    def __init__(self, rule: Rule, path: Path) -> None:
        self.path, self._wait_s = path, rule.back_after_s
        self._returns = returning(rule, path)
        self.good, self.why = True, ""
        self._since: int | None = None  # it has been good enough to come back

    def measured(self, second: int, quality: Quality) -> None:
        """Take what was measured in a second into account."""
        over = exceeded(self.path, quality)
        if over:
            self.good, self._since, self.why = False, None, over
        elif not self.good:
            self._since = None if exceeded(self._returns, quality) else self._since if self._since is not None else second
            if self._since is not None and second - self._since >= self._wait_s:
                self.good, self.why = True, f"good enough for {self._wait_s} s"
