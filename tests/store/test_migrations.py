"""The migrations make exactly the tables that the code speaks of."""

from __future__ import annotations

import psycopg
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import inspect, text

from pontifex.store.database import connect, migrate
from pontifex.store.tables import metadata


def test_the_migrations_make_the_tables(engine):
    """A migrated database differs in nothing from the tables in the code."""
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), metadata) == []


def test_migrating_twice_changes_nothing(engine):
    """A database that is up to date stays as it is, data included."""
    with engine.begin() as connection:
        columns = "id, name, key_salt, revision, policies, policy_id, planning_horizon_days"
        values = "'kept', 'Kept', repeat('0', 32), 3, '[]', 'strict', 60"
        connection.execute(text(f"INSERT INTO design ({columns}) VALUES ({values})"))
    migrate(engine)
    with engine.connect() as connection:
        assert connection.execute(text("SELECT name, revision FROM design")).all() == [("Kept", 3)]


def test_an_empty_database_is_migrated_from_nothing(cluster):
    """A server that has never seen the product gets all tables, with their foreign keys and the index on prefixes."""
    with psycopg.connect(cluster.url("postgres"), autocommit=True) as connection:
        connection.execute("CREATE DATABASE untouched")
    opened = connect(cluster.url("untouched"))
    migrate(opened)
    found = inspect(opened)
    assert set(metadata.tables) <= set(found.get_table_names())
    assert {key["referred_table"] for key in found.get_foreign_keys("network")} == {"design", "site"}
    assert "ix_network_prefix" in {index["name"] for index in found.get_indexes("network")}
    opened.dispose()
