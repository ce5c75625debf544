"""What came of random pairs of ends of some kind when they were dialled, held against their forecasts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from random import Random

from pontifex.core.model import Design
from pontifex.core.rehearsal import NotRehearsed, rehearse
from tests.support.designs import TODAY
from tests.truth import eap_ends, peer_key_ends, tls_ends


def judge(draw: Callable[[Random], Design], seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Return how the pairs of some seeds end when they are dialled, and where forecast and rehearsal differ."""
    ends: Counter[str] = Counter()
    differing: list[str] = []
    for seed in seeds:
        design = draw(Random(seed))
        found = rehearse(design, design.tunnels[0], TODAY)
        if isinstance(found, NotRehearsed):
            ends["not rehearsed"] += 1
            continue
        stopped, forecast = found.outcome.stopped_at, found.outcome.forecast_stage
        ends[stopped.value if stopped else "up"] += 1
        if not found.outcome.agrees:
            ends["differ"] += 1
            differing.append(f"seed {seed}: forecast {forecast}, stopped at {stopped}: {found.outcome.why}")
    return ends, differing


def over_tls(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Judge pairs over TLS."""
    return judge(tls_ends.draw_design, seeds)


def with_peer_keys(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Judge pairs with static peer keys."""
    return judge(peer_key_ends.draw_design, seeds)


def by_eap(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Judge pairs of which the caller proves itself by EAP."""
    return judge(eap_ends.draw_design, seeds)
