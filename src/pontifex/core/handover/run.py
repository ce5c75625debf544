"""Walking a plan: which step is next, what stopped it, and the way back of what was done."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.errors import NotAccepted


class TickResult(Choice):
    """What came of a step."""

    DONE = "done"
    FAILED = "failed"  # its check didn't show what it must; the step was entered
    UNDONE = "undone"  # taken back


class RunState(Choice):
    """How a run stands."""

    OPEN = "open"
    STOPPED = "stopped"  # a check failed
    GOING_BACK = "going-back"
    DONE = "done"
    TAKEN_BACK = "taken-back"


class NotNow(NotAccepted):
    """A step that can't be ticked as things stand."""

    title = "Not this step, as the run stands"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """What somebody says of a step, as it stands in the log."""

    step: Annotated[int, Field(title="Step", description="From 1.")]
    result: TickResult
    remark: str
    author: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """How far a run has come."""

    state: RunState
    next_step: Annotated[int | None, Field(title="Step that is next", description="To be done; going back, to be undone.")]
    done: Annotated[tuple[int, ...], Field(title="Steps that are entered, in the order in which they were")]


def progress(steps: int, ticks: Sequence[tuple[int, TickResult]]) -> Progress:
    """Return how a run of so many steps stands after its ticks."""
    done: list[int] = []
    state = RunState.OPEN
    for step, result in ticks:
        if result is TickResult.UNDONE:
            done.remove(step)
            state = RunState.GOING_BACK
        else:
            if step not in done:
                done.append(step)
            state = RunState.STOPPED if result is TickResult.FAILED else RunState.OPEN
    if state is RunState.GOING_BACK:
        last = done[-1] if done else None
        return Progress(state=RunState.GOING_BACK if done else RunState.TAKEN_BACK, next_step=last, done=tuple(done))
    if state is RunState.STOPPED:
        return Progress(state=state, next_step=done[-1], done=tuple(done))
    if len(done) == steps:
        return Progress(state=RunState.DONE, next_step=None, done=tuple(done))
    return Progress(state=state, next_step=len(done) + 1, done=tuple(done))


def check_tick(now: Progress, step: int, result: TickResult) -> None:
    """Raise NotNow where a step can't be ticked so: steps are done in their order, and undone from the last one back."""
    if result is TickResult.UNDONE:
        last = now.done[-1] if now.done else None
        if step != last:
            raise NotNow(f"step {last} is taken back first" if last else "nothing is entered that could be taken back")
        return
    if now.state in (RunState.GOING_BACK, RunState.TAKEN_BACK):
        raise NotNow("this run goes back; plan the change anew to go on")
    if step != now.next_step:
        raise NotNow(f"step {now.next_step} is next" if now.next_step else "every step is done")
