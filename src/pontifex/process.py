"""What a process of the product sets up for itself: its log, and what it does beside its work."""

from __future__ import annotations

import logging
import sys
from collections.abc import Callable
from contextlib import AbstractContextManager
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


class Alongside:
    """Holds something open in a thread of its own, from its start until its end."""

    def __init__(self, opened: Callable[[], AbstractContextManager[None]], on_failure: Callable[[], None]) -> None:
        """`opened` is called and entered in the thread; `on_failure` is called there when that, or leaving it, fails."""
        self._opened, self._on_failure = opened, on_failure
        self._ended = Event()
        self._error: Exception | None = None
        self._thread = Thread(target=self._run, name="alongside", daemon=True)

    def start(self) -> None:
        """Begin to open it."""
        self._thread.start()

    def end(self) -> None:
        """Close it, once it is open. Raise what opening or closing it raised."""
        self._ended.set()
        if self._thread.is_alive():
            self._thread.join()
        if self._error:
            raise self._error

    def _run(self) -> None:
        try:
            with self._opened():
                self._ended.wait()
        except Exception as error:
            self._error = error
            self._on_failure()


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
