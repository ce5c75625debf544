"""Turns: who changes one design waits for nobody who changes another, and takes no connection while waiting."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock


class Turns:
    """A lock for each design, forgotten when nobody waits for it."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._locks: dict[str, Lock] = {}
        self._waiting: dict[str, int] = {}

    @contextmanager
    def of(self, design_id: str) -> Iterator[None]:
        """Wait until it is one's turn with a design, and take it."""
        with self._lock:
            turn = self._locks.setdefault(design_id, Lock())
            self._waiting[design_id] = self._waiting.get(design_id, 0) + 1
        try:
            with turn:
                yield
        finally:
            with self._lock:
                self._waiting[design_id] -= 1
                if not self._waiting[design_id]:
                    del self._waiting[design_id], self._locks[design_id]
