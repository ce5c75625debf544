"""The forecast against what happens when both ends dial each other, for random pairs of ends."""

from __future__ import annotations

from tests.truth.rehearsed import judge

SEEDS = range(400)


def test_the_forecast_says_what_happens():
    """For pairs drawn near to agreeing: the stage at which the call stops, rekeys and restarts included."""
    ends, differing = judge(SEEDS)
    assert not differing, "\n".join(differing)
    assert min(ends[stage] for stage in ("up", "reach", "init", "auth", "child", "rekey")) >= 2  # the draw isn't idle
    assert ends["not rehearsed"] < len(SEEDS) / 5
