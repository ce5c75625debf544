"""The command that prints the findings of a design file."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from enum import Enum
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.design import read_design
from pontifex.cli.sarif import sarif
from pontifex.core.as_json import json_data
from pontifex.core.catalogue import Severity
from pontifex.core.findings import Analysis, Finding, analyse

CLEAN, FOUND = 0, 1  # exit codes


class Format(Enum):
    """How `check` prints."""

    TEXT = "text"
    JSON = "json"
    SARIF = "sarif"


def check_command(
    file: Annotated[Path, typer.Argument(help="A design file, as Export writes it; - reads standard input.")],
    format_: Annotated[Format, typer.Option("--format", help="How to print.")] = Format.TEXT,
    fail_on: Annotated[Severity, typer.Option(help="Exit with 1 from this severity on.")] = Severity.BLOCKER,
) -> None:
    """Print the findings of a design file. Exit with 0, 1 (findings at or above --fail-on) or 2 (unreadable)."""
    design = read_design(file, as_json=format_ is not Format.TEXT)
    analysis = analyse(design, datetime.now(UTC).date())
    if format_ is Format.SARIF:
        typer.echo(json.dumps(sarif(analysis, "stdin" if str(file) == "-" else file.as_posix()), ensure_ascii=False, indent=2))
    else:
        typer.echo(_as_json(analysis) if format_ is Format.JSON else _as_text(analysis, design.name))
    failing = any(finding.severity.rank <= fail_on.rank for finding in analysis.findings)
    raise typer.Exit(FOUND if failing else CLEAN)


def _as_json(analysis: Analysis) -> str:
    whole = json_data(analysis)
    document = {part: whole[part] for part in ("forecasts", "findings")}
    for finding in document["findings"]:
        finding["remedies"] = [remedy["title"] for remedy in finding["remedies"]]
    return json.dumps(document, indent=2, ensure_ascii=False)


def _as_text(analysis: Analysis, name: str) -> str:
    lines = [f"{name}: {len(analysis.findings)} findings"]
    for finding in analysis.findings:
        lines += ["", *_finding_lines(finding)]
    return "\n".join(lines)


def _finding_lines(finding: Finding) -> list[str]:
    mends = [f"  mend: {remedy.title}" for remedy in finding.remedies]
    return [f"{finding.severity.value}: {finding.why}", f"  {finding.consequence} ({finding.code}, {finding.reference})", *mends]
