"""Connecting to PostgreSQL and bringing its tables up to date."""

from __future__ import annotations

from pathlib import Path

import psycopg
from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import IntegrityError


def connect(url: str) -> Engine:
    """Return an engine whose connections are tried before use, so that a database that went away and came back is found."""
    if url.startswith("postgresql://"):
        url = url.replace("postgresql://", "postgresql+psycopg://", 1)
    return create_engine(url, pool_pre_ping=True, pool_size=10, connect_args={"connect_timeout": 3}, hide_parameters=True)


def violated_constraint(error: IntegrityError) -> str | None:
    """Return the name of the constraint that a row violated; None where the database named none."""
    return error.orig.diag.constraint_name if isinstance(error.orig, psycopg.Error) else None


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the tables to a revision of the migrations, the newest one if none is named."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
