"""The forecast of tunnels over TLS against what happens when both ends dial each other by a real handshake."""

from __future__ import annotations

from tests.truth.tls_ends import judge

SEEDS = range(150)


def test_the_forecast_says_what_happens_over_tls():
    """For pairs drawn near to agreeing: the stage at which the call stops, renegotiation and restarts included."""
    ends, differing = judge(SEEDS)
    assert not differing, "\n".join(differing)
    assert min(ends[stage] for stage in ("up", "reach", "init", "auth", "child", "traffic")) >= 1  # the draw isn't idle
    assert ends["not rehearsed"] < len(SEEDS) / 5
