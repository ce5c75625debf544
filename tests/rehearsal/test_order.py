"""Rehearsals by a list of steps, and what a restart loses."""

from __future__ import annotations

import pytest

from pontifex.core.rehearsal import Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.events import MarkKind
from pontifex.core.rehearsal.faults import FaultTextError, parse_fault, parse_order
from tests.rehearsal.designs import certified
from tests.support.certificates import ROOT
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, design_of


def _watched(*order: str, faults: tuple[str, ...] = ()) -> Rehearsal:
    design = design_of(AGREED)
    conditions = RehearsalConditions(order=parse_order(order), faults=[parse_fault(text) for text in faults])
    found = rehearse(design, design.tunnels[0], TODAY, conditions)
    assert isinstance(found, Rehearsal)
    return found


def _ups(found: Rehearsal) -> list[float]:
    return [mark.at_s for mark in found.marks if mark.kind is MarkKind.UP]


def test_the_order_of_starting_decides_when_it_is_up():
    """The waiting end first: up at once when the other calls. The calling end first: its call waits for a repetition."""
    waiting_first, calling_first = _watched("start right", "start left"), _watched("start left", "wait 20s", "start right")
    assert 10 <= min(_ups(waiting_first)) < 11
    assert min(_ups(calling_first)) > 30
    assert any(not event.dropped for event in calling_first.messages)


def test_what_was_not_saved_is_gone_after_a_restart():
    """The tunnel is back after a restart where the end was saved, and never where it wasn't."""
    steps = ["start right", "save right", "start left", "wait 30s"]
    kept = _watched(*steps, "save left", "restart left")
    lost = _watched(*steps, "restart left")
    assert (kept.outcome.up, lost.outcome.up) == (True, False)
    assert any("never saved" in line.text for line in lost.logs)
    assert not _watched(faults=("60s restart-unsaved left",)).outcome.up
    assert _watched(faults=("60s restart left",)).outcome.up


def test_a_wrong_clock_refuses_certificates():
    """What stands goes on standing; the next call is refused, since a certificate isn't valid at that day."""
    design = certified(trust_anchors=(ROOT,))
    faults = [parse_fault(text) for text in ("60s clock-wrong right", "90s restart right")]
    found = rehearse(design, design.tunnels[0], TODAY, RehearsalConditions(faults=faults))
    assert isinstance(found, Rehearsal)
    assert _ups(found)
    assert not found.outcome.up
    assert any("isn't valid today" in line.text for line in found.logs)


@pytest.mark.parametrize("text", ["", "start", "start middle", "dial left", "wait soon", "save left now"])
def test_a_step_that_is_none_is_refused(text):
    """The message names the text, and says what can be written."""
    with pytest.raises(FaultTextError) as caught:
        parse_order([text])
    assert "write" in str(caught.value)
