"""What a task may use, and how it is held to it."""

from __future__ import annotations

import os
import resource
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from types import FrameType
from typing import Final

_GRACE_S: Final = 2  # for what can't be interrupted; then the kernel ends the process
_PAGES_OF_DATA: Final = 5  # which number of /proc/self/statm is the size of data and stack


@dataclass(frozen=True, slots=True)
class Budget:
    """What one task may use."""

    cpu_s: float = 10
    memory_octets: int = 2**30
    wall_s: float = 120  # a task that waits for something that doesn't come

    def __str__(self) -> str:
        return f"{self.cpu_s:g} s of computing and {self.memory_octets / 2**30:g} GiB of memory"


class OverBudget(BaseException):
    """The task has used up its computing time. No check may keep this error, so that it is no `Exception`."""


class BrokenOff(BaseException):
    """Nobody waits for the task any more."""


class Limits:
    """Holds this process to a budget, task by task, and lets a signal break the task off."""

    def __init__(self, budget: Budget) -> None:
        self._budget, self._working = budget, False
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is for the server, which ends its workers
        signal.signal(signal.SIGPROF, self._over)
        signal.signal(signal.SIGUSR1, self._broken_off)
        if budget.memory_octets:
            most = _octets_of_data() + budget.memory_octets
            resource.setrlimit(resource.RLIMIT_DATA, (most, most))

    @contextmanager
    def task(self, cpu_s: float | None = None) -> Iterator[None]:
        """Raise OverBudget, MemoryError or BrokenOff within a task that uses more, or that nobody waits for.

        A task may be given another time of computing than the budget's.
        """
        given_s = cpu_s or self._budget.cpu_s
        used = resource.getrusage(resource.RUSAGE_SELF)
        seconds = used.ru_utime + used.ru_stime + given_s + _GRACE_S
        resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + 1, resource.RLIM_INFINITY))
        self._working = True
        signal.setitimer(signal.ITIMER_PROF, given_s)
        try:
            yield
        finally:
            self._working = False
            signal.setitimer(signal.ITIMER_PROF, 0)

    def _over(self, _signal: int, _frame: FrameType | None) -> None:
        if self._working:
            raise OverBudget

    def _broken_off(self, _signal: int, _frame: FrameType | None) -> None:
        if self._working:
            raise BrokenOff


def _octets_of_data() -> int:
    with open("/proc/self/statm") as numbers:
        return int(numbers.read().split()[_PAGES_OF_DATA]) * os.sysconf("SC_PAGESIZE")
