"""Virtual time: what is to happen, and when. An hour passes as fast as its events are worked off."""

from __future__ import annotations

import heapq
from collections.abc import Callable
from itertools import count


class Clock:
    """The time of a rehearsal, in seconds from its beginning, and what is due."""

    def __init__(self) -> None:
        self.now = 0.0
        self._due: list[tuple[float, int, Callable[[], None]]] = []
        self._order = count()

    def at(self, time: float, act: Callable[[], None]) -> None:
        """Let something happen at a time, or at once where that is past; what is due at one time happens in the order given."""
        heapq.heappush(self._due, (max(time, self.now), next(self._order), act))

    @property
    def next_due(self) -> float:
        """When something happens next; infinite where nothing does."""
        return self._due[0][0] if self._due else float("inf")

    def step(self) -> None:
        """Let the next thing happen."""
        self.now, _, act = heapq.heappop(self._due)
        act()

    def run_until(self, time: float) -> None:
        """Let everything happen that is due up to a time, and go on to it."""
        while self.next_due <= time:
            self.step()
        self.now = max(self.now, time)
