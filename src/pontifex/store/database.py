"""Connecting to PostgreSQL and bringing its tables up to date."""

from __future__ import annotations

from pathlib import Path
from typing import Final

import psycopg
from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, func, select
from sqlalchemy.exc import IntegrityError

_MIGRATING: Final = 0x706F6E7469666578  # the advisory lock of whoever migrates


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


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the tables to a revision of the migrations, the newest one if none is named.

    Servers that start at once on one database do it one after the other. Raise SchemaTooNewError.
    """
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        connection.execute(select(func.pg_advisory_xact_lock(_MIGRATING)))
        known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
        found = MigrationContext.configure(connection).get_current_revision()
        if found is not None and found not in known:
            newest = f"its tables are at {found}, and this version knows them up to {max(known)}"
            raise SchemaTooNewError(f"a newer version of Pontifex has used this database ({newest}): start that version")
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
