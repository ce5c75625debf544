"""Names and ids that nothing has yet."""

from __future__ import annotations

from collections.abc import Collection
from itertools import count
from typing import Final

MOST_CHARACTERS: Final = 80  # of a name
_ROOM: Final = 5  # for a number behind it


def free_name(wanted: str, taken: Collection[str]) -> str:
    """Return a name, with a number behind it where somebody has it already."""
    stem = wanted[: MOST_CHARACTERS - _ROOM].strip()
    return next(name for number in count(1) if (name := stem if number == 1 else f"{stem} {number}") not in taken)
