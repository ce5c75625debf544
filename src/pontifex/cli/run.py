"""The commands that start the product."""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext
from datetime import UTC, datetime
from typing import Annotated, Any

import typer
from pydantic import ValidationError
from sqlalchemy.exc import OperationalError

from pontifex.cli.design import UNREADABLE
from pontifex.core.design_file import write_design_file
from pontifex.core.validation_reasons import reason_of
from pontifex.demo import DEMO_ID, demo_design, load_demo
from pontifex.demo.devices import reach_demo_devices, start_demo_devices
from pontifex.demo.roll_out import demo_people
from pontifex.demo.stand_in_cloud import demo_cloud, reach_demo_cloud
from pontifex.device_server import DeviceServer, device_server
from pontifex.process import set_up_logging
from pontifex.server import Product, open_product, serve
from pontifex.settings import Settings
from pontifex.standins import StandInServers
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
            with (
                device_server(product.records.provisioning, settings) as devices,
                demo_devices(product, settings) if with_demo else nullcontext(),
                cloud_of_demo(product, settings) if with_demo else nullcontext(),
                demo_devices_of_people(product, settings, devices) if with_demo else nullcontext(),
            ):
                serve(product, settings, f"/d/{DEMO_ID}" if with_demo else "/", devices)
    typer.echo("Stopped.")


@contextmanager
def demo_devices(product: Product, settings: Settings) -> Iterator[None]:
    """Start the stand-in gateways of the demo, and say how they are reached."""
    servers = StandInServers(settings.state / "stand-ins")
    start_demo_devices(servers)
    try:
        reach_demo_devices(product.designs, product.records, servers)
        yield
    finally:
        servers.stop()


@contextmanager
def cloud_of_demo(product: Product, settings: Settings) -> Iterator[None]:
    """Start the stand-in cloud of the demo, and say how its accounts are reached."""
    served = demo_cloud(settings.state / "stand-ins" / "cloud.json", lambda: datetime.now(UTC))
    served.start()
    try:
        reach_demo_cloud(product.designs, product.records, served)
        yield
    finally:
        served.stop()


def demo_devices_of_people(product: Product, settings: Settings, devices: DeviceServer) -> AbstractContextManager[None]:
    """Let the stand-ins for people's devices ask."""
    file, certificate = settings.state / "stand-ins" / "people.json", devices.certificate.pem
    return demo_people(product.designs, product.records.rollouts, file, devices.address, certificate)


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
