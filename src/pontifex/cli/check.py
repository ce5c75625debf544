"""The command that prints the findings of a design file."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from enum import Enum
from itertools import chain, repeat
from pathlib import Path
from typing import Annotated, Final

import typer

from pontifex.cli.design import read_design
from pontifex.cli.sarif import sarif
from pontifex.core.as_json import json_data
from pontifex.core.catalogue import Severity
from pontifex.core.findings import Analysis, AnalysisCache, Finding, analyse
from pontifex.core.matching import Remedy

_Told = Sequence[tuple[Finding, tuple[Remedy, ...]]]  # each with what mends it
_MOST_MENDED: Final = 200  # findings, the worst, of which it is printed what mends them: to try remedies takes its time
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
    memory = AnalysisCache()
    analysis = analyse(design, datetime.now(UTC).date(), memory)
    if format_ is Format.SARIF:
        typer.echo(json.dumps(sarif(analysis, "stdin" if str(file) == "-" else file.as_posix()), ensure_ascii=False, indent=2))
    else:
        told = list(zip(analysis.findings, _remedies(memory, analysis), strict=True))
        typer.echo(_as_json(analysis, told) if format_ is Format.JSON else _as_text(told, design.name))
    failing = any(finding.severity.rank <= fail_on.rank for finding in analysis.findings)
    raise typer.Exit(FOUND if failing else CLEAN)


def _remedies(memory: AnalysisCache, analysis: Analysis) -> Iterator[tuple[Remedy, ...]]:
    return chain(memory.remedies(analysis.findings[:_MOST_MENDED]), repeat((), len(analysis.findings[_MOST_MENDED:])))


def _as_json(analysis: Analysis, told: _Told) -> str:
    whole = json_data(analysis)
    document = {part: whole[part] for part in ("forecasts", "findings")}
    for printed, (_, remedies) in zip(document["findings"], told, strict=True):
        printed["remedies"] = [remedy.title for remedy in remedies]
    return json.dumps(document, indent=2, ensure_ascii=False)


def _as_text(told: _Told, name: str) -> str:
    lines = [f"{name}: {len(told)} findings"]
    for finding, remedies in told:
        lines += ["", f"{finding.severity.value}: {finding.why}"]
        lines.append(f"  {finding.consequence} ({finding.code}, {finding.reference})")
        lines += [f"  mend: {remedy.title}" for remedy in remedies]
    if len(told) > _MOST_MENDED:
        lines += ["", f"What mends a finding is printed of the worst {_MOST_MENDED} alone."]
    return "\n".join(lines)
