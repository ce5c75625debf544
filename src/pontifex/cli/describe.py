"""The commands that write descriptions: of the API, of the design file, and of the kinds of object."""

from __future__ import annotations

import json
from pathlib import Path

import typer
from pydantic import TypeAdapter

from pontifex.api.app import create_app
from pontifex.api.reference import design_file_schema
from pontifex.api.session import Sessions
from pontifex.core.kinds import KINDS
from pontifex.core.kinds.column import KindDescription, described


def openapi_command() -> None:
    """Write the description of the API (OpenAPI), from which the front end's types are generated."""
    described = create_app(None, None, Sessions(b"", ""), frozenset(), "", Path(), "")  # type: ignore[arg-type]
    typer.echo(json.dumps(described.openapi(), indent=2))


def schema_command() -> None:
    """Write the JSON Schema of the design file."""
    typer.echo(json.dumps(design_file_schema(), indent=2, ensure_ascii=False))


def kinds_command() -> None:
    """Write the kinds of object and their columns, from which the front end makes its grids."""
    adapter = TypeAdapter(list[KindDescription])
    typer.echo(adapter.dump_json([described(kind) for kind in KINDS], indent=2).decode())
