"""What a rule takes while a quality changes: it leaves at once, and comes back after a while within its margin."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.kinds import Rule
from pontifex.core.model import apply_operations, put
from pontifex.core.routing import Conditions, Quality, Tables
from pontifex.core.routing.links.quality import thresholds
from pontifex.core.routing.links.quality_course import CoursePoint, QualityCourse, quality_course, usual_course, value_at
from pontifex.demo import demo_design

DEMO = demo_design()
NAMED = ("brenna-basalt-radio", "Brenna–Basalt radio")
ALL_UP = Conditions()
RADIO, CABLE = "brenna-basalt-radio", "brenna-basalt-cable"


def _rule(**fields: object) -> Rule:
    rule = next(candidate for candidate in DEMO.rules if candidate.id == "brenna-gates-by-radio")
    return Rule.model_validate({**rule.model_dump(), **fields})


def _played(rule: Rule, points: tuple[CoursePoint, ...] = (), conditions: Conditions = ALL_UP) -> QualityCourse:
    tables = Tables(apply_operations(DEMO, [put(rule)]))
    path = rule.paths[0]
    delay = next(thresholds(rule, path))
    return quality_course(tables, rule, path, delay, points or usual_course(rule, delay), conditions)


def _points(*values: float, every_s: float = 10) -> tuple[CoursePoint, ...]:
    return tuple(CoursePoint(at_s=place * every_s, value=value) for place, value in enumerate(values))


def test_the_usual_course_shows_both_bounds():
    """Up over the limit it moves at once; between the bounds it stays away; it is back a minute after it is below."""
    found = _played(_rule())
    assert (found.leaves_above, found.returns_below, found.back_after_s) == (60, 48, 60)
    assert [span.path_id for span in found.spans] == [RADIO, CABLE, RADIO]
    away, back = found.spans[1:]
    assert value_at(found.points, away.from_s - 1) <= 60 < value_at(found.points, away.from_s)
    assert value_at(found.points, back.from_s - 61) > 48 >= value_at(found.points, back.from_s - 60)
    assert (away.why.split(",")[1], back.why) == (" 60 allowed", "good enough for 60 s")


def test_a_moment_between_the_bounds_begins_the_wait_anew():
    """What is good enough for less than the wait, and then isn't, has to wait from the beginning."""
    low, between, high = 10, 55, 80
    found = _played(_rule(back_after_s=20), _points(low, high, low, between, low, low, low, low))
    back = found.spans[-1]
    assert back.path_id == RADIO
    assert back.from_s >= 30 + 20


def test_what_is_cut_off_is_never_taken_and_without_a_spare_it_is_held():
    """A path that is down plays no part, however good it is; where none is left, the rule says what happens."""
    found = _played(_rule(), conditions=Conditions(tunnels={CABLE: "taken down"}))
    assert [(span.path_id, span.name) for span in found.spans] == [NAMED, (None, "hold"), NAMED]
    found = _played(_rule(), conditions=Conditions(tunnels={RADIO: "taken down"}))
    assert [span.path_id for span in found.spans] == [CABLE]


def test_what_else_is_supposed_counts_as_well():
    """With a loss above its limit a path is left from the beginning, whatever the delay does."""
    found = _played(_rule(), conditions=Conditions(quality={RADIO: Quality(loss_percent=5)}))
    assert [span.path_id for span in found.spans] == [CABLE]


@given(
    st.lists(st.integers(0, 100), min_size=2, max_size=12),
    st.integers(0, 40),
    st.integers(0, 60),
)
def test_it_moves_as_the_bounds_say(values, wait_s, margin):
    """Second by second: away exactly from a value above the limit until the bound below has been kept for the wait."""
    found = _played(_rule(back_after_s=wait_s, back_margin_percent=margin), _points(*map(float, values)))
    taken = {second: span.path_id for span in found.spans for second in range(span.from_s, span.until_s + 1)}
    series = [value_at(found.points, second) for second in range(int(found.points[-1].at_s) + 1)]
    for second, value in enumerate(series):
        over = max((past for past in range(second + 1) if series[past] > found.leaves_above), default=None)
        kept = over is not None and any(
            all(value <= found.returns_below for value in series[begin : begin + wait_s + 1])
            for begin in range(over + 1, second - wait_s + 1)
        )
        assert (taken[second] == RADIO) is (value <= found.leaves_above and (over is None or kept)), second
    assert [span.until_s for span in found.spans[:-1]] == [span.from_s for span in found.spans[1:]]


def test_before_its_first_point_a_course_has_that_ones_value():
    """A course that begins later is level until then."""
    later = (CoursePoint(at_s=20, value=10), CoursePoint(at_s=30, value=110))
    assert [value_at(later, second) for second in (0, 20, 25, 30, 40)] == [10, 10, 60, 110, 110]
    assert [(span.path_id, span.from_s) for span in _played(_rule(), later).spans] == [(RADIO, 0), (CABLE, 26)]


@pytest.mark.parametrize("limit", [0, 0.5])
def test_a_limit_of_nothing_has_a_course_as_well(limit):
    """Of a limit of zero the usual course still goes above and comes back."""
    paths = [{**DEMO.rules[0].paths[0].model_dump(), "most_delay_ms": limit}, {"type": "tunnel", "id": CABLE}]
    assert [span.path_id for span in _played(_rule(paths=paths)).spans] == [RADIO, CABLE, RADIO]
