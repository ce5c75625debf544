"""The command that holds readings of devices against a design."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated

import typer

from pontifex.cli.addresses import CLEAN, FOUND, refuse
from pontifex.cli.design import read_design
from pontifex.core.as_json import json_data
from pontifex.core.handover.readings import Drift, Reading, UnreadableReading, drift, read_reading
from pontifex.core.handover.readings.drift import LABELS, DriftVerdict
from pontifex.core.model import Design


def drift_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    readings: Annotated[list[Path], typer.Argument(help="Readings of devices, each a file.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Hold readings of devices against a design: exit with 0 (as intended), 1 (they differ) or 2 (unreadable)."""
    design = read_design(file, as_json)
    found = [_drift(design, path) for path in readings]
    if as_json:
        typer.echo(json.dumps([json_data(drifted) | {"count": drifted.count} for drifted in found], ensure_ascii=False))
    else:
        for line in (line for drifted in found for line in _lines(drifted)):
            typer.echo(line)
    raise typer.Exit(FOUND if any(drifted.count for drifted in found) else CLEAN)


def read_reading_of(design: Design, path: Path) -> Reading:
    """Return the reading of a file; exit with 2 where it can't be read, or is of another design's device."""
    try:
        reading = read_reading(path.read_text("utf-8-sig"))
    except OSError as error:
        refuse(f"{path}: {error.strerror or 'cannot be read'}")
    except (UnicodeDecodeError, UnreadableReading) as error:
        refuse(f"{path}: {error}")
    if reading.gateway_id not in design.gateway_by_id:
        refuse(f"{path}: it is of '{reading.gateway_id}', and the design has no such gateway")
    return reading


def _drift(design: Design, path: Path) -> Drift:
    reading = read_reading_of(design, path)
    return drift(design, reading.gateway_id, reading)


def _lines(found: Drift) -> Iterator[str]:
    yield f"{found.device}: {found.count} of {len(found.lines)} settings not as intended"
    for line in found.lines:
        if line.verdict is not DriftVerdict.AS_INTENDED:
            kept = f", after a restart {line.after_restart}" if line.after_restart else ""
            yield f"  {LABELS[line.verdict]}: {line.title}: intended {line.intended}, runs {line.running or 'not read'}{kept}"
            if line.step:
                yield f"    {line.step}"
