"""Devices without state, whom they ask for names, and the real names of interfaces"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("gateway", sa.Column("keeps_state", sa.Boolean(), nullable=False, server_default=sa.true()))
    op.alter_column("gateway", "keeps_state", server_default=None)
    op.add_column("gateway", sa.Column("resolvers", postgresql.JSONB(), nullable=False, server_default="[]"))
    op.alter_column("gateway", "resolvers", server_default=None)
    for table in ("network", "uplink"):
        op.add_column(table, sa.Column("interface", sa.Text()))
