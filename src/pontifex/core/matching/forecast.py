"""What will happen when a tunnel is dialled: stage by stage, and in one sentence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.kinds import Tunnel
from pontifex.core.matching.row import Judgement, Row, Stage, Verdict
from pontifex.core.matching.rows import AGREEMENT, CHILD_REKEY, INNER_MTU
from pontifex.core.reasons import NO_NAMES, Clause, Sentence, outcome

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
    reasons: Annotated[tuple[Clause, ...], Field(title="Reasons", description="One clause each; empty when the stage holds.")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Forecast:
    """How far a call gets."""

    tunnel_id: str
    state: Annotated[StageState, Field(title="State of the whole", description="The worst of the stages that a call reaches.")]
    sentence: Annotated[Sentence, Field(title="Sentence", examples=["Stops at Auth: the keys differ."])]
    stages: Annotated[tuple[StageForecast, ...], Field(title="Stages", description="All seven, in their order.")]


_STATE_OF_VERDICT: Final = {
    Verdict.AGREED: StageState.HOLDS,
    Verdict.NEGOTIATED: StageState.HOLDS,
    Verdict.NARROWED: StageState.PARTIAL,
    Verdict.DIFFERS_LATER: StageState.FAILS_LATER,
    Verdict.UNKNOWN: StageState.UNKNOWN,
    Verdict.DIFFERS: StageState.FAILS,
}
_HOLDING: Final = frozenset(verdict for verdict, state in _STATE_OF_VERDICT.items() if state is StageState.HOLDS)
_BADNESS: Final = (
    StageState.HOLDS,
    StageState.PARTIAL,
    StageState.FAILS_LATER,
    StageState.UNKNOWN,
    StageState.FAILS,
)


def forecast(tunnel: Tunnel, rows: Sequence[Row]) -> Forecast:
    """Say from the rows of a tunnel how far a call gets. What stops it first is the sentence; what lies behind it waits."""
    if all(row.judgement.verdict in _HOLDING for row in rows):
        return Forecast(tunnel_id=tunnel.id, state=StageState.HOLDS, sentence=_comes_up(rows), stages=_ALL_HOLD)
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
    reached = [
        stage_forecast
        for stage_forecast in stages
        if stage_forecast.state in _BADNESS
        and (stage_forecast.stage in DECIDING or stage_forecast.state is StageState.FAILS_LATER)
    ]
    worst = max(reached, key=lambda outcome: _BADNESS.index(outcome.state))
    said = _SAID[worst.state](worst.stage.value.capitalize(), worst.reasons[0].reason) if worst.reasons else None
    sentence = Sentence(said, rows[0].names) if said else _comes_up(rows)
    return Forecast(tunnel_id=tunnel.id, state=worst.state, sentence=sentence, stages=tuple(stages))


def unknown_forecast(tunnel: Tunnel) -> Forecast:
    """Return the forecast of a tunnel whose ends can't be compared, for an error of ours."""
    stages = tuple(_stage(stage, StageState.UNKNOWN) for stage in Stage)
    sentence = Sentence(outcome.EndsNotCompared())
    return Forecast(tunnel_id=tunnel.id, state=StageState.UNKNOWN, sentence=sentence, stages=stages)


@cache
def _without_reasons(stage: Stage, state: StageState) -> StageForecast:
    """Most stages of most tunnels hold: they share one value."""
    return StageForecast(stage=stage, state=state, reasons=())


def _stage(stage: Stage, state: StageState, reasons: tuple[Clause, ...] = ()) -> StageForecast:
    return StageForecast(stage=stage, state=state, reasons=reasons) if reasons else _without_reasons(stage, state)


def _judge(rows: list[Row]) -> tuple[StageState, tuple[Clause, ...]]:
    """Return the worst state among the rows of a stage, and the reasons, worst first."""
    states = [(_STATE_OF_VERDICT[row.verdict], row) for row in rows]
    troubled = [(state, row) for state, row in states if state is not StageState.HOLDS]
    if not troubled:
        return StageState.HOLDS, ()
    troubled.sort(key=lambda trouble: -_BADNESS.index(trouble[0]))
    return troubled[0][0], tuple(Clause(row.reason, row.names) for _, row in troubled)


_SAID: Final = {
    StageState.FAILS: outcome.StopsAt,
    StageState.UNKNOWN: outcome.NotKnownAt,
    StageState.FAILS_LATER: outcome.StopsLaterAt,
    StageState.PARTIAL: outcome.LessAt,
}


def _comes_up(rows: Sequence[Row]) -> Sentence:
    by_key = {row.heading.key: row for row in rows}
    rekeys = by_key.get(CHILD_REKEY.key)
    sizes = outcome.SizesNotExamined() if _SIZED.isdisjoint(by_key) else None
    return Sentence(outcome.ComesUp(rekeys.reason if rekeys else None, sizes), rekeys.names if rekeys else NO_NAMES)


_ALL_HOLD: Final = tuple(_without_reasons(stage, StageState.HOLDS) for stage in Stage)
_SIZED: Final = frozenset({INNER_MTU.key, AGREEMENT.key})  # where ESP carries it, or nothing is put around it
_NAMED: Final = _SIZED | {CHILD_REKEY.key}  # rows that are spoken of where they hold


def is_told(key: str, judgement: Judgement) -> bool:
    """Whether a forecast or a finding may speak of a row."""
    return judgement.verdict not in _HOLDING or judgement.code is not None or key in _NAMED
