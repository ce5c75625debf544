"""Random pairs of ends, dialled: how far the forecast says that a call gets, against how far it got."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from random import Random

from pontifex.core.rehearsal import NotRehearsed, Rehearsal, rehearse
from tests.truth.ends import PairData, describe, design_of, draw_pair, reduced
from tests.truth.foretold import TODAY


def dialled(pair: PairData) -> Rehearsal | NotRehearsed:
    """Return what came of a rehearsal of a pair."""
    design = design_of(pair)
    return rehearse(design, design.tunnels[0], TODAY)


def disagreement(pair: PairData) -> str:
    """Return in what forecast and rehearsal differ; empty where they agree, or where it can't be rehearsed."""
    found = dialled(pair)
    if isinstance(found, NotRehearsed) or found.outcome.agrees:
        return ""
    forecast, stopped = found.outcome.forecast_stage, found.outcome.stopped_at
    return (
        f"forecast to stop at {forecast.value if forecast else 'nothing'}, stopped at {stopped.value if stopped else 'nothing'}"
    )


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Return how the pairs of some seeds end when they are dialled, and one disagreement of each kind."""
    ends: Counter[str] = Counter()
    found: dict[str, str] = {}
    for seed in seeds:
        pair = draw_pair(Random(seed))
        rehearsed = dialled(pair)
        if isinstance(rehearsed, NotRehearsed):
            ends["not rehearsed"] += 1
            continue
        stopped = rehearsed.outcome.stopped_at
        ends[stopped.value if stopped else "up"] += 1
        if not rehearsed.outcome.agrees:
            ends["differ"] += 1
            what = disagreement(pair)
            if what not in found:
                smallest = reduced(pair, lambda case, what=what: disagreement(case) == what)  # type: ignore[misc]
                found[what] = f"{what} (seed {seed}):\n{describe(smallest)}"
    return ends, list(found.values())
