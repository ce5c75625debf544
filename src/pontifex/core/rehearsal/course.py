"""The course of a rehearsal: both ends are switched on, dial, carry traffic, renew keys and restart, until a stage fails."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Final

from pontifex.core.ike.effects import LogLevel
from pontifex.core.kinds import SIDES, Role, Side
from pontifex.core.matching.row import Row, Stage
from pontifex.core.rehearsal.events import MarkKind
from pontifex.core.rehearsal.faults import Fault, let_happen
from pontifex.core.rehearsal.hosts import HostTrials
from pontifex.core.rehearsal.outcome import Outcome, ProbePair, Rehearsal, forecast_stage
from pontifex.core.rehearsal.own_end import OwnEnd
from pontifex.core.rehearsal.packets import InnerHeader, packet_between, probe_packet
from pontifex.core.rehearsal.probes import PACKETS, ProbeKind, ProbeResult, ping, probe
from pontifex.core.rehearsal.world import World

_DIALLING_S: Final = 100.0  # in which a call comes to its end, retransmissions included
_RETRIES_S: Final = 75.0  # until a gateway gives up a silent one
_WATCHED_S: Final = 600.0  # after the last fault
_BETWEEN_STEPS_S: Final = 60.0  # of a plan: a key that differs shows within it
_PING_EVERY_S: Final = 5.0
_TRAFFIC_EVERY_S: Final = 5.0


@dataclass(frozen=True, slots=True)
class RehearsalConditions:
    """Under which a tunnel is rehearsed.

    With faults, an order of steps or a time until which to go on, it is dialled and watched; else it takes the course of all
    stages. With an order both ends begin switched off and unsaved.
    """

    seed: int = 0  # the same one gives the same course
    faults: Sequence[Fault] = ()
    order: Sequence[Fault] = ()
    until_s: float | None = None
    with_hosts: bool = False  # hosts behind the gateways try what they are for, by all that the gateways forward by

    @property
    def happening(self) -> list[Fault]:
        """What is let happen, in the order of its times."""
        return sorted([*self.order, *self.faults], key=lambda fault: fault.at_s)


@dataclass(frozen=True, slots=True)
class PlannedStep:
    """What both ends have after a step of a plan; nothing where the tunnel isn't there. Without a text it is the beginning."""

    text: str
    ends: dict[Side, OwnEnd] | None


class StoppedError(Exception):
    """A stage failed; the message says how."""

    def __init__(self, stage: Stage, why: str) -> None:
        super().__init__(why)
        self.stage = stage


