"""The forecast of tunnels without IKE, and of those with EAP, against what happens when both ends dial each other."""

from __future__ import annotations

from tests.truth.dialled import by_eap, over_tls, with_peer_keys

SEEDS = range(150)


def test_the_forecast_says_what_happens_over_tls():
    """For pairs drawn near to agreeing: the stage at which the call stops, renegotiation and restarts included."""
    ends, differing = over_tls(SEEDS)
    assert not differing, "\n".join(differing)
    assert min(ends[stage] for stage in ("up", "reach", "init", "auth", "child", "traffic")) >= 1  # the draw isn't idle
    assert ends["not rehearsed"] < len(SEEDS) / 5


def test_the_forecast_says_what_happens_with_peer_keys():
    """The same for static peer keys: a call that can't be opened, lists that have nothing in common, restarts."""
    ends, differing = with_peer_keys(SEEDS)
    assert not differing, "\n".join(differing)
    assert min(ends[stage] for stage in ("up", "reach", "auth", "child", "traffic")) >= 1
    assert ends["not rehearsed"] < len(SEEDS) / 5


def test_the_forecast_says_what_happens_with_eap():
    """Methods, accounts and certificates of the caller; at the end that is called, a proof that EAP can go with."""
    ends, differing = by_eap(SEEDS)
    assert not differing, "\n".join(differing)
    assert min(ends["up"], ends["auth"]) >= 20
    assert ends["not rehearsed"] < len(SEEDS) / 5
