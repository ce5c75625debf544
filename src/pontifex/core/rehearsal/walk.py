"""A plan rehearsed: after each of its steps both ends have what it has entered, and dial anew."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date

from pontifex.core.handover.plan import ChangePlan
from pontifex.core.handover.plan.entry import Entry, written
from pontifex.core.handover.plan.plan import with_paper
from pontifex.core.kinds import SIDES, ObjectType, Tunnel
from pontifex.core.model import Design
from pontifex.core.rehearsal.course import PlannedStep
from pontifex.core.rehearsal.outcome import Rehearsal
from pontifex.core.rehearsal.own_end import NotRehearsed, own_ends
from pontifex.core.rehearsal.rehearse import DayOf, compared, course_of, why_not


@dataclass(frozen=True, slots=True)
class PlannedState:
    """A state of a design after a step of a plan; the step 0 is before the first."""

    step: int
    does: str
    design: Design


def planned_states(before: Design, after: Design, plan: ChangePlan, tunnel_id: str) -> tuple[PlannedState, ...]:
    """Return the state before the first step, and those in which the ends of a tunnel have something else than before."""
    state = with_paper(before, after)
    found = [PlannedState(0, "", state)]
    for step in plan.steps:
        kind, _, id_ = step.about.partition("/")
        if step.action is None or not step.writes:
            continue
        state = written(state, Entry(step.number, step.device, step.action, (ObjectType(kind), id_), step.writes, step.side))
        if _held(state, tunnel_id) != _held(found[-1].design, tunnel_id):
            found.append(PlannedState(step.number, f"{step.device.name}: {step.does}", state))
    return tuple(found)


def _held(design: Design, tunnel_id: str) -> object:
    """Return all of a design that the ends of a tunnel have."""
    tunnel = design.tunnel_by_id.get(tunnel_id)
    if tunnel is None:
        return None
    ends = [tunnel.end(side) for side in SIDES]
    return ends, [design.gateway_by_id[end.gateway_id] for end in ends], [design.uplink_of(end) for end in ends]


def rehearse_plan(states: Sequence[PlannedState], tunnel_id: str, today: date, seed: int = 0) -> Rehearsal | NotRehearsed:
    """Rehearse a tunnel through the states of a plan, beginning on a day; or say why that can't be done."""
    known = [(state, tunnel) for state in states if (tunnel := state.design.tunnel_by_id.get(tunnel_id))]
    reasons = tuple(dict.fromkeys(_reasons(known, today)))
    if reasons:
        return NotRehearsed(reasons)
    octets = f"{seed}/{tunnel_id}".encode()
    of_day = DayOf(today)
    steps = [
        PlannedStep(
            f"step {state.step}: {state.does}" if state.step else "",
            own_ends(state.design, tunnel, of_day, octets) if (tunnel := state.design.tunnel_by_id.get(tunnel_id)) else None,
        )
        for state in states
    ]
    first, tunnel = known[0]
    course = course_of(first.design, tunnel, compared(first.design, tunnel, today), today, octets)
    return course.walk(tunnel_id, seed, steps)


def _reasons(known: Sequence[tuple[PlannedState, Tunnel]], today: date) -> Iterator[str]:
    if not known:
        yield "no step of the plan has this tunnel"
        return
    uplinks = [[state.design.uplink_of(tunnel.end(side)) for side in SIDES] for state, tunnel in known]
    if any(uplink != uplinks[0] for uplink in uplinks):
        yield "an uplink of it is another one after some step"
    made_of = [[(end.technology, end.transport) for end in (tunnel.left, tunnel.right)] for _, tunnel in known]
    if any(made != made_of[0] for made in made_of):
        yield "it is made of something else after some step"
    for state, tunnel in known:
        yield from why_not(tunnel, compared(state.design, tunnel, today))
