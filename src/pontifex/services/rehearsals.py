"""Use cases about rehearsals: one tunnel dialled in virtual time, and what went over the wire as a file."""

from __future__ import annotations

import base64
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Final, TypeVar

from pydantic import Field

from pontifex.core.addressing import AddressError
from pontifex.core.errors import FieldRefused, TooLarge
from pontifex.core.kinds import SIDES, Tunnel
from pontifex.core.matching import TunnelEnds
from pontifex.core.model import Design
from pontifex.core.people import dialled_in, place_named
from pontifex.core.rehearsal import (
    NotRehearsed,
    Outcome,
    Rehearsal,
    RehearsalConditions,
    planned_states,
    rehearse,
    rehearse_dial_in,
    rehearse_plan,
)
from pontifex.core.rehearsal.capture import SessionKeys, pcapng, seen_outside, session_keys
from pontifex.core.rehearsal.events import LogLine, Mark
from pontifex.core.rehearsal.exit_seen import ExitRehearsal, rehearse_exit
from pontifex.core.rehearsal.faults import LABELS, FaultKind, FaultTextError, parse_duration, parse_fault, parse_order
from pontifex.core.rehearsal.outcome import ProbePair
from pontifex.core.rehearsal.told import ShownPacket, shown_packets
from pontifex.core.routing import Tables
from pontifex.services.analyses import TunnelNotFound
from pontifex.services.day import utc_day
from pontifex.services.handover import HandoverService
from pontifex.services.kept import KeptDesigns
from pontifex.services.path_questions import NotInDesign
from pontifex.services.rollouts import profile_of

_Read = TypeVar("_Read")
_MOST_PACKETS: Final = 4000
_LONGEST_S: Final = 2 * 86_400.0


@dataclass(frozen=True, slots=True)
class AskedRehearsal:
    """How a tunnel is to be rehearsed: with which faults, by which steps, until when, and by which seed."""

    faults: tuple[str, ...] = ()
    order: tuple[str, ...] = ()
    until: str = ""
    seed: int = 0
    plan: str = ""  # what a plan begins from whose steps are walked, in the place of all else


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultChoice:
    """Something that can be let happen."""

    kind: FaultKind
    label: Annotated[str, Field(title="In words", examples=["the gateway restarts"])]


_CHOICES: Final = tuple(FaultChoice(kind=kind, label=label) for kind, label in LABELS.items())


@dataclass(frozen=True, slots=True, kw_only=True)
class RehearsalShown:
    """A rehearsal as it is shown."""

    revision: int
    tunnel_id: str
    left_name: str
    right_name: str
    not_rehearsed: Annotated[tuple[str, ...], Field(title="Why it isn't rehearsed", description="Empty where it was.")] = ()
    outcome: Outcome | None = None
    agrees: Annotated[bool, Field(title="As forecast", description="True also where it isn't held against the forecast.")] = True
    lasted_s: Annotated[float, Field(title="Lasted, s", description="In virtual time.")] = 0.0
    packets: Annotated[tuple[ShownPacket, ...], Field(title="What went over the wire")] = ()
    logs: Annotated[tuple[LogLine, ...], Field(title="Logs of both gateways")] = ()
    marks: Annotated[tuple[Mark, ...], Field(title="Marks of the time axis")] = ()
    probes: Annotated[tuple[ProbePair, ...], Field(title="Probes, before and after")] = ()
    choices: Annotated[tuple[FaultChoice, ...], Field(title="What can be let happen")] = _CHOICES


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureFiles:
    """What went over the wire, and the session keys of the rehearsal, which are made up and open nothing else."""

    pcapng: Annotated[str, Field(title="Capture", description="A file of pcapng, in base64.")]
    keys: SessionKeys


