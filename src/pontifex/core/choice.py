"""Enumerations: the base of those whose members are keys again and again, and members by numbers that may be unknown."""

from __future__ import annotations

from enum import Enum, IntEnum
from typing import TypeVar

Numbered = TypeVar("Numbered", bound=IntEnum)


class Choice(Enum):
    """An enumeration whose members are keys on hot paths: each member is one object, so its identity is its hash."""

    __hash__ = object.__hash__


def member_of(numbered: type[Numbered], number: int) -> Numbered | None:
    """Return the member of a number; None where it is no member's."""
    try:
        return numbered(number)
    except ValueError:
        return None
