"""The base of every object that is kept in the design."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache, lru_cache
from typing import Any, Self, TypeVar

from pydantic import BaseModel, ConfigDict


@cache
def _all_fields(kind: type[FrozenModel]) -> set[str]:
    """Return the names of all fields of a kind: one set for all values of which each field is given, since none changes."""
    return set(kind.__pydantic_fields__)


_Value = TypeVar("_Value")


@lru_cache(maxsize=4096)
def one_of_alike(values: tuple[_Value, ...]) -> tuple[_Value, ...]:
    """Return one list for all that are alike: where there are few of many, a list is compared with itself at once."""
    return values


class FrozenModel(BaseModel):
    """An immutable value. Unknown fields are refused, so that a misspelt one is never dropped in silence."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="null")

    def changed(self, **fields: Any) -> Self:
        """Return the value with some fields replaced by values that are valid already, as `tools/mypy_fields.py` has checked.

        Nothing is validated again, so that it is several times faster than a new value. Raise TypeError for an unknown field.
        """
        return self.with_valid(fields)

    def by_field(self) -> dict[str, Any]:
        """Return the value of each field."""
        own, fields = self.__dict__, self.__pydantic_fields__
        return own.copy() if len(own) == len(fields) else {field: own[field] for field in fields}

    def with_valid(self, fields: Mapping[str, Any]) -> Self:
        """Return the value with fields replaced that are known by name alone, by values that are valid already.

        Raise TypeError for an unknown field.
        """
        known = self.__pydantic_fields__.keys()
        if not fields.keys() <= known:
            raise TypeError(f"{type(self).__name__} has no such fields: {', '.join(sorted(fields.keys() - known))}")
        made = self.by_field()
        made.update(fields)
        return self._made(made)

    @classmethod
    def from_valid(cls, fields: Mapping[str, Any]) -> Self:
        """Return a value of all its fields, which are valid already. Raise TypeError for one that is unknown or lacking."""
        known = cls.__pydantic_fields__.keys()
        if fields.keys() != known:
            raise TypeError(f"{cls.__name__} has other fields: {', '.join(sorted(fields.keys() ^ known))}")
        return cls._made(dict(fields))

    @classmethod
    def _made(cls, fields: dict[str, Any]) -> Self:
        made = cls.__new__(cls)
        object.__setattr__(made, "__dict__", fields)
        object.__setattr__(made, "__pydantic_fields_set__", _all_fields(cls))
        object.__setattr__(made, "__pydantic_extra__", None)
        object.__setattr__(made, "__pydantic_private__", None)
        return made