class RehearsalService:
    """All use cases about rehearsals. Nothing here writes."""

    def __init__(self, kept: KeptDesigns, handover: HandoverService) -> None:
        self._kept, self._handover = kept, handover

    def rehearsal(self, design_id: str, tunnel_id: str, asked: AskedRehearsal) -> RehearsalShown:
        """Rehearse a tunnel. Raise TunnelNotFound, or FieldRefused for a fault or time that isn't understood."""
        design = self._kept.get(design_id)
        found = self._rehearsed(design_id, tunnel_id, asked)
        return _shown(design, design.tunnel_by_id[tunnel_id], found)

    def dial_in(self, design_id: str, profile_id: str, at: str, asked: AskedRehearsal) -> RehearsalShown:
        """Rehearse the call of a person's device from a place. Raise ProfileNotFound, or FieldRefused."""
        design = self._kept.get(design_id)
        profile = profile_of(design, profile_id)
        try:
            place = place_named(design, profile, at)
        except AddressError as error:
            raise FieldRefused("at", error.reason) from None
        dialled = dialled_in(design, profile, place)
        found = rehearse_dial_in(dialled, profile, utc_day(), _conditions(asked))
        return _shown(dialled.design, dialled.tunnel, found)

    def exit(self, design_id: str, exit_id: str) -> ExitRehearsal:
        """Dial the tunnels of an exit, and say which address the outside saw of what hangs on it. Raise NotInDesign."""
        design = self._kept.get(design_id)
        exit_ = next((candidate for candidate in design.exits if candidate.id == exit_id), None)
        if exit_ is None:
            raise NotInDesign(f"there is no exit '{exit_id}' in this design")
        return rehearse_exit(Tables(design), exit_, utc_day())

    def capture(self, design_id: str, tunnel_id: str, asked: AskedRehearsal) -> CaptureFiles:
        """Return what goes over the wire in a rehearsal, with its keys. Raise as `rehearsal` does, and FieldRefused."""
        found = self._rehearsed(design_id, tunnel_id, asked)
        if isinstance(found, NotRehearsed):
            raise FieldRefused("tunnel_id", f"this tunnel isn't rehearsed: {'; '.join(found.reasons)}")
        if not found.sent:
            raise FieldRefused("tunnel_id", "no packets of this tunnel go over a wire")
        octets = base64.b64encode(pcapng(seen_outside(found.sent))).decode()
        return CaptureFiles(pcapng=octets, keys=session_keys(found.effects))

    def _rehearsed(self, design_id: str, tunnel_id: str, asked: AskedRehearsal) -> Rehearsal | NotRehearsed:
        design = self._kept.get(design_id)
        tunnel = design.tunnel_by_id.get(tunnel_id)
        if tunnel is None:
            raise TunnelNotFound(f"there is no tunnel '{tunnel_id}' in this design")
        if asked.plan:
            return self._walked(design_id, tunnel_id, asked)
        return rehearse(design, tunnel, utc_day(), _conditions(asked))

    def _walked(self, design_id: str, tunnel_id: str, asked: AskedRehearsal) -> Rehearsal | NotRehearsed:
        """Rehearse a tunnel by the steps of a plan. Raise as HandoverService.plan does."""
        change = self._handover.change(design_id, asked.plan)
        states = planned_states(change.before, change.after, self._handover.planned(change), tunnel_id)
        return rehearse_plan(states, tunnel_id, utc_day(), asked.seed)


def _conditions(asked: AskedRehearsal) -> RehearsalConditions:
    """Return under what is rehearsed. Raise FieldRefused."""
    conditions = RehearsalConditions(
        seed=asked.seed,
        faults=_read("fault", lambda: [parse_fault(text) for text in asked.faults]),
        order=_read("step", lambda: parse_order(asked.order)),
        until_s=_read("until", lambda: parse_duration(asked.until) if asked.until else None),
        with_hosts=True,
    )
    if max([conditions.until_s or 0, *(fault.at_s for fault in conditions.happening)]) > _LONGEST_S:
        raise FieldRefused("until", "a rehearsal with faults lasts two days at most")
    return conditions


def _shown(design: Design, tunnel: Tunnel, found: Rehearsal | NotRehearsed) -> RehearsalShown:
    """Return a rehearsal as it is shown. Raise TooLarge."""
    names = TunnelEnds(design, tunnel, utc_day()).names
    left, right = (names[side] for side in SIDES)
    if isinstance(found, NotRehearsed):
        return RehearsalShown(
            revision=design.revision, tunnel_id=tunnel.id, left_name=left, right_name=right, not_rehearsed=found.reasons
        )
    went = tuple(shown_packets(found.sent))
    if len(went) > _MOST_PACKETS:
        raise TooLarge(f"the rehearsal has {len(went)} packets that are no routine; {_MOST_PACKETS} at most are shown")
    return RehearsalShown(
        revision=design.revision,
        tunnel_id=tunnel.id,
        left_name=left,
        right_name=right,
        outcome=found.outcome,
        agrees=found.outcome.agrees,
        lasted_s=found.lasted_s,
        packets=went,
        logs=found.logs,
        marks=found.marks,
        probes=found.probes,
    )


def _read(field: str, read: Callable[[], _Read]) -> _Read:
    try:
        return read()
    except FaultTextError as error:
        raise FieldRefused(field, str(error)) from None
