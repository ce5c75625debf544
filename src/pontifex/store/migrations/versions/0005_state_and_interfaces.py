"""Devices without state, and the real names of interfaces"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("gateway", sa.Column("keeps_state", sa.Boolean(), nullable=False, server_default=sa.true()))
    op.alter_column("gateway", "keeps_state", server_default=None)
    for table in ("network", "uplink"):
        op.add_column(table, sa.Column("interface", sa.Text()))
