"""What the text of a cell stands for in its column: a number, one of the choices, or an object by its name."""

from __future__ import annotations

import re
from contextlib import suppress
from typing import Any, Final

from pontifex.core.importing.words import folded
from pontifex.core.kinds import KIND_BY_TYPE, DesignMember, ObjectType
from pontifex.core.kinds.column import CellForm, Column
from pontifex.core.model import Design

_PARTS: Final = re.compile(r"[;\n]|,(?![^(]*\))")  # what parts the members of a list; a comma inside brackets doesn't
_YES_NO: Final = {"yes": True, "no": False, "true": True, "false": False}
_LIMITS: Final = {"delay": "most_delay_ms", "jitter": "most_jitter_ms", "loss": "most_loss_percent"}
_MOST_OF_A_CELL: Final = 4000  # characters


class CellError(Exception):
    """A text that stands for nothing in its column, with the reason."""

    def __init__(self, column: Column, reason: str) -> None:
        super().__init__(f"{column.title}: {reason}")


class ObjectNames:
    """The objects of a design by what people call them: the id, the name, or the name behind that of what it belongs to."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self._by_name: dict[ObjectType, dict[str, str]] = {}

    def find(self, type_: ObjectType, text: str) -> str | None:
        """Return the id of the object that a text names; None where there is none."""
        return self._of_type(type_).get(folded(text))

    def add(self, type_: ObjectType, item: DesignMember) -> None:
        """Take an object in that the design doesn't hold yet."""
        self._of_type(type_).setdefault(folded(item.name), item.id)

    def _of_type(self, type_: ObjectType) -> dict[str, str]:
        if type_ not in self._by_name:
            members = [member for member in self._design.by_type[type_].values() if isinstance(member, DesignMember)]
            by_name: dict[str, str] = {}
            for design_member in members:
                by_name |= {
                    name: design_member.id
                    for name in (folded(design_member.name), self._full_name(type_, design_member))
                    if name not in by_name
                }
            self._by_name[type_] = by_name | {member.id: member.id for member in members}
        return self._by_name[type_]

    def _full_name(self, type_: ObjectType, item: DesignMember) -> str:
        parent = KIND_BY_TYPE[type_].parent
        names = [self._design.by_type[to][id_].name for _, to, id_ in parent.named_by(item)] if parent else []
        return folded(f"{names[0]}: {item.name}") if names else folded(item.name)


def cell_value(column: Column, text: str, names: ObjectNames) -> Any:
    """Return what a text stands for, as JSON would hold it. Raise CellError for a name of nothing.

    What else can't be a value stays text: the model says what is wrong with it.
    """
    typed = text.strip()
    if not typed:
        return column.default
    if not column.many:
        return _value(column, typed, names)
    if len(typed) > _MOST_OF_A_CELL:
        raise CellError(column, f"the cell has {len(typed)} characters; {_MOST_OF_A_CELL} at most")
    return [_value(column, part, names) for piece in _PARTS.split(typed) if (part := piece.strip())]


def _value(column: Column, text: str, names: ObjectNames) -> Any:
    if column.form is CellForm.NUMBER:
        return _number(text)
    if column.form is CellForm.YES_NO:
        return _YES_NO.get(text.lower(), text)
    if column.form is CellForm.CHOICE:
        return next((choice for choice in column.choices if folded(text) in (choice, choice.replace("-", " "))), text)
    if column.form is CellForm.STRUCTURE:
        suffix, _, resolver = text.replace(" by ", " ").partition(" ")
        return {"suffix": suffix, "resolver": resolver.strip()} if resolver else text
    if column.form is not CellForm.REFERENCE:
        return text
    if column.structure:
        return _member(column, text, names)
    return _typed(column, text, names)["id"]


def _number(text: str) -> Any:
    for read in (int, float):
        with suppress(ValueError):
            return read(text)
    return text


def _member(column: Column, text: str, names: ObjectNames) -> dict[str, Any]:
    """Return a member of a list with its type; how good a path must be may stand in brackets behind it."""
    name, bracket, limits = text.removesuffix(")").rpartition("(")
    if not bracket or not text.endswith(")") or any(names.find(to, text) for to in column.refers):
        return _typed(column, text, names)
    words = [limit.split() for limit in limits.split(",")]
    if not all(len(word) == 2 and word[0] in _LIMITS for word in words):
        raise CellError(column, f"'{limits}' is no limit; say delay 60, jitter 5, loss 2")
    return _typed(column, name.strip(), names) | {_LIMITS[word]: _number(value) for word, value in words}


def _typed(column: Column, text: str, names: ObjectNames) -> dict[str, Any]:
    """Return type and id of the object that a text names. Raise CellError where there is none."""
    for to in column.refers:
        if id_ := names.find(to, text):
            return {"type": to.value, "id": id_}
    raise CellError(column, f"there is no {' or '.join(to.label for to in column.refers)} '{text}'")
