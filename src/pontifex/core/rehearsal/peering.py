"""A peering of two clouds, rehearsed: one account requests it, the other one accepts, and the cloud makes it.

There are no packets between gateways here: what goes back and forth are requests to the cloud, and what it makes of them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Final

from pontifex.core.clouds.blocks import shared_block
from pontifex.core.clouds.peering_state import EXPIRES_AFTER, PeeringState
from pontifex.core.ike.effects import LogLevel
from pontifex.core.kinds import SIDES, Side, Tunnel, TunnelEnd
from pontifex.core.matching.row import Row, Stage
from pontifex.core.model import Design
from pontifex.core.model.cloud_networks import cloud_networks_at
from pontifex.core.rehearsal.clock import Clock
from pontifex.core.rehearsal.events import LogLine, Mark, MarkKind
from pontifex.core.rehearsal.outcome import Outcome, Rehearsal, forecast_stage

_SETTLES_S: Final = 2.0  # in which the cloud brings on what was asked of it
_ANSWERS_S: Final = 60.0  # in which somebody at the other account sees a request


@dataclass(frozen=True, slots=True)
class CloudAccountEnd:
    """One account as it stands by itself: whether it wants the peering, and can have any."""

    name: str
    wants: bool
    is_on: bool


def is_peering(tunnel: Tunnel) -> bool:
    """Whether both ends of a tunnel are those of a peering."""
    return all(tunnel.end(side).technology.traits.clouds_alone for side in SIDES)


def why_no_peering(design: Design, tunnel: Tunnel) -> Iterator[str]:
    """Yield what a cloud refuses before anybody may accept it: blocks that overlap."""
    left, right = (cloud_networks_at(design, tunnel.end(side).gateway_id) for side in SIDES)
    for network in left:
        for other in right:
            shared = shared_block(network, other)
            if shared:
                yield f"the blocks of {network.name} and {other.name} both hold {shared}, for which clouds refuse a peering"
                return


def rehearse_peering(design: Design, tunnel: Tunnel, rows: Sequence[Row], seed: int) -> Rehearsal:
    """Let one account request the peering of a tunnel, and the other one answer; nothing is drawn, whatever the seed."""
    ends = {side: _end(design, tunnel.end(side)) for side in SIDES}
    return _PeeringCourse(ends).run(tunnel.id, seed, forecast_stage(rows))


def _end(design: Design, end: TunnelEnd) -> CloudAccountEnd:
    gateway = design.gateway_by_id[end.gateway_id]
    able = not gateway.technologies or end.technology in gateway.technologies
    is_on = end.enabled and gateway.service_on and able
    return CloudAccountEnd(design.site_of(end).name, bool(end.peering_agreed), is_on)


@dataclass(slots=True)
class _PeeringCourse:
    """The cloud, and both accounts at it."""

    ends: dict[Side, CloudAccountEnd]
    clock: Clock = field(default_factory=Clock)
    state: PeeringState | None = None
    logs: list[LogLine] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)

    def run(self, tunnel_id: str, seed: int, expected: Stage | None) -> Rehearsal:
        """Let it take its course until the peering stands, or nothing comes of it any more."""
        asking = next((side for side in SIDES if self.ends[side].wants and self.ends[side].is_on), None)
        if asking:
            self._request(asking)
        while self.clock.next_due < float("inf") and self.state not in (PeeringState.ACTIVE, PeeringState.EXPIRED):
            self.clock.step()
        is_up = self.state is PeeringState.ACTIVE
        return Rehearsal(
            tunnel_id=tunnel_id,
            seed=seed,
            outcome=Outcome(up=is_up, stopped_at=None if is_up else Stage.REACH, why=self._why(asking), forecast_stage=expected),
            lasted_s=self.clock.now,
            sent=(),
            effects=(),
            logs=tuple(self.logs),
            marks=tuple(self.marks),
            probes=(),
        )

    def _why(self, asking: Side | None) -> str:
        if self.state is PeeringState.ACTIVE:
            return "The peering was requested, accepted and made."
        if asking is None:
            return "Stopped at Reach: neither account requests the peering."
        return f"Stopped at Reach: {self.ends[asking.other].name} never accepts the request, and it expires."

    def _request(self, side: Side) -> None:
        self.state = PeeringState.REQUESTED
        self._log(side, f"A peering with {self.ends[side.other].name} is requested.")
        self._mark(MarkKind.DIAL, f"{self.ends[side].name} requests the peering", side)
        self.clock.at(self.clock.now + _SETTLES_S, partial(self._pend, side.other))

    def _pend(self, side: Side) -> None:
        """The other account sees the request, and has some days to answer it."""
        self.state = PeeringState.PENDING
        self._log(side, f"A request of {self.ends[side.other].name} waits for an answer.")
        self.clock.at(self.clock.now + EXPIRES_AFTER.total_seconds(), self._expire)
        end = self.ends[side]
        if end.wants and end.is_on:
            self.clock.at(self.clock.now + _ANSWERS_S, partial(self._accept, side))

    def _accept(self, side: Side) -> None:
        self.state = PeeringState.ACCEPTED
        self._log(side, "The request is accepted.")
        self.clock.at(self.clock.now + _SETTLES_S, self._make)

    def _make(self) -> None:
        self.state = PeeringState.ACTIVE
        for side in SIDES:
            self._log(side, f"The peering with {self.ends[side.other].name} is active.")
            self._mark(MarkKind.UP, f"{self.ends[side].name} has the peering", side)

    def _expire(self) -> None:
        """A request that nobody has answered is over."""
        if self.state is not PeeringState.PENDING:
            return
        self.state = PeeringState.EXPIRED
        for side in SIDES:
            self._log(side, "The request was never accepted, and has expired.", LogLevel.ERROR)
        self._mark(MarkKind.DOWN, "the request expires", None)

    def _log(self, side: Side, text: str, level: LogLevel = LogLevel.INFO) -> None:
        self.logs.append(LogLine(at_s=self.clock.now, side=side, level=level, text=text))

    def _mark(self, kind: MarkKind, text: str, side: Side | None) -> None:
        self.marks.append(Mark(at_s=self.clock.now, kind=kind, text=text, side=side))
