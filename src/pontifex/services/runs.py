"""Use cases that write of a hand-over: readings of devices, and plans that are walked step by step."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import Enum
from typing import Annotated, Any, Final
from uuid import UUID

from pydantic import Field, TypeAdapter

from pontifex.core.errors import FieldRefused
from pontifex.core.handover.observed import answered
from pontifex.core.handover.plan import ChangePlan, Step
from pontifex.core.handover.readings import Reading, UnreadableReading, read_reading
from pontifex.core.handover.run import Progress, Tick, TickResult, check_tick, progress
from pontifex.core.kinds import ObjectType
from pontifex.core.model import Design
from pontifex.store.hand_over import HandOverRecords, KeptProbe, KeptReading, KeptRun, NewTick, TickedMeanwhile

_PLAN: Final = TypeAdapter(ChangePlan)
_STEP: Final = TypeAdapter(Step)
_AHEAD: Final = timedelta(minutes=5)  # that another clock may be


@dataclass(frozen=True, slots=True, kw_only=True)
class RunSummary:
    """A run in a list."""

    id: UUID
    title: str
    started_by: str
    started_at: datetime
    steps: int
    progress: Progress


class ProbePhase(Enum):
    """When a pair is tried."""

    BEFORE = "before"
    AFTER = "after"


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenProbe:
    """What somebody has seen of a pair, held against what the trace says."""

    tries: str
    phase: ProbePhase
    text: Annotated[str, Field(title="What was typed or pasted")]
    answered: bool
    contradicts: Annotated[bool, Field(title="The trace says otherwise")]
    author: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class RunShown(RunSummary):
    """A plan that is walked, with its log."""

    since: str
    revision: Annotated[int, Field(title="Revision that it leads to")]
    plan: ChangePlan
    ticks: tuple[Tick, ...]
    seen: Annotated[tuple[SeenProbe, ...], Field(title="What was seen before and after")]


class RunService:
    """All use cases of a hand-over that write."""

    def __init__(self, records: HandOverRecords) -> None:
        self._records = records

    def keep_reading(self, design: Design, text: str, person: str) -> Reading:
        """Keep a reading that is given as its file. Raise FieldRefused, or OlderReading: nothing is kept then."""
        try:
            reading = read_reading(text)
        except UnreadableReading as error:
            raise FieldRefused("text", str(error)) from None
        if reading.gateway_id not in design.gateway_by_id:
            raise FieldRefused("text", f"it is of '{reading.gateway_id}', and the design has no such gateway")
        if reading.taken_at > datetime.now(UTC) + _AHEAD:
            raise FieldRefused("text", "it was taken at a time that is yet to come")
        reading = reading.changed(taken_by=reading.taken_by or person)
        self._records.keep_reading(design.id, kept_reading(reading))
        return reading

    def start(self, design_id: str, planned: bytes, person: str) -> RunShown:
        """Begin to walk a plan that is given as JSON."""
        shown = json.loads(planned)
        run_id = self._records.start_run(design_id, shown["title"], shown["since"], shown["revision"], shown["plan"], person)
        return self.run(design_id, run_id)

    def runs(self, design_id: str) -> list[RunSummary]:
        """Return the runs of a design, the newest first."""
        return [
            RunSummary(
                id=kept.id,
                title=kept.title,
                started_by=kept.started_by,
                started_at=kept.started_at,
                steps=kept.steps,
                progress=progress(kept.steps, [(step, TickResult(result)) for step, result in kept.ticks]),
            )
            for kept in self._records.runs(design_id)
        ]

    def run(self, design_id: str, run_id: UUID) -> RunShown:
        """Return a run with its log. Raise RunNotFound."""
        return _shown(self._records.run(design_id, run_id))

    def tick(self, design_id: str, run_id: UUID, seen: int, tick: NewTick, person: str, read: Reading | None = None) -> RunShown:
        """Say what came of a step; what was read of the device is kept, or what it has by the step.

        Raise RunNotFound, NotNow, or TickedMeanwhile for one who has not `seen` all lines of the log.
        """
        result = TickResult(tick.result)
        step = self.step(design_id, run_id, tick.step, seen, result)
        reading = kept_reading(read) if read else self._ticked(design_id, step, result, person)
        return _shown(self._records.tick(design_id, run_id, seen, tick, person, reading))

    def step(self, design_id: str, run_id: UUID, number: int, seen: int, result: TickResult) -> Step:
        """Return the step that is to be ticked so. Raise as `tick` does."""
        kept = self._records.run(design_id, run_id)
        if len(kept.ticks) != seen:
            raise TickedMeanwhile
        check_tick(_progress(kept), number, result)
        return _STEP.validate_python(kept.plan["steps"][number - 1])

    def see(self, design_id: str, run_id: UUID, tries: str, phase: ProbePhase, text: str, person: str) -> RunShown:
        """Keep what was seen of a pair. Raise RunNotFound, or FieldRefused for a text that doesn't tell."""
        self.check_pair(design_id, run_id, tries)
        if answered(text) is None:
            untold = "it doesn't say whether there was an answer: write 'answered' or 'no answer', or paste all of it"
            raise FieldRefused("text", untold)
        return _shown(self._records.see(design_id, run_id, tries, phase.value, text, person))

    def check_pair(self, design_id: str, run_id: UUID, tries: str) -> None:
        """Raise RunNotFound, or FieldRefused for what isn't tried before and after a run."""
        kept = self._records.run(design_id, run_id)
        if tries not in {pair["tries"] for pair in kept.plan.get("pairs", ())}:
            raise FieldRefused("tries", "this plan tries no such pair")

    def _ticked(self, design_id: str, step: Step, result: TickResult, person: str) -> KeptReading | None:
        """Return what is known of a device once a step is ticked on its sheet."""
        if step.device.type is not ObjectType.GATEWAY:
            return None
        document = self._records.reading(design_id, step.device.id)
        last = Reading.model_validate(document) if document else None
        now = datetime.now(UTC)
        if last and last.taken_at >= now:
            return None  # a clock that is ahead: what was read stands
        running: dict[str, Any] = dict(last.running) if last else {}
        for setting in step.settings:
            running[setting.path] = setting.before if result is TickResult.UNDONE else setting.after
        after_restart = last.after_restart if last else None
        if step.action is None and result is TickResult.DONE:
            after_restart = {**(after_restart or {}), **running}
        reading = Reading(
            gateway_id=step.device.id,
            taken_at=now,
            source="ticked on a plan",
            taken_by=person,
            complete=bool(last and last.complete),
            running=running,
            after_restart=after_restart,
        )
        return kept_reading(reading)


