"""Connecting to PostgreSQL and bringing its tables up to date."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

import psycopg
from sqlalchemy import Connection, Engine, create_engine, func, select, text
from sqlalchemy.exc import IntegrityError

MIGRATIONS: Final = Path(__file__).parent / "migrations"
_STARTING: Final = 0x706F6E7469666578  # the advisory lock of a server that makes what each database holds once


def connect(url: str) -> Engine:
    """Return an engine whose connections are tried before use, so that a database that went away and came back is found."""
    if url.startswith("postgresql://"):
        url = url.replace("postgresql://", "postgresql+psycopg://", 1)
    return create_engine(url, pool_pre_ping=True, pool_size=10, connect_args={"connect_timeout": 3}, hide_parameters=True)


def violated_constraint(error: IntegrityError) -> str | None:
    """Return the name of the constraint that a row violated; None where the database named none."""
    return error.orig.diag.constraint_name if isinstance(error.orig, psycopg.Error) else None


class SchemaTooNewError(Exception):
    """The tables were made by a newer version of the product; the message says what to do."""


@contextmanager
def beginning_alone(engine: Engine) -> Iterator[Connection]:
    """Give a transaction that servers starting at once on one database have one after the other."""
    with engine.begin() as connection:
        connection.execute(select(func.pg_advisory_xact_lock(_STARTING)))
        yield connection


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the tables to a revision of the migrations, the newest one if none is named. Raise SchemaTooNewError."""
    with beginning_alone(engine) as connection:
        if revision == "head" and _revision(connection) == newest_revision():
            return
        from pontifex.store.migrating import upgrade  # slow to load, and seldom needed

        upgrade(connection, revision)


def newest_revision() -> str:
    """Return the newest revision that this version knows: the file of each begins with its number."""
    return max(file.name for file in (MIGRATIONS / "versions").glob("[0-9]*.py")).partition("_")[0]


def _revision(connection: Connection) -> str | None:
    if connection.execute(text("SELECT to_regclass('alembic_version')")).scalar_one() is None:
        return None
    return connection.execute(text("SELECT version_num FROM alembic_version")).scalar_one_or_none()
