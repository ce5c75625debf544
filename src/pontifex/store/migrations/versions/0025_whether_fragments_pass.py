"""Whether fragments of IP pass an uplink"""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    op.add_column("uplink", sa.Column("fragments_pass", sa.Boolean(), nullable=False, server_default=sa.true()))
    op.alter_column("uplink", "fragments_pass", server_default=None)