def kept_reading(reading: Reading) -> KeptReading:
    """Return a reading as it is kept."""
    document = reading.model_dump(mode="json")
    return KeptReading(gateway_id=reading.gateway_id, taken_at=reading.taken_at, document=document)


def _progress(kept: KeptRun) -> Progress:
    return progress(len(kept.plan["steps"]), [(tick.step, TickResult(tick.result)) for tick in kept.ticks])


def _shown(kept: KeptRun) -> RunShown:
    ticks = tuple(
        Tick(step=tick.step, result=TickResult(tick.result), remark=tick.remark, author=tick.author, made_at=tick.made_at)
        for tick in kept.ticks
    )
    plan = _PLAN.validate_python(kept.plan)
    seen = tuple(_seen(plan, probe) for probe in kept.probes)
    return RunShown(
        id=kept.id,
        title=kept.title,
        started_by=kept.started_by,
        started_at=kept.started_at,
        steps=len(plan.steps),
        progress=_progress(kept),
        since=kept.since,
        revision=kept.revision,
        plan=plan,
        ticks=ticks,
        seen=seen,
    )


def _seen(plan: ChangePlan, probe: KeptProbe) -> SeenProbe:
    phase, found = ProbePhase(probe.phase), bool(answered(probe.seen))
    pair = next((pair_probe for pair_probe in plan.pairs if pair_probe.tries == probe.tries), None)
    expected = None if pair is None else pair.before if phase is ProbePhase.BEFORE else pair.after
    return SeenProbe(
        tries=probe.tries,
        phase=phase,
        text=probe.seen,
        answered=found,
        contradicts=expected is not None and expected is not found,
        author=probe.author,
        made_at=probe.made_at,
    )
