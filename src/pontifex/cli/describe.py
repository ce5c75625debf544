"""The commands that write descriptions: of the API, of the design file, of gateways by RESTCONF, of the kinds of object."""

from __future__ import annotations

import json

import typer

from pontifex.api import app
from pontifex.api.reference import design_file_schema
from pontifex.core.as_json import json_data
from pontifex.core.handover.renderings.gateway_module import module_text
from pontifex.core.kinds import KINDS
from pontifex.core.kinds.column import described
from pontifex.core.matching.end_fields import TEXTS, described_field


def openapi_command() -> None:
    """Write the description of the API (OpenAPI), from which the front end's types are generated."""
    typer.echo(json.dumps(app.described(), indent=2))


def schema_command() -> None:
    """Write the JSON Schema of the design file."""
    typer.echo(json.dumps(design_file_schema(), indent=2, ensure_ascii=False))


def yang_command() -> None:
    """Write the data model by which gateways are reached over RESTCONF (YANG)."""
    typer.echo(module_text(), nl=False)


def kinds_command() -> None:
    """Write the kinds of object with their columns, and the fields of a tunnel's end, from which the interface is made."""
    kinds = [json_data(described(kind)) for kind in KINDS]
    end_fields = [json_data(described_field(field)) for field in TEXTS]
    typer.echo(json.dumps({"kinds": kinds, "end_fields": end_fields}, indent=2, ensure_ascii=False))
