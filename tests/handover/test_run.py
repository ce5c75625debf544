"""Walking a plan: steps in their order, a failed check, and the way back."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.handover.run import NotNow, RunState, TickResult, check_tick, progress

STEPS = 4


@given(st.lists(st.tuples(st.integers(1, STEPS), st.sampled_from(TickResult)), max_size=20))
def test_what_is_entered_is_always_the_first_steps(wanted):
    """However people tick, what is entered are the first steps; a run ends done or taken back, and never between."""
    ticks: list[tuple[int, TickResult]] = []
    for step, result in wanted:
        now = progress(STEPS, ticks)
        try:
            check_tick(now, step, result)
        except NotNow:
            continue
        ticks.append((step, result))
        after = progress(STEPS, ticks)
        assert after.done == tuple(range(1, len(after.done) + 1))
        assert (after.next_step is None) is (after.state in (RunState.DONE, RunState.TAKEN_BACK))
        assert (after.state is RunState.STOPPED) is (result is TickResult.FAILED)
        assert after.done or after.state in (RunState.OPEN, RunState.TAKEN_BACK)


def test_a_failed_check_is_mended_or_taken_back():
    """After a failed check the same step is ticked again once it is mended, or the last one is undone first."""
    done, failed, undone = TickResult.DONE, TickResult.FAILED, TickResult.UNDONE
    stopped = [(1, done), (2, failed)]
    now = progress(STEPS, stopped)
    assert (now.state, now.next_step) == (RunState.STOPPED, 2)
    assert progress(STEPS, [*stopped, (2, done)]).next_step == 3
    assert (progress(STEPS, [*stopped, (2, undone)]).state, progress(STEPS, [*stopped, (2, undone)]).next_step) == (
        RunState.GOING_BACK,
        1,
    )
    assert progress(STEPS, [*stopped, (2, undone), (1, undone)]).state is RunState.TAKEN_BACK
    with pytest.raises(NotNow, match="step 2 is taken back first"):
        check_tick(now, 1, undone)
    with pytest.raises(NotNow, match="goes back"):
        check_tick(progress(STEPS, [*stopped, (2, undone)]), 2, done)
