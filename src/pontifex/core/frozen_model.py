"""The base of every object that is spoken over the API and kept in the design."""

from __future__ import annotations

from enum import Enum
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Choice(Enum):
    """An enumeration whose members are keys on hot paths: each member is one object, so its identity is its hash."""

    __hash__ = object.__hash__


class FrozenModel(BaseModel):
    """An immutable value. Unknown fields are refused, so that a misspelt one is never dropped in silence."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="null")

    @classmethod
    def of(cls, **fields: Any) -> Self:
        """Return a value of fields that are valid already, all of them given: no check, so several times faster."""
        made = cls.__new__(cls)
        object.__setattr__(made, "__dict__", fields)
        object.__setattr__(made, "__pydantic_fields_set__", set(fields))
        object.__setattr__(made, "__pydantic_extra__", None)
        object.__setattr__(made, "__pydantic_private__", None)
        return made
