"""The command that says which address the outside sees for each workload, and what becomes of it when tunnels are down."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Final

import typer

from pontifex.cli.addresses import CLEAN, FOUND
from pontifex.cli.design import read_design
from pontifex.core.as_json import json_octets
from pontifex.core.exits.outside import Outside, OutsideFate
from pontifex.core.exits.workloads import ExitTable, ExitTables, SeenVerdict, exit_table
from pontifex.core.rehearsal.exit_seen import ExitRehearsals, SeenThen, rehearse_exit
from pontifex.core.routing import Tables

_SAFE: Final = (OutsideFate.HELD, OutsideFate.LOST, OutsideFate.LEAVES_BY_EXIT)


def exit_command(
    file: Annotated[Path, typer.Argument(help="A design file; - reads standard input.")],
    rehearsed: Annotated[bool, typer.Option("--rehearse", help="Dial the tunnels, and ask an echo service.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """List what hangs on each exit. Exit with 0 (nothing leaks, all as foreseen), 1 (something does) or 2 (unreadable)."""
    design = read_design(file, as_json=as_json)
    tables = Tables(design)
    if rehearsed:
        raise typer.Exit(_rehearse(tables, as_json=as_json))
    found = tuple(exit_table(tables, exit_) for exit_ in design.exits)
    typer.echo(json_octets(ExitTables(exits=found)) if as_json else "\n".join(line for table in found for line in _lines(table)))
    workloads = [workload for table in found for workload in table.workloads]
    sound = all(
        exit_workload.when_down.fate in _SAFE and exit_workload.verdict is not SeenVerdict.OTHERWISE
        for exit_workload in workloads
    )
    raise typer.Exit(CLEAN if sound else FOUND)


def _rehearse(tables: Tables, *, as_json: bool) -> int:
    """Print what the outside saw in rehearsals of all exits; return the status to exit with."""
    today = datetime.now(UTC).date()
    found = ExitRehearsals(exits=tuple(rehearse_exit(tables, exit_, today) for exit_ in tables.design.exits))
    for exit_ in () if as_json else found.exits:
        for workload in exit_.workloads:
            moments = (("before", workload.before), ("after", workload.after), ("restarting", workload.restarting))
            seen = ", ".join(f"{when} {_moment(moment)}" for when, moment in moments if moment)
            typer.echo(f"  {workload.name}: {seen or '; '.join(workload.not_rehearsed)}")
        if exit_.untried:
            typer.echo(f"  {exit_.untried} more aren't tried")
    if as_json:
        typer.echo(json_octets(found))
    return CLEAN if all(rehearsed_workload.agrees for exit_ in found.exits for rehearsed_workload in exit_.workloads) else FOUND


def _moment(seen: SeenThen) -> str:
    return f"{seen.address or seen.fate.value} ({seen.text})" if seen.text else str(seen.address or seen.fate.value)


def _lines(table: ExitTable) -> Iterator[str]:
    yield f"{table.name}:"
    for workload in table.workloads:
        seen = f", seen as {workload.seen}: {workload.verdict.value}" if workload.seen else ""
        down = workload.when_down
        yield f"  {workload.name} ({workload.how.value}): {_words(workload.outside)}; when down: {_words(down)}{seen}"
    for access in table.access:
        yield f"  {access.at} port {access.port} from {access.source}: {access.reach.value}"


def _words(outside: Outside) -> str:
    address = outside.address or ("its provider's address" if outside.uplink_id else "")
    return f"{outside.fate.value} as {address}" if address else outside.fate.value
