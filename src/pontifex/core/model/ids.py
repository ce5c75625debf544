"""Ids and names of new objects. Ids are made of names, so that links and files can be read."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Container
from itertools import count
from typing import Final

_DASHES: Final = re.compile(r"[\u2010-\u2015]")  # between two names, as in Harbour–Ostvik
_LONGEST_NAME: Final = 75  # of 80 characters, so that a number has room behind it
LONGEST_STEM: Final = 56  # of an id's 64 characters, so that a number has room behind it


def slug(name: str, instead: str = "new") -> str:
    """Return lower-case letters without marks, digits and hyphens made of a name; `instead` where nothing is left of it."""
    plain = unicodedata.normalize("NFKD", _DASHES.sub("-", name)).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:LONGEST_STEM].strip("-") or instead


def fresh_id(name: str, taken: Container[str], instead: str = "new") -> str:
    """Return an id made of a name that is not taken yet."""
    stem = slug(name, instead)
    return next(id_ for number in count(1) if (id_ := stem if number == 1 else f"{stem}-{number}") not in taken)


def free_name(wanted: str, taken: Container[str]) -> str:
    """Return a name, with a number behind it where somebody has it already."""
    stem = wanted[:_LONGEST_NAME].strip()
    return next(name for number in count(1) if (name := stem if number == 1 else f"{stem} {number}") not in taken)
