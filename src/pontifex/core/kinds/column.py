"""The columns of a grid, derived from the model of a kind: what a cell holds, what it may be, and what it is when it's empty."""

from __future__ import annotations

import types
from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum
from typing import Any, Final, Union, get_args, get_origin

from pydantic import BaseModel, StringConstraints
from pydantic.fields import FieldInfo

from pontifex.core.kinds.fields import ID_FORM, Offered
from pontifex.core.kinds.kind import Group, Kind, ObjectType


class CellForm(Enum):
    """What a cell holds, or each member of its list."""

    TEXT = "text"
    FIGURES = "figures"  # a text that is read sign by sign: an address, a prefix, a name of the DNS
    NUMBER = "number"
    YES_NO = "yes-no"
    CHOICE = "choice"
    REFERENCE = "reference"  # to an object of the design
    STRUCTURE = "structure"  # several values that belong together


@dataclass(frozen=True, slots=True)
class Part:
    """A number that may stand behind a member of a list, in brackets: "radio (delay 60)"."""

    field: str  # of the structure
    word: str  # that is typed in front of the number
    title: str


@dataclass(frozen=True, slots=True)
class Column:
    """One column. A cell without a value stands for `default`; one that is required must be filled.

    Where it names others `instead`, it or one of them must be filled.
    """

    field: str
    title: str
    description: str
    form: CellForm
    many: bool  # a list of them
    required: bool
    instead: tuple[str, ...] = ()  # fields
    default: Any = None  # as in JSON
    choices: tuple[str, ...] = ()
    offered: tuple[str, ...] = ()  # what is usual, where anything else may be typed as well
    refers: tuple[ObjectType, ...] = ()
    structure: str = ""  # name of the model of a structure
    parts: tuple[Part, ...] = ()  # numbers of a structure that may be left out
    example: str = ""  # of what is typed, or of one member of the list


@dataclass(frozen=True, slots=True)
class KindDescription:
    """A kind as the interface shows it."""

    type: ObjectType
    label: str
    title: str
    members: str
    group: Group
    columns: tuple[Column, ...]


def described(kind: Kind[Any]) -> KindDescription:
    """Return a kind with its columns."""
    return KindDescription(kind.name, kind.name.label, kind.title, kind.members, kind.group, columns_of(kind))


_FORMS: Final[dict[Any, CellForm]] = {bool: CellForm.YES_NO, int: CellForm.NUMBER, float: CellForm.NUMBER}


def columns_of(kind: Kind[Any]) -> tuple[Column, ...]:
    """Return the columns of a kind: what an object belongs to, its name, and the other fields in their order."""
    fields = kind.model.model_fields
    first = [kind.parent.field] if kind.parent else []
    named = ["name"] if fields["name"].is_required() else []
    rest = [field for field in fields if field not in (*first, *named, "id", "name", *kind.beside_grid)]
    last = [] if named else ["name"]
    return tuple(_column(kind, field, fields[field]) for field in (*first, *named, *rest, *last))


def _column(kind: Kind[Any], field: str, info: FieldInfo) -> Column:
    inner, constraints, many = unwrapped(info)
    refers = tuple(_referred(kind, field, inner))
    model = inner if isinstance(inner, type) and issubclass(inner, BaseModel) else None
    required = info.is_required()
    return Column(
        field=field,
        title=info.title or field,
        description="" if info.description in (None, ID_FORM) else info.description or "",
        form=_form(inner, constraints, bool(refers), bool(model)),
        many=many,
        required=required,
        instead=next((group[1:] for group in kind.one_of if group[0] == field), ()),
        default=None if required else _in_json(info.default),
        choices=tuple(choice.value for choice in inner) if isinstance(inner, type) and issubclass(inner, Enum) else (),
        offered=next((constraint.values for constraint in constraints if isinstance(constraint, Offered)), ()),
        refers=refers,
        structure=model.__name__ if model else "",
        parts=tuple(_parts(model)) if model else (),
        example="" if refers or model else _example(kind.model, field),
    )


_MOST: Final = "most_"


def _parts(model: type[BaseModel]) -> Iterator[Part]:
    """Yield the limits of a member, called by what stands between "most" and the unit."""
    for field, info in model.model_fields.items():
        if field.startswith(_MOST):
            yield Part(field, field.removeprefix(_MOST).rsplit("_", 1)[0], info.title or field)


def _example(model: type[BaseModel], field: str) -> str:
    """Return the first example that the schema of a field gives, or that of its members."""
    schema: dict[str, Any] = model.model_json_schema()["properties"][field]
    for found in (schema, schema.get("items", {}), *schema.get("anyOf", ())):
        if found.get("examples"):
            return str(found["examples"][0])
    return ""


def unwrapped(info: FieldInfo) -> tuple[Any, list[Any], bool]:
    """Return the type of a cell's value or of each member, its constraints, and whether it is a list."""
    annotation: Any = info.annotation
    constraints = list(info.metadata)
    if get_origin(annotation) in (Union, types.UnionType):
        (annotation,) = (arg for arg in get_args(annotation) if arg is not type(None))
    many = get_origin(annotation) is tuple
    if many:
        annotation = get_args(annotation)[0]
    if hasattr(annotation, "__metadata__"):
        constraints += annotation.__metadata__
        annotation = annotation.__origin__
    return annotation, constraints, many


def _referred(kind: Kind[Any], field: str, inner: Any) -> Iterator[ObjectType]:
    """Yield the types of object that a field names; members of a list say theirs in a field of their own."""
    for reference in kind.refers:
        if reference.field != field:
            continue
        if reference.to:
            yield reference.to
        else:
            yield from reference.among or (ObjectType(choice.value) for choice in inner.model_fields["type"].annotation)


def _form(inner: Any, constraints: list[Any], is_reference: bool, is_structure: bool) -> CellForm:
    if is_reference:
        return CellForm.REFERENCE
    if is_structure:
        return CellForm.STRUCTURE
    if isinstance(inner, type) and issubclass(inner, Enum):
        return CellForm.CHOICE
    free = any(isinstance(constraint, StringConstraints) and constraint.strip_whitespace for constraint in constraints)
    return CellForm.TEXT if inner is str and free else _FORMS.get(inner, CellForm.FIGURES)


def _in_json(value: Any) -> Any:
    if isinstance(value, Enum):
        return value.value
    return [_in_json(part) for part in value] if isinstance(value, tuple) else value
