"""The design as the devices run it, as far as they were read: what a plan begins from."""

from __future__ import annotations

from collections.abc import Iterable

from pontifex.core.handover.readings.drift import DriftVerdict, drift
from pontifex.core.handover.readings.reading import Reading
from pontifex.core.handover.readings.take_over import take_over
from pontifex.core.model import ChangeRefused, Design, apply_operations

_RUNS_OTHERWISE = (DriftVerdict.DIFFERS, DriftVerdict.NOT_ENTERED, DriftVerdict.NOT_APPLIED, DriftVerdict.MORE)


def as_running(design: Design, readings: Iterable[Reading]) -> Design:
    """Return a design with what devices run in place of what is intended, field by field, at the same revision.

    What isn't understood (another wording of a rule, a name that the design hasn't got) is taken to run as intended; the
    drift tells where it doesn't.
    """
    now = design
    for reading in readings:
        if reading.gateway_id not in design.gateway_by_id:
            continue
        for line in drift(design, reading.gateway_id, reading).lines:
            found = take_over(now, line.path, reading.running.get(line.path)) if line.verdict in _RUNS_OTHERWISE else None
            if found:
                try:
                    now = apply_operations(now, found.operations)
                except ChangeRefused:  # it names what the design hasn't got
                    continue
    return now.changed(revision=design.revision)
