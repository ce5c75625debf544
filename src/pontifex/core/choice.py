"""The base of enumerations whose members are keys again and again."""

from __future__ import annotations

from enum import Enum


class Choice(Enum):
    """An enumeration whose members are keys on hot paths: each member is one object, so its identity is its hash."""

    __hash__ = object.__hash__
