"""Run the migrations on the connection that `pontifex.store.database.migrate` hands over."""

from alembic import context

from pontifex.store.tables import metadata

context.configure(connection=context.config.attributes["connection"], target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()
