"""Tasks for workers, as large or as broken as a test needs them; a worker finds them here by name."""

from __future__ import annotations

import os
import time
from pathlib import Path


def process_number() -> int:
    """Return which process does the task."""
    return os.getpid()


def computing(begun: str) -> int:
    """Compute without an end, after a file says that it has begun."""
    Path(begun).write_text(str(os.getpid()))
    number = 0
    while True:
        number = (number * 31 + 7) % 1_000_003


def counting_up() -> int:
    """Stay within one call of C for longer than any budget."""
    return sum(range(10**11))


def hoarding() -> int:
    """Ask for more memory, again and again."""
    hoard = []
    while True:
        hoard.append(bytearray(2**24))


def sleeping() -> int:
    """Wait for what doesn't come."""
    time.sleep(3600)
    return 0


def dying() -> int:
    """End the process, as a fault in a library would."""
    os._exit(139)


def failing() -> int:
    """End in an error of ours."""
    return 1 // 0
