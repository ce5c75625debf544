"""Rehearsals: both ends of a tunnel dial each other over a simulated Internet, in virtual time.

A stand-in gateway knows its own end alone; what it then says to the other is real octets. Where a rehearsal and the forecast
differ, one of them is at fault.
"""

from pontifex.core.rehearsal.course import RehearsalConditions
from pontifex.core.rehearsal.outcome import Outcome, Rehearsal
from pontifex.core.rehearsal.own_end import NotRehearsed
from pontifex.core.rehearsal.rehearse import rehearse, rehearse_dial_in
from pontifex.core.rehearsal.walk import planned_states, rehearse_plan

__all__ = [
    "NotRehearsed",
    "Outcome",
    "Rehearsal",
    "RehearsalConditions",
    "planned_states",
    "rehearse",
    "rehearse_dial_in",
    "rehearse_plan",
]
