"""Results as JSON: frozen dataclasses and models alike, serialised once by Pydantic."""

from __future__ import annotations

from functools import cache
from typing import Any

from pydantic import TypeAdapter


def _class_of(result: Any) -> Any:
    return type(result)


@cache
def _adapter(type_: type) -> TypeAdapter[Any]:
    return TypeAdapter(type_)


def json_octets(result: object, indent: int | None = None) -> bytes:
    """Return a result as JSON text in UTF-8."""
    return _adapter(_class_of(result)).dump_json(result, indent=indent)


def json_data(result: object) -> Any:
    """Return a result as JSON would hold it: dictionaries, lists, texts and numbers."""
    return _adapter(_class_of(result)).dump_python(result, mode="json")
