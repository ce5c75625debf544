"""The commands that write descriptions: of the API, of the design file, of gateways by RESTCONF, of the kinds of object."""

from __future__ import annotations

import json
from enum import Enum
from typing import Annotated

import typer

from pontifex.api.reference import design_file_schema
from pontifex.api.whole import description
from pontifex.core.as_json import json_data
from pontifex.core.handover.renderings.gateway_module import module_text
from pontifex.core.kinds import KINDS
from pontifex.core.kinds.column import described
from pontifex.core.matching.end_fields import TEXTS, described_field
from pontifex.core.people.profile_file import profile_file_schema


def openapi_command() -> None:
    """Write the description of the API (OpenAPI), from which the front end's types are generated."""
    typer.echo(json.dumps(description(), indent=2))


class FileFormat(Enum):
    """What a schema is of."""

    DESIGN = "design"
    PROFILE = "profile"


def schema_command(
    of: Annotated[FileFormat, typer.Option("--of", help="Of which file.")] = FileFormat.DESIGN,
) -> None:
    """Write the JSON Schema of the design file, or of what devices fetch."""
    schema = design_file_schema() if of is FileFormat.DESIGN else profile_file_schema()
    typer.echo(json.dumps(schema, indent=2, ensure_ascii=False))


def yang_command() -> None:
    """Write the data model by which gateways are reached over RESTCONF (YANG)."""
    typer.echo(module_text(), nl=False)


def kinds_command() -> None:
    """Write the kinds of object with their columns, and the fields of a tunnel's end, from which the interface is made."""
    kinds = [json_data(described(kind)) for kind in KINDS]
    end_fields = [json_data(described_field(field)) for field in TEXTS]
    typer.echo(json.dumps({"kinds": kinds, "end_fields": end_fields}, indent=2, ensure_ascii=False))
