"""What is done at the start and once a day: what can't be restored goes for good, and keys that nothing refers to."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from threading import Event, Thread
from typing import Final

import structlog

_DAY_S: Final = 24 * 3600


class Upkeep:
    """Runs some tasks in the background, again and again, until it is told to end."""

    def __init__(self, tasks: Sequence[Callable[[], int]], every_s: float = _DAY_S) -> None:
        self._tasks, self._every_s = tasks, every_s
        self._ended = Event()
        self._thread = Thread(target=self._run, name="upkeep", daemon=True)
        self._thread.start()

    def end(self) -> None:
        """Wait for the task that runs, and start none any more."""
        self._ended.set()
        self._thread.join()

    def _run(self) -> None:
        while not self._ended.is_set():
            for task in self._tasks:
                try:
                    task()
                except Exception as error:  # it is tried again the next day
                    structlog.get_logger("upkeep").error("upkeep failed", task=task.__qualname__, kind=type(error).__name__)
            self._ended.wait(self._every_s)
