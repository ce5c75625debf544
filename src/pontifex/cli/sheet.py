"""The command that prints the sheet of one end of a tunnel."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import UTC, datetime
from enum import Enum
from pathlib import Path
from typing import Annotated, Final

import typer

from pontifex.cli.addresses import refuse
from pontifex.cli.design import read_design
from pontifex.core.as_json import json_data
from pontifex.core.findings import analyse
from pontifex.core.handover.sheets import Sheet, sheet, sheet_html, sheet_markdown
from pontifex.core.handover.sheets.pdf import pdf_of
from pontifex.core.kinds import Side


class SheetFormat(Enum):
    """How a sheet is printed."""

    MD = "md"
    HTML = "html"
    JSON = "json"
    PDF = "pdf"


_WRITERS: Final[dict[SheetFormat, Callable[[Sheet], str]]] = {
    SheetFormat.MD: sheet_markdown,
    SheetFormat.HTML: sheet_html,
    SheetFormat.JSON: lambda found: json.dumps(json_data(found), ensure_ascii=False, indent=2),
}


def sheet_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    tunnel: Annotated[str, typer.Argument(help="Id or name of a tunnel.")],
    for_: Annotated[Side, typer.Option("--for", help="Whose end.")] = Side.LEFT,
    format_: Annotated[SheetFormat, typer.Option("--format", help="How to print.")] = SheetFormat.MD,
) -> None:
    """Print what is to be entered at one end of a tunnel. Exit with 0, or 2 (unreadable)."""
    design = read_design(file, as_json=format_ is SheetFormat.JSON)
    found = [candidate for candidate in design.tunnels if tunnel in (candidate.id, candidate.name)]
    if len(found) != 1:
        refuse(f"'{tunnel}' names {len(found)} tunnels of this design")
    written = sheet(design, found[0].id, for_, analyse(design, datetime.now(UTC).date()))
    if format_ is SheetFormat.PDF:
        typer.echo(pdf_of(sheet_html(written)), nl=False)
    else:
        typer.echo(_WRITERS[format_](written))
