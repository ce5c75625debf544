"""Printing a figure beside its bound, and timing."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def row(what: str, measured: str, bound: str, holds: bool) -> bool:
    """Print one figure and say whether it holds."""
    print(f"{'holds ' if holds else 'MISSED'}  {what:<58} {measured:>22}   {bound}", flush=True)
    return holds


def median_s(work: Callable[[], object], times: int) -> float:
    """Return the median time of a piece of work, in seconds."""
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        taken.append(time.perf_counter() - started)
    return statistics.median(taken)
