"""Watching over the private cluster: one that dies is started again."""

from __future__ import annotations

from threading import Event, Thread

import structlog

from pontifex.store.cluster import Cluster
from pontifex.store.programs import ClusterError


class ClusterWatch:
    """Starts a cluster again, on the same port, whenever its postmaster has died; until it is told to end."""

    def __init__(self, cluster: Cluster, every_s: float = 1) -> None:
        self._cluster, self._every_s = cluster, every_s
        self._port = cluster.port()
        self._ended = Event()
        self._thread = Thread(target=self._watch, name="cluster watch", daemon=True)
        self._thread.start()

    def end(self) -> None:
        """Let the cluster be stopped."""
        self._ended.set()
        self._thread.join()

    def _watch(self) -> None:
        while not self._ended.wait(self._every_s):
            if self._cluster.is_alive():
                continue
            try:
                self._cluster.start(self._port)
            except ClusterError as error:  # what is left of the one that died may still end; the next round tries again
                structlog.get_logger("database").warning("the database could not be started again yet", reason=str(error)[:200])
            else:
                structlog.get_logger("database").warning("the database had died and was started again")
