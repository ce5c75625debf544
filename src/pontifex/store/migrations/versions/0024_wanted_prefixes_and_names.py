"""Intents name prefixes and DNS names, too"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    for name in ("source_prefixes", "destination_prefixes", "source_names", "destination_names"):
        op.add_column("intent", sa.Column(name, postgresql.JSONB(), nullable=False, server_default="[]"))
        op.alter_column("intent", name, server_default=None)
