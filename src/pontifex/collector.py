"""How often the collector of cycles runs in a process of the product."""

from __future__ import annotations

import gc


def collect_seldom() -> None:
    """Let it run seldom: modules, analyses and rehearsals make many values and hardly a cycle."""
    gc.freeze()
    gc.set_threshold(500_000, 20, 50)  # an analysis of 1,000 tunnels keeps some 100,000
