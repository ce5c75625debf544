"""Connecting to PostgreSQL and bringing its tables up to date."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine


def connect(url: str) -> Engine:
    """Return an engine whose connections are tried before use, so that a database that went away and came back is found."""
    if url.startswith("postgresql://"):
        url = url.replace("postgresql://", "postgresql+psycopg://", 1)
    return create_engine(url, pool_pre_ping=True, pool_size=10, connect_args={"connect_timeout": 3}, hide_parameters=True)


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest revision of the migrations."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
