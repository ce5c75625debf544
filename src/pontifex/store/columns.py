"""The tables of the kinds, derived from their models: a column for each field, a foreign key for each reference."""

from __future__ import annotations

import types
from collections.abc import Iterator
from datetime import date
from enum import Enum
from typing import Any, Final, Union, get_args, get_origin

from annotated_types import Le
from pydantic.fields import FieldInfo
from sqlalchemy import (
    Boolean,
    Column,
    Date,
    Float,
    ForeignKey,
    ForeignKeyConstraint,
    Integer,
    MetaData,
    SmallInteger,
    Table,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import CIDR, INET, JSONB, MACADDR
from sqlalchemy.types import TypeEngine

from pontifex.core.addressing import Address, Prefix
from pontifex.core.kinds import KIND_BY_TYPE, Kind, Reference
from pontifex.core.kinds.host import HardwareAddress

LARGEST_SMALL: Final = 2**15 - 1
_PLAIN: Final[dict[Any, type[TypeEngine[Any]]]] = {
    Prefix: CIDR,
    Address: INET,
    HardwareAddress: MACADDR,
    bool: Boolean,
    float: Float,
    str: Text,
    date: Date,
}


def kind_table(metadata: MetaData, kind: Kind[Any], *more: Any) -> Table:
    """Return the table of a kind. Foreign keys are deferred: the operations of one change may come in any order."""
    return Table(
        kind.name.value.replace("-", "_"),
        metadata,
        Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), primary_key=True),
        *(_column(name, field) for name, field in kind.model.model_fields.items()),
        *_foreign_keys(kind),
        *_unique_name(kind),
        *more,
    )


def refers(field: str, table: str) -> ForeignKeyConstraint:
    """Return the foreign key of a field that holds the id of an object of the same design."""
    columns = ["design_id", field]
    return ForeignKeyConstraint(columns, [f"{table}.design_id", f"{table}.id"], deferrable=True, initially="DEFERRED")


def _foreign_keys(kind: Kind[Any]) -> Iterator[ForeignKeyConstraint]:
    for reference in kind.refers:
        if _is_column(reference):
            assert reference.to
            yield refers(reference.field, KIND_BY_TYPE[reference.to].name.value.replace("-", "_"))


def _is_column(reference: Reference) -> bool:
    """Whether a reference is a field of its own; members of a list are checked by the core alone."""
    return reference.to is not None and "/" not in reference.field


def _unique_name(kind: Kind[Any]) -> Iterator[UniqueConstraint]:
    """Yield the constraint on names, unless they may be empty."""
    if kind.model.model_fields["name"].is_required():
        within = [kind.parent.field] if kind.parent else []
        yield UniqueConstraint("design_id", *within, "name", deferrable=True, initially="DEFERRED")


def _column(name: str, field: FieldInfo) -> Column[Any]:
    annotation, metadata = field.annotation, field.metadata
    optional = get_origin(annotation) in (Union, types.UnionType)
    if optional:
        (annotation,) = (arg for arg in get_args(annotation) if arg is not type(None))
    return Column(name, _type(annotation, metadata), primary_key=name == "id", nullable=optional)


def _type(annotation: Any, metadata: list[Any]) -> type[TypeEngine[Any]]:
    if annotation in _PLAIN:
        return _PLAIN[annotation]
    if hasattr(annotation, "__metadata__"):  # Annotated, within an optional field
        return _type(annotation.__origin__, list(annotation.__metadata__))
    if isinstance(annotation, type) and issubclass(annotation, Enum):
        return Text
    if annotation is int:
        bounds = [candidate.le for candidate in metadata if isinstance(candidate, Le) and isinstance(candidate.le, int)]
        return SmallInteger if bounds and min(bounds) <= LARGEST_SMALL else Integer
    return JSONB