class Course(ABC):
    """One rehearsal: reach, init, auth and child by the call itself, then traffic, rekey and restart."""

    def __init__(self, world: World, ends: dict[Side, OwnEnd], rows: Sequence[Row]) -> None:
        self.world = world
        self._ends = ends
        self._rows = rows
        self._dialled_at = 0.0
        self._after: tuple[ProbeResult, ...] = ()
        self.hosts: HostTrials | None = None  # what hosts try, where they are to

    def run(self, tunnel_id: str, seed: int) -> Rehearsal:
        """Let it take its course."""
        before = self._probes()
        expected = forecast_stage(self._rows)
        try:
            for stage in (self.dial, self._carry, self._rekey, self._restart):
                stage()
            stopped, why = None, f"The tunnel came up, {self._lasted()} and came back after each restart."
        except StoppedError as error:
            stopped, why = error.stage, f"Stopped at {error.stage.value.capitalize()}: {error}."
        self._after = self._after or self._probes()
        return self._rehearsal(
            tunnel_id, seed, before, Outcome(up=stopped is None, stopped_at=stopped, why=why, forecast_stage=expected)
        )

    def _lasted(self) -> str:
        """Say what it did until its ends were restarted: not every tunnel renews its keys by the clock."""
        was_rekeyed = any(mark.kind is MarkKind.REKEY for mark in self.world.record.marks)
        return "carried traffic, was rekeyed" if was_rekeyed else "carried traffic"

    def watch(self, tunnel_id: str, under: RehearsalConditions) -> Rehearsal:
        """Dial, let things happen at their times, and see how long the tunnel is missing."""
        before = self._probes()
        began, happening = self.world.clock.now, under.happening
        for fault in happening:
            self.world.clock.at(began + fault.at_s, partial(let_happen, self.world, fault))
        if under.order:
            for gateway in self.world.gateways.values():
                gateway.is_saved = False
        else:
            self._switch_on()
        last = max((fault.at_s for fault in happening), default=0.0)
        outages = self._ping_until(began + (last + _WATCHED_S if under.until_s is None else under.until_s))
        self._after = self._probes()
        up = all(result.passes for result in self._after if result.kind is ProbeKind.ACROSS)
        outcome = Outcome(up=up, stopped_at=None, why=self._missed(outages, up), forecast_stage=None, is_judged=False)
        return self._rehearsal(tunnel_id, under.seed, before, outcome)

    def walk(self, tunnel_id: str, seed: int, steps: Sequence[PlannedStep]) -> Rehearsal:
        """Let the steps of a plan be entered one after the other; after each both ends dial anew with what they have then."""
        before = self._probes()
        began = self.world.clock.now
        for place, step in enumerate(steps):
            self.world.clock.at(began + place * _BETWEEN_STEPS_S, partial(self._take, step))
        outages = self._ping_until(began + len(steps) * _BETWEEN_STEPS_S)
        self._after = self._probes()
        up = all(result.passes for result in self._after if result.kind is ProbeKind.ACROSS)
        outcome = Outcome(up=up, stopped_at=None, why=self._missed(outages, up), forecast_stage=None, is_judged=False)
        return self._rehearsal(tunnel_id, seed, before, outcome)

    def _take(self, step: PlannedStep) -> None:
        """Give both ends what they have after a step, and let those that are on dial."""
        if step.text:
            self.world.mark(MarkKind.STEP, step.text)
        if step.ends is None:
            for side in SIDES:
                self.world.stop(side)
            return
        self._ends = step.ends
        for side in SIDES:
            self.world.gateways[side].own = step.ends[side]
        self._switch_on()

    def _ping_until(self, end: float) -> list[float]:
        """Ping across now and then; return for how many seconds nothing passed, each time after it had passed before."""
        world = self.world
        outages: list[float] = []
        lost_at: float | None = None
        has_passed = False
        while world.clock.now < end:
            self._let_pass(min(_PING_EVERY_S, end - world.clock.now))
            began = world.clock.now
            passes = all(ping(world, side).passes for side in SIDES)
            if passes and lost_at is not None:
                outages.append(world.clock.now - lost_at)
            if has_passed and passes is not (lost_at is None):
                world.mark(MarkKind.PROBE, "pings pass again" if passes else "pings are lost")
            has_passed = has_passed or passes
            lost_at = None if passes or not has_passed else began if lost_at is None else lost_at
        return outages if lost_at is None else [*outages, world.clock.now - lost_at]

    def _missed(self, outages: list[float], up: bool) -> str:
        """Say for how long nothing passed after it had passed before."""
        if not any(mark.kind is MarkKind.UP for mark in self.world.record.marks):
            return f"The tunnel never came up: {self._last_words()}."
        lost = f"Nothing passed for {sum(outages):.0f} s" if outages else "Every ping passed"
        return f"{lost}, and the tunnel is up at the end." if up else f"{lost}, and the tunnel is down at the end."

    def _rehearsal(self, tunnel_id: str, seed: int, before: tuple[ProbeResult, ...], outcome: Outcome) -> Rehearsal:
        expected = outcome.forecast_stage
        passes = expected is None or list(Stage).index(expected) > list(Stage).index(Stage.TRAFFIC)
        record = self.world.record
        return Rehearsal(
            tunnel_id=tunnel_id,
            seed=seed,
            outcome=outcome,
            lasted_s=round(self.world.clock.now, 3),
            sent=tuple(record.sent),
            effects=tuple(record.effects),
            logs=tuple(record.logs),
            marks=tuple(sorted(record.marks, key=lambda mark: mark.at_s)),
            probes=tuple(self._pair(first, second, passes) for first, second in zip(before, self._after, strict=True)),
        )

    def _pair(self, before: ProbeResult, after: ProbeResult, passes: bool) -> ProbePair:
        if self.hosts is None or after.kind in PACKETS:
            return ProbePair(before=before, after=after, expected=passes and after.kind is not ProbeKind.TOO_LARGE)
        found = self.hosts.foreseen(after, is_up=passes)
        return ProbePair(before=before, after=after, expected=found.passes, foreseen=found.answers)

    def _across(self) -> tuple[ProbeResult, ...]:
        return tuple(probe(self.world, side) for side in SIDES)

    def _probes(self) -> tuple[ProbeResult, ...]:
        """Try every kind of probe from behind both gateways."""
        packets = tuple(probe(self.world, side, kind) for kind in PACKETS for side in SIDES)
        return (*packets, *(self.hosts.all() if self.hosts else ()))

    def _name(self, side: Side) -> str:
        return self._ends[side].name

    def dial(self) -> None:
        """Switch both ends on, those that wait first, and see how far the call gets. Raise StoppedError."""
        self._dialled_at = self.world.clock.now
        self._switch_on()
        self._let_pass(_DIALLING_S, lambda: self._both_up() or self._has_failed())
        if not self._both_up():
            raise StoppedError(self._stage_reached(), self._last_words())

    def _switch_on(self) -> None:
        for side in self._in_order():
            self.world.start(side)
        self.world.mark(MarkKind.DIAL, "both ends are switched on")

    def _in_order(self) -> list[Side]:
        """Return the sides in the order in which they are switched on: one that waits before one that calls."""
        return sorted(SIDES, key=lambda side: self._ends[side].role.calls)

    def _both_up(self) -> bool:
        return all(self.world.gateways[side].is_up for side in SIDES)

    @abstractmethod
    def _has_failed(self) -> bool:
        """Whether calls have come to nothing often enough: each end had its try, and another one."""

    @abstractmethod
    def _stage_reached(self) -> Stage:
        """Return the first stage that wasn't passed, by what has happened."""

    @abstractmethod
    def _rekey(self) -> None:
        """Wait for the first renewal of the keys; the tunnel must stay up meanwhile. Raise StoppedError."""

    def _last_words(self) -> str:
        """Return the first fault that a log tells, or why the first packet was dropped."""
        told = self._first_fault()
        dropped = next((sent.dropped for sent in self.world.record.sent if sent.dropped), "")
        if told and not dropped:
            return told
        return f"a packet didn't arrive: {dropped}" if dropped else "neither end called"

    def _first_fault(self) -> str:
        errors = (line.text.rstrip(".") for line in self.world.record.logs if line.level is LogLevel.ERROR)
        return next(errors, "")

    def _let_pass(self, seconds: float, until: Callable[[], bool] = lambda: False) -> None:
        """Let time pass; hosts behind the gateways send something now and then."""
        world = self.world
        end = world.clock.now + seconds
        while world.clock.now < end and not until():
            for side in SIDES:
                self._traffic(side)
            pause = min(world.clock.now + _TRAFFIC_EVERY_S, end)
            while world.clock.next_due <= pause and not until():
                world.clock.step()
            if not until():
                world.run_until(pause)

    def _traffic(self, side: Side) -> None:
        """A host wants something of the other side: an end that calls on traffic calls for it."""
        gateway = self.world.gateways[side]
        if gateway.is_up or self._ends[side].role is not Role.ON_TRAFFIC:
            return
        settings = self._ends[side].settings
        header = packet_between(settings.local_networks, settings.remote_networks)
        if header:
            self._speak(side, header)

    def _speak(self, side: Side, header: InnerHeader) -> None:
        """Let a host behind a gateway send something."""
        packet = probe_packet(header.source, header.destination, header.protocol, header.ports or (0, 0), 60)
        self.world.forward(side, packet)

    def _carry(self) -> None:
        """Both sides reach each other, with the largest packets that should pass; and the tunnel's own addresses answer."""
        self._let_pass(1.0)
        self._after = self._probes()
        for result in self._after:
            if not result.passes and result.kind in (ProbeKind.ACROSS, ProbeKind.LARGEST):
                raise StoppedError(Stage.TRAFFIC, f"from behind {self._name(result.sender)}, {result.text}")
        addresses = [self._ends[side].inner_address for side in SIDES]
        for near, far in (addresses, addresses[::-1]):
            if near and far and (near.address == far.address or not near.prefix.holds(far.address)):
                raise StoppedError(Stage.TRAFFIC, f"{near} has no way to {far} inside the tunnel")

    def _check_across(self, stage: Stage, when: str) -> None:
        for result in self._across():
            if not result.passes:
                raise StoppedError(stage, f"{when}, from behind {self._name(result.sender)}, {result.text}")

    def _restart(self) -> None:
        """Restart one gateway after the other: the tunnel must come back by itself."""
        checks = [self._ends[side].settings.dead_peer_s for side in SIDES if self._ends[side].role.calls]
        patience = max(checks, default=0) + _RETRIES_S + _DIALLING_S
        for side in SIDES:
            self.world.restart(side)
            self._let_pass(patience, self._back)
            if not self._back():
                raise StoppedError(Stage.RESTART, f"{self._name(side)} restarted, and the tunnel didn't come back")
            self._check_across(Stage.RESTART, f"after a restart of {self._name(side)}")

    def _back(self) -> bool:
        """Whether both ends have the two halves of one tunnel."""
        left, right = (self.world.gateways[side] for side in SIDES)
        return left.is_paired_with(right)
