"""Backups, restores, another master key, and designs as a whole."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer

from pontifex.api import Sessions
from pontifex.cli.run import read_settings, told_plainly
from pontifex.core.errors import NotDone
from pontifex.server import database_url, open_database
from pontifex.services import DesignService, KeptDesigns, KeyService
from pontifex.services.duplicates import duplicate
from pontifex.settings import Settings
from pontifex.state import address_of, held_state, master_key_file
from pontifex.store import DesignListing, DesignRepository, MasterKeyError, MasterKeyFile, Vault
from pontifex.store import backup as backups
from pontifex.store.database import connect, migrate
from pontifex.store.master_key import MASTER_KEY_BYTES, decoded, opened_master_key, rotate

BackupFile = Annotated[Path, typer.Argument(help="File of the database; the master key goes beside it, into FILE.key.")]
DesignId = Annotated[str, typer.Argument(help="Id of a design, as it stands in its address.")]


def _key_file(file: Path) -> MasterKeyFile:
    return MasterKeyFile(file.absolute().with_name(f"{file.name}.key"))


def backup_command(file: BackupFile) -> None:
    """Write the database to a file and, apart from it, the master key; also while the server runs."""
    settings = read_settings()
    with told_plainly(settings), open_database(settings, alongside=True) as (url, engine):
        key = opened_master_key(engine, master_key_file(settings.state), settings.master_key_text)
        backups.dump(url, file.absolute())
        _key_file(file).keep(key)
        typer.echo(f"Wrote {file}, and the master key to {file}.key. Keep them in two places: who has both has all keys.")


def restore_command(
    file: BackupFile,
    replace: Annotated[bool, typer.Option(help="Also where there are designs; they are backed up first.")] = False,
) -> None:
    """Read a backup into the database, with its master key if FILE.key is there."""
    settings = read_settings()
    with told_plainly(settings), held_state(settings.state), database_url(settings) as url:
        _restore(settings, url, file.absolute(), replace=replace)


def _restore(settings: Settings, url: str, file: Path, *, replace: bool) -> None:
    engine = connect(url)
    own, kept = master_key_file(settings.state), _key_file(file).read()
    if not file.is_file():
        raise typer.BadParameter(f"there is no file {file}")
    if backups.holds_designs(engine) and not replace:
        typer.echo("The database holds designs: with --replace they are backed up and replaced.", err=True)
        raise typer.Exit(1)
    if backups.holds_designs(engine):
        before = settings.state.absolute() / f"{file.name}.replaced"
        backups.dump(url, before)
        if own.path.exists():
            shutil.copy(own.path, f"{before}.key")
        typer.echo(f"Backed up what was there to {before}.")
    backups.load(url, file)
    migrate(engine)
    if kept and not settings.master_key_text:
        own.keep(kept)
    opened_master_key(engine, own, settings.master_key_text)
    typer.echo(f"Restored {backups.begin_anew(engine)} designs.")
    engine.dispose()


def rotate_command() -> None:
    """Encrypt all keys under a new master key; open sessions end."""
    settings = read_settings()
    file = master_key_file(settings.state)
    with told_plainly(settings), open_database(settings) as (_, engine):
        key = opened_master_key(engine, file, settings.master_key_text)
        if settings.master_key_text is None:
            other = os.urandom(MASTER_KEY_BYTES)
            file.prepare(other)
        elif settings.new_master_key is None:
            raise MasterKeyError("the master key comes from PONTIFEX_MASTER_KEY: set PONTIFEX_NEW_MASTER_KEY to the one to come")
        else:
            other = decoded(settings.new_master_key.get_secret_value(), "PONTIFEX_NEW_MASTER_KEY")
        count = rotate(engine, key, other)
        if settings.master_key_text is None:
            file.take_next()
        typer.echo(f"Encrypted {count} keys under the new master key. Backups of before need the old one.")


def ticket_command() -> None:
    """Print another address for one session of the server that runs."""
    settings = read_settings()
    address = address_of(settings.state)
    if address is None:
        typer.echo(f"No Pontifex runs on {settings.state}.", err=True)
        raise typer.Exit(1)
    with told_plainly(settings):
        text = settings.master_key_text
        key = decoded(text, "PONTIFEX_MASTER_KEY") if text else master_key_file(settings.state).read()
        typer.echo(f"{address}/open/{Sessions(key or b'', settings.person).ticket()}")


@contextmanager
def _designs() -> Iterator[tuple[DesignService, KeyService]]:
    """Give the services over the database, also while a server runs; what can't be done ends with status 1."""
    settings = read_settings()
    with told_plainly(settings), open_database(settings, alongside=True) as (_, engine):
        key = opened_master_key(engine, master_key_file(settings.state), settings.master_key_text)
        try:
            yield DesignService(KeptDesigns(DesignRepository(engine)), DesignListing(engine)), KeyService(Vault(engine, key))
        except NotDone as error:
            typer.echo(f"{str(error)[:1].upper()}{str(error)[1:]}.", err=True)
            raise typer.Exit(1) from None


designs = typer.Typer(no_args_is_help=True, help="List, archive, delete, restore and duplicate designs.")


@designs.command("list")
def list_designs(deleted: Annotated[bool, typer.Option(help="Those that were deleted and can be restored.")] = False) -> None:
    """List the designs: id, revision, whether archived, name."""
    with _designs() as (service, _):
        for summary in service.list(deleted=deleted):
            typer.echo(f"{summary.id}\t{summary.revision}\t{'archived' if summary.archived_at else ''}\t{summary.name}")


@designs.command()
def archive(design_id: DesignId, take_out: Annotated[bool, typer.Option(help="Work on it again.")] = False) -> None:
    """Put a design aside: it is read, and not changed."""
    with _designs() as (service, _):
        service.archive(design_id, archived=not take_out)


@designs.command()
def delete(design_id: DesignId) -> None:
    """Delete a design. It can be restored within 30 days."""
    with _designs() as (service, _):
        service.delete(design_id)


@designs.command()
def restore(design_id: DesignId) -> None:
    """Bring a deleted design back, with its history and keys."""
    with _designs() as (service, _):
        service.restore(design_id)


@designs.command("duplicate")
def duplicate_design(design_id: DesignId, name: Annotated[str, typer.Argument(help="Name of the copy.")]) -> None:
    """Copy a design with its keys, without its history."""
    with _designs() as (service, keys):
        typer.echo(duplicate(service, keys, design_id, name).id)
