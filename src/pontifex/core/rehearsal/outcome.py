"""What came of a rehearsal, held against the forecast."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.call_effects import CallEffect
from pontifex.core.catalogue import Code
from pontifex.core.ike.effects import Effect
from pontifex.core.kinds import Side
from pontifex.core.matching.forecast import DECIDING
from pontifex.core.matching.row import Row, Stage, Verdict
from pontifex.core.rehearsal.events import LogLine, Mark, MessageEvent, Sent, shown
from pontifex.core.rehearsal.probes import ProbeResult

# what comes later of itself; other things that come later need an event of their own: a new address, a silence, a day to come
_ACTED_OUT: Final = frozenset(
    {
        Code.CHILD_GROUP_AT_REKEY,
        Code.REKEY_MARGIN_TOO_LONG,
        Code.REKEY_CANNOT_REAUTHENTICATE,
        Code.RESTART_NOT_NOTICED,
        Code.RESTART_NOBODY_CALLS_AGAIN,
    }
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """How far the call got, and how far it was forecast to get."""

    up: Annotated[bool, Field(title="Up", description="The tunnel came up, carried traffic, and lasted.")]
    stopped_at: Annotated[Stage | None, Field(title="Stopped at", description="Null where nothing stopped it.")]
    why: Annotated[str, Field(title="What happened", examples=["The other end refused IKE_AUTH: AUTHENTICATION_FAILED."])]
    forecast_stage: Annotated[Stage | None, Field(title="Forecast to stop at")]
    is_judged: Annotated[bool, Field(title="Held against the forecast", description="Not where faults were let happen.")] = True

    @property
    def agrees(self) -> bool:
        """Whether the forecast said so."""
        return not self.is_judged or self.stopped_at is self.forecast_stage


@dataclass(frozen=True, slots=True, kw_only=True)
class ProbePair:
    """One probe before the call and after it."""

    before: ProbeResult
    after: ProbeResult
    expected: Annotated[bool, Field(title="Passes by the forecast", description="For what hosts try, by the trace as well.")]
    foreseen: Annotated[
        tuple[Address, ...], Field(title="Who answers by the trace", description="Empty where none is foreseen.")
    ] = ()

    @property
    def agrees(self) -> bool:
        """Whether it went as foreseen."""
        return self.after.passes is self.expected and self.foreseen in ((), self.after.answers)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rehearsal:
    """A tunnel that was rehearsed."""

    tunnel_id: str
    seed: int
    outcome: Outcome
    lasted_s: Annotated[float, Field(title="Lasted, s", description="In virtual time.")]
    sent: Annotated[tuple[Sent, ...], Field(exclude=True)] = field(repr=False)
    effects: Annotated[tuple[tuple[Side, Effect | CallEffect], ...], Field(exclude=True)] = field(
        repr=False
    )  # SAs that came and went
    logs: tuple[LogLine, ...]
    marks: tuple[Mark, ...]
    probes: tuple[ProbePair, ...]

    @property
    def messages(self) -> tuple[MessageEvent, ...]:
        """The packets between the gateways, as they are shown."""
        return tuple(map(shown, self.sent))


def forecast_stage(rows: Sequence[Row]) -> Stage | None:
    """Return the stage at which a rehearsal stops by the forecast; None where it goes through to the end."""
    stopping = [row.stage for row in rows if row.verdict is Verdict.DIFFERS and row.stage in DECIDING]
    if stopping:
        return min(stopping, key=list(Stage).index)
    later = [row.stage for row in rows if row.verdict is Verdict.DIFFERS_LATER and row.code in _ACTED_OUT]
    return min(later, key=list(Stage).index, default=None)
