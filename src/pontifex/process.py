"""What a process of the product sets up for itself: its log, and what it does again and again."""

from __future__ import annotations

import logging
import sys
from collections.abc import Callable
from threading import Event, Thread

import structlog


def set_up_logging(verbose: bool) -> None:
    """Log events as lines of key and value on standard error; requests only when asked for more."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.KeyValueRenderer(key_order=["timestamp", "level", "event"]),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.DEBUG if verbose else logging.INFO),
        logger_factory=structlog.WriteLoggerFactory(file=sys.stderr),
    )


class Repeated:
    """Does something in the background at once and then again and again, until it is told to end."""

    def __init__(self, task: Callable[[], object], every_s: float) -> None:
        self._task, self._every_s = task, every_s
        self._ended = Event()
        self._thread = Thread(target=self._run, name=task.__qualname__, daemon=True)
        self._thread.start()

    def end(self) -> None:
        """Wait for what is being done, and do it no more."""
        self._ended.set()
        self._thread.join()

    def _run(self) -> None:
        while not self._ended.is_set():
            try:
                self._task()
            except Exception as error:  # it is tried again the next time
                kind, reason = type(error).__name__, str(error)[:200]
                structlog.get_logger("repeated").error("failed", task=self._task.__qualname__, kind=kind, reason=reason)
            self._ended.wait(self._every_s)
