"""What will happen when a tunnel is dialled: stage by stage, and in one sentence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.frozen_model import Choice
from pontifex.core.kinds import Tunnel
from pontifex.core.matching.row import Row, Stage, Verdict

# What a call meets on its way. Restart is told where it is known, and doesn't decide whether the tunnel comes up and stays.
DECIDING: Final = tuple(stage for stage in Stage if stage is not Stage.RESTART)


class StageState(Choice):
    """What is known of one stage."""

    HOLDS = "holds"
    PARTIAL = "partial"  # holds, for less than was asked
    FAILS_LATER = "fails-later"
    FAILS = "fails"
    UNKNOWN = "unknown"  # something that decides it isn't known yet
    BEHIND = "behind"  # waits behind a stage that fails


@dataclass(frozen=True, slots=True, kw_only=True)
class StageForecast:
    """One stage of the forecast."""

    stage: Stage
    state: StageState
    reasons: Annotated[tuple[str, ...], Field(title="Reasons", description="One clause each; empty when the stage holds.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Forecast:
    """How far a call gets."""

    tunnel_id: str
    state: Annotated[StageState, Field(title="State of the whole", description="The worst of the stages that a call reaches.")]
    sentence: Annotated[str, Field(title="Sentence", examples=["Stops at Auth: the keys differ."])]
    stages: Annotated[tuple[StageForecast, ...], Field(title="Stages", description="All seven, in their order.")]


_STATE_OF_VERDICT: Final = {
    Verdict.AGREED: StageState.HOLDS,
    Verdict.NEGOTIATED: StageState.HOLDS,
    Verdict.NARROWED: StageState.PARTIAL,
    Verdict.DIFFERS_LATER: StageState.FAILS_LATER,
    Verdict.UNKNOWN: StageState.UNKNOWN,
    Verdict.DIFFERS: StageState.FAILS,
}
_BADNESS: Final = (
    StageState.HOLDS,
    StageState.PARTIAL,
    StageState.FAILS_LATER,
    StageState.UNKNOWN,
    StageState.FAILS,
)


def forecast(tunnel: Tunnel, rows: Sequence[Row]) -> Forecast:
    """Say from the rows of a tunnel how far a call gets. What stops it first is the sentence; what lies behind it waits."""
    by_stage: dict[Stage, list[Row]] = {stage: [] for stage in Stage}
    for row in rows:
        by_stage[row.stage].append(row)
    stages: list[StageForecast] = []
    stopped = follows_unknown = False  # what comes after Child follows from what Child settles
    for stage in Stage:
        state, reasons = _judge(by_stage[stage])
        if stopped:
            state = StageState.BEHIND
        elif follows_unknown and state is StageState.HOLDS:
            state = StageState.UNKNOWN
        stages.append(_stage(stage, state, reasons))
        stopped = stopped or state is StageState.FAILS
        follows_unknown = follows_unknown or (stage is Stage.CHILD and state is StageState.UNKNOWN)
    reached = [one for one in stages if one.state in _BADNESS and (one.stage in DECIDING or one.state is StageState.FAILS_LATER)]
    worst = max(reached, key=lambda one: _BADNESS.index(one.state))
    return Forecast(tunnel_id=tunnel.id, state=worst.state, sentence=_sentence(worst, rows), stages=tuple(stages))


def unknown_forecast(tunnel: Tunnel) -> Forecast:
    """Return the forecast of a tunnel whose ends can't be compared, for an error of ours."""
    stages = tuple(_stage(stage, StageState.UNKNOWN) for stage in Stage)
    sentence = "Not known: the two ends can't be compared, for an error of Pontifex itself."
    return Forecast(tunnel_id=tunnel.id, state=StageState.UNKNOWN, sentence=sentence, stages=stages)


@lru_cache(maxsize=4096)
def _stage(stage: Stage, state: StageState, reasons: tuple[str, ...] = ()) -> StageForecast:
    """Most stages of most tunnels are alike: they share one value."""
    return StageForecast(stage=stage, state=state, reasons=reasons)


def _judge(rows: list[Row]) -> tuple[StageState, tuple[str, ...]]:
    """Return the worst state among the rows of a stage, and the reasons, worst first."""
    states = [(_STATE_OF_VERDICT[row.verdict], row) for row in rows]
    troubled = [(state, row) for state, row in states if state is not StageState.HOLDS]
    if not troubled:
        return StageState.HOLDS, ()
    troubled.sort(key=lambda one: -_BADNESS.index(one[0]))
    return troubled[0][0], tuple(_clause(row) for _, row in troubled)


def _clause(row: Row) -> str:
    return f"{row.title}: {row.reason}" if row.reason == "not known yet" else row.reason


def _sentence(worst: StageForecast, rows: Sequence[Row]) -> str:
    stage = worst.stage.value.capitalize()
    reason = worst.reasons[0] if worst.reasons else ""
    if worst.state is StageState.FAILS:
        return f"Stops at {stage}: {reason}."
    if worst.state is StageState.UNKNOWN:
        return f"Not known yet at {stage}: {reason}."
    if worst.state is StageState.FAILS_LATER:
        return f"Comes up, stops later at {stage}: {reason}."
    if worst.state is StageState.PARTIAL:
        return f"Comes up, for less than asked at {stage}: {reason}."
    rekey = next((f" {row.reason[0].upper()}{row.reason[1:]}." for row in rows if row.key == "child-rekey"), "")
    sized = any(row.key in ("inner-mtu", "peering") for row in rows)  # where ESP carries it, or nothing is put around it
    return f"Comes up.{rekey}{'' if sized else ' Packet sizes are not examined.'}"
