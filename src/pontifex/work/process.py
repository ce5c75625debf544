"""One worker process, seen from the server."""

from __future__ import annotations

import multiprocessing
import os
import signal
import time
from contextlib import suppress
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Final

from pontifex.work.budget import Budget
from pontifex.work.task import Reply, Task, TaskProgress

# a process of its own, without threads and without anything of the server in it, from which workers are copied in no time
_CONTEXT: Final = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["pontifex.work.worker"])


def prepare_workers() -> None:
    """Let that process begin to load what workers need: it takes as long as the server did, and the first question waits for it.

    It keeps the environment of this moment.
    """
    forkserver.ensure_running()


def _work(connection: Connection, database_url: str, budget: Budget, verbose: bool) -> None:
    from pontifex.work.worker import work  # it loads the computing core, which the server can do without

    work(connection, database_url, budget, verbose)


class WorkerProcess:
    """A worker that runs."""

    def __init__(self, database_url: str, budget: Budget, verbose: bool) -> None:
        self._budget = budget
        self.progress: TaskProgress | None = None  # of the task that it works on, where that says so
        self._connection, theirs = _CONTEXT.Pipe()
        self._process = _CONTEXT.Process(target=_work, args=(theirs, database_url, budget, verbose), daemon=True)
        self._process.start()
        theirs.close()

    @property
    def is_alive(self) -> bool:
        """Whether it can be given another task."""
        return not self._connection.closed and self._process.is_alive()

    def work(self, task: Task) -> Reply:
        """Have a task done. A worker that is ended over it, by the kernel or here, was over its budget."""
        self.progress = None
        until = time.monotonic() + self._budget.wall_s * (task.cpu_s or self._budget.cpu_s) / self._budget.cpu_s
        try:
            self._connection.send(task)
            while True:
                if not self._connection.poll(max(0.0, until - time.monotonic())):
                    return self._over()
                reply: Reply | TaskProgress = self._connection.recv()
                if isinstance(reply, Reply):
                    break
                self.progress = reply
        except (EOFError, OSError):
            return self._over()
        return self._over() if reply.over_budget else reply

    def _over(self) -> Reply:
        self.kill()
        return Reply(over_budget=True)

    def break_off(self) -> None:
        """Break off what it works on."""
        with suppress(ProcessLookupError):
            if self._process.pid:
                os.kill(self._process.pid, signal.SIGUSR1)

    def end(self) -> None:
        """End it, whatever it does; who waits for it is told so."""
        self._process.kill()

    def kill(self) -> None:
        """End it, and give up all that belongs to it."""
        self._connection.close()
        self._process.kill()
        self._process.join()
