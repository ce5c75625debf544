"""Bringing tables that are behind up to date."""

from __future__ import annotations

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection

from pontifex.store.database import MIGRATIONS, SchemaTooNewError


def upgrade(connection: Connection, revision: str) -> None:
    """Bring the tables to a revision of the migrations, or to the newest one, `head`. Raise SchemaTooNewError."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    found = MigrationContext.configure(connection).get_current_revision()
    if found is not None and found not in known:
        newest = f"its tables are at {found}, and this version knows them up to {max(known)}"
        raise SchemaTooNewError(f"a newer version of Pontifex has used this database ({newest}): start that version")
    config.attributes["connection"] = connection
    command.upgrade(config, revision)
