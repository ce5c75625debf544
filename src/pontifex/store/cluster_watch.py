"""Watching over the private cluster: one that dies is started again."""

from __future__ import annotations

import structlog

from pontifex.process import Repeated
from pontifex.store.cluster import Cluster


def watched(cluster: Cluster, every_s: float = 1) -> Repeated:
    """Start a cluster again, on the same port, whenever its postmaster has died; until the watch is told to end.

    What is left of the one that died may keep it from starting at first; the next round tries again.
    """
    port = cluster.port()

    def look() -> None:
        if not cluster.is_alive():
            cluster.start(port)
            structlog.get_logger("database").warning("the database had died and was started again")

    return Repeated(look, every_s)
