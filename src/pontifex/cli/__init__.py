"""The command line, for people and for pipelines."""

from __future__ import annotations

import json
import signal
from datetime import UTC, datetime
from enum import Enum
from pathlib import Path
from typing import Annotated, Any

import typer

from pontifex.cli import addresses, ipsec, paths, route_lists
from pontifex.cli.design import UNREADABLE, read_design
from pontifex.core.design_file import write_design_file
from pontifex.core.findings import Analysis, Finding, Severity, analyse

app = typer.Typer(help="Design VPN tunnels with both ends in view.", no_args_is_help=True, pretty_exceptions_show_locals=False)
app.command("negotiate")(ipsec.negotiate_command)
app.command("proposals")(ipsec.proposals_command)
app.command("overhead")(ipsec.overhead_command)
app.command("overlaps")(addresses.overlaps_command)
app.command("free")(addresses.free_command)
app.command("cover")(addresses.cover_command)
app.command("split")(route_lists.split_command)
app.command("trace")(paths.trace_command)
app.command("matrix")(paths.matrix_command)
app.command("sweep")(paths.sweep_command)
app.command("linux-plan")(paths.linux_plan_command)
app.add_typer(route_lists.dhcp_routes, name="dhcp-routes")
app.command("fingerprint")(ipsec.fingerprint_command)

CLEAN, FOUND = 0, 1  # exit codes


class Format(Enum):
    """How `check` prints."""

    TEXT = "text"
    JSON = "json"


@app.command()
def check(
    file: Annotated[Path, typer.Argument(help="A design file, as Export writes it; - reads standard input.")],
    format_: Annotated[Format, typer.Option("--format", help="How to print.")] = Format.TEXT,
    fail_on: Annotated[Severity, typer.Option(help="Exit with 1 from this severity on.")] = Severity.BLOCKER,
) -> None:
    """Print the findings of a design file. Exit with 0, 1 (findings at or above --fail-on) or 2 (unreadable)."""
    design = read_design(file, as_json=format_ is Format.JSON)
    analysis = analyse(design, datetime.now(UTC).date())
    typer.echo(_as_json(analysis) if format_ is Format.JSON else _as_text(analysis, design.name))
    failing = any(one.severity.rank <= fail_on.rank for one in analysis.findings)
    raise typer.Exit(FOUND if failing else CLEAN)


def _as_json(analysis: Analysis) -> str:
    document = analysis.model_dump(mode="json", include={"forecasts", "findings"})
    for one in document["findings"]:
        one["remedies"] = [remedy["title"] for remedy in one["remedies"]]
    return json.dumps(document, indent=2, ensure_ascii=False)


def _as_text(analysis: Analysis, name: str) -> str:
    lines = [f"{name}: {len(analysis.findings)} findings"]
    for one in analysis.findings:
        lines += ["", *_finding_lines(one)]
    return "\n".join(lines)


def _finding_lines(one: Finding) -> list[str]:
    mends = [f"  mend: {remedy.title}" for remedy in one.remedies]
    return [f"{one.severity.value}: {one.why}", f"  {one.consequence} ({one.code}, {one.reference})", *mends]


@app.command()
def demo(
    print_: Annotated[bool, typer.Option("--print", help="Write the demo design file to standard output and stop.")] = False,
    verbose: Annotated[bool, typer.Option(help="Log every request.")] = False,
) -> None:
    """Start the product on the demo design; the design is loaded if it is absent."""
    if print_:
        from pontifex.demo import demo_design

        typer.echo(write_design_file(demo_design()), nl=False)
        return
    _run(with_demo=True, verbose=verbose)


@app.command()
def serve(verbose: Annotated[bool, typer.Option(help="Log every request.")] = False) -> None:
    """Start the product on its own designs."""
    _run(with_demo=False, verbose=verbose)


def _run(*, with_demo: bool, verbose: bool) -> None:
    from pydantic import ValidationError
    from sqlalchemy.exc import OperationalError

    from pontifex.core.reasons import reason_of
    from pontifex.demo import DEMO_ID, load_demo
    from pontifex.server import open_product, serve, set_up_logging
    from pontifex.settings import Settings
    from pontifex.store import MasterKeyError
    from pontifex.store.cluster import ClusterError

    set_up_logging(verbose)
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        settings = Settings()
    except ValidationError as error:
        for one in error.errors():
            typer.echo(f"PONTIFEX_{str(one['loc'][0]).upper()} {reason_of(one)}", err=True)
        raise typer.Exit(UNREADABLE) from None
    try:
        typer.echo("Starting the database …")
        with open_product(settings) as product:
            if with_demo and load_demo(product.designs, product.keys):
                typer.echo("Loaded the demo design, Skerry Line.")
            serve(product, settings, f"/d/{DEMO_ID}" if with_demo else "/")
    except ClusterError as error:
        typer.echo(f"The private database can't be used: {error}", err=True)
        raise typer.Exit(1) from None
    except OperationalError as error:
        typer.echo(f"The database of PONTIFEX_DATABASE_URL is not reachable ({type(error.orig).__name__}).", err=True)
        raise typer.Exit(1) from None
    except OSError as error:
        where = f"{settings.host}, port {settings.port}" if settings.port else settings.host
        typer.echo(f"It can't listen on {where} or use {settings.state}: {error.strerror}", err=True)
        raise typer.Exit(1) from None
    except MasterKeyError as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(UNREADABLE) from None
    except KeyboardInterrupt:
        pass
    typer.echo("Stopped.")


def _interrupt(_signal: int, _frame: Any) -> None:
    raise KeyboardInterrupt


@app.command()
def openapi() -> None:
    """Write the description of the API (OpenAPI), from which the front end's types are generated."""
    from pontifex.api.app import create_app
    from pontifex.api.session import Sessions

    described = create_app(None, None, Sessions(b"", ""), frozenset(), "", Path(), "")  # type: ignore[arg-type]
    typer.echo(json.dumps(described.openapi(), indent=2))


@app.command()
def schema() -> None:
    """Write the JSON Schema of the design file."""
    from pontifex.api.reference import design_file_schema

    typer.echo(json.dumps(design_file_schema(), indent=2, ensure_ascii=False))


@app.command()
def kinds() -> None:
    """Write the kinds of object and their columns, from which the front end makes its grids."""
    from pydantic import TypeAdapter

    from pontifex.core.kinds import KINDS
    from pontifex.core.kinds.column import KindDescription, described

    adapter = TypeAdapter(list[KindDescription])
    typer.echo(adapter.dump_json([described(kind) for kind in KINDS], indent=2).decode())
