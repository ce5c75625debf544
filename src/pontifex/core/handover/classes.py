"""The class of a packet in its mark, where the kernel's rules can ask for it (ip-rule(8), nft(8)).

A mark has a field of seven bits for each stage: the class with a bit above it that says that it is set. Rules that mark
begin a new stage: a rule above one asks for the class before it, a rule below for the class after it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Final

from pontifex.core.routing.tables.tables import ResolvedRule

_SET: Final = 0x40
MARK_MASK: Final = 0x7F  # of one field
_FIELDS: Final = 4


class Stages:
    """In which stage each rule asks for the class."""

    SHIFTS: ClassVar = tuple(range(0, 7 * _FIELDS, 7))

    def __init__(self, clauses: Sequence[ResolvedRule]) -> None:
        self._clauses = tuple(clauses)
        self._stage: list[int] = []  # of each rule: how many fields are in use before it
        stage, marked = 0, False
        for clause in clauses:
            if clause.classes is not None and marked:
                stage, marked = stage + 1, False
            self._stage.append(min(stage, _FIELDS - 1))
            marked = marked or clause.marks is not None

    @property
    def too_many(self) -> bool:
        """Whether rules mark and ask in turn more often than there are fields."""
        turns = sum(
            clause.marks is not None and any(other.classes is not None for other in self._clauses[place + 1 :])
            for place, clause in enumerate(self._clauses)
        )
        return turns >= _FIELDS

    def field(self, place: int) -> int:
        """Return where the field that a rule asks begins, in bits."""
        return self.SHIFTS[self._stage[place]]

    def marks(self, place: int) -> tuple[int, ...] | None:
        """Return the values of its field that a rule asks for; None where it asks for no class."""
        classes = self._clauses[place].classes
        return None if classes is None else tuple(mark(class_, self.field(place)) for class_ in sorted(classes))

    def used(self) -> list[tuple[int, frozenset[int], list[int]]]:
        """Return where each field in use begins, the classes asked for in it, and the places of the marking rules before it."""
        found: list[tuple[int, frozenset[int], list[int]]] = []
        for shift in self.SHIFTS:
            asking = [k for k, clause in enumerate(self._clauses) if clause.classes is not None and self.field(k) == shift]
            if asking:
                classes = frozenset[int]().union(*(self._clauses[k].classes or () for k in asking))
                before = [k for k, clause in enumerate(self._clauses) if clause.marks is not None and k < asking[0]]
                found.append((shift, classes, before))
        return found


def mark(class_: int, shift: int) -> int:
    """Return the mark of a class in the field that begins at a bit."""
    return (_SET | class_) << shift
