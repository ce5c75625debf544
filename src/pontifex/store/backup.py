"""Backups: the database in one file and, apart from it, the master key."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

from sqlalchemy import Engine, func, make_url, select, update
from sqlalchemy.exc import ProgrammingError

from pontifex.store import programs, tables

_KEPT: Final = "--format=custom"


def dump(database_url: str, file: Path) -> None:
    """Write all of a database to a file, for its owner alone, whole or not at all. Raise ClusterError."""
    part = file.with_name(f"{file.name}.part")
    part.touch(mode=0o600)
    try:
        with _connected(database_url) as (options, password_file):
            owners = ("--no-owner", "--no-privileges")
            programs.run_as_client("pg_dump", *options, _KEPT, *owners, f"--file={part}", password_file=password_file)
        os.replace(part, file)
    finally:
        part.unlink(missing_ok=True)


def load(database_url: str, file: Path) -> None:
    """Read a database back from a file in one transaction; what was in its place goes. Raise ClusterError."""
    with _connected(database_url) as (options, password_file), tempfile.TemporaryDirectory(prefix="pontifex-") as directory:
        readable = Path(shutil.copy(file, directory))
        owners = ("--no-owner", "--no-privileges", "--clean", "--if-exists", "--single-transaction", "--exit-on-error")
        programs.run_as_client("pg_restore", *options, *owners, str(readable), password_file=password_file)


def begin_anew(engine: Engine) -> int:
    """Make each design an incarnation of its own: its history goes on from here; return how many there are."""
    made = func.replace(func.gen_random_uuid().cast(tables.design.c.incarnation.type), "-", "")
    with engine.begin() as connection:
        return connection.execute(update(tables.design).values(incarnation=made)).rowcount


def holds_designs(engine: Engine) -> bool:
    """Whether there is anything in a database that a restore would replace."""
    try:
        with engine.connect() as connection:
            return connection.scalar(select(tables.design.c.id).limit(1)) is not None
    except ProgrammingError:  # no tables yet
        return False


@contextmanager
def _connected(database_url: str) -> Iterator[tuple[list[str], Path]]:
    """Give the options that name a database, and a file with its password: nobody reads it from a list of processes."""
    url = make_url(database_url)
    host, port = url.host or "127.0.0.1", str(url.port or 5432)
    with tempfile.TemporaryDirectory(prefix="pontifex-") as directory:
        password_file = Path(directory) / "password"
        password = (url.password or "").replace("\\", "\\\\").replace(":", "\\:")
        password_file.touch(mode=0o600)
        password_file.write_text(f"*:*:*:*:{password}\n")
        yield [f"--host={host}", f"--port={port}", f"--username={url.username}", f"--dbname={url.database}"], password_file
