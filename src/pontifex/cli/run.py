"""The commands that start the product."""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import AbstractContextManager, closing, contextmanager
from functools import partial
from socket import socket
from typing import Annotated, Any

import typer
from fastapi import FastAPI
from pydantic import ValidationError
from sqlalchemy.exc import OperationalError

from pontifex.cli.design import UNREADABLE
from pontifex.core.design_file import write_design_file
from pontifex.core.validation_reasons import reason_of
from pontifex.demo import DEMO_ID, demo_design, load_demo
from pontifex.process import set_up_logging
from pontifex.server import Product, listen_for_devices, open_product, serve
from pontifex.settings import Settings
from pontifex.state import StateInUseError
from pontifex.store import MasterKeyError
from pontifex.store.database import SchemaTooNewError
from pontifex.store.programs import ClusterError


def demo_command(
    print_: Annotated[bool, typer.Option("--print", help="Write the demo design file to standard output and stop.")] = False,
    verbose: Annotated[bool, typer.Option(help="Log every request.")] = False,
) -> None:
    """Start the product on the demo design; the design is loaded if it is absent."""
    if print_:
        typer.echo(write_design_file(demo_design()), nl=False)
        return
    _run(with_demo=True, verbose=verbose)


def serve_command(verbose: Annotated[bool, typer.Option(help="Log every request.")] = False) -> None:
    """Start the product on its own designs."""
    _run(with_demo=False, verbose=verbose)


def _run(*, with_demo: bool, verbose: bool) -> None:
    set_up_logging(verbose)
    signal.signal(signal.SIGTERM, _interrupt)
    settings = read_settings()
    with told_plainly(settings):
        typer.echo("Starting the database …")
        with open_product(settings, verbose=verbose) as product:
            if with_demo and load_demo(product.designs, product.keys):
                typer.echo("Loaded the demo design, Skerry Line.")
            with closing(listen_for_devices(settings)) as devices:
                rest = partial(_rest, product, settings, devices, with_demo)
                serve(product, settings, f"/d/{DEMO_ID}" if with_demo else "/", rest)
    typer.echo("Stopped.")


def _rest(product: Product, settings: Settings, devices: socket, with_demo: bool, app: FastAPI) -> AbstractContextManager[None]:
    from pontifex.second_stage import second_stage  # it loads all that the first page doesn't need

    return second_stage(product, settings, devices, app, with_demo=with_demo)


def read_settings() -> Settings:
    """Return the settings; end with status 2 and what is wrong with them."""
    try:
        return Settings()
    except ValidationError as error:
        for refusal in error.errors():
            typer.echo(f"PONTIFEX_{str(refusal['loc'][0]).upper()} {reason_of(refusal)}", err=True)
        raise typer.Exit(UNREADABLE) from None


@contextmanager
def told_plainly(settings: Settings) -> Iterator[None]:
    """Say in one line why the product can't be used, and end with a status that says so."""
    try:
        yield
    except (StateInUseError, SchemaTooNewError) as error:
        typer.echo(f"{str(error)[:1].upper()}{str(error)[1:]}.", err=True)
        raise typer.Exit(1) from None
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


def _interrupt(_signal: int, _frame: Any) -> None:
    raise KeyboardInterrupt
