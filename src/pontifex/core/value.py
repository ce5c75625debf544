"""The base of every object that is spoken over the API and kept in the design."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """An immutable value. Unknown fields are refused, so that a misspelt one is never dropped in silence."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="null")
