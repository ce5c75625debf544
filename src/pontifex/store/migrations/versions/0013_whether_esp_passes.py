"""Whether ESP itself passes an uplink"""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.add_column("uplink", sa.Column("esp_passes", sa.Boolean(), nullable=False, server_default=sa.true()))
    op.alter_column("uplink", "esp_passes", server_default=None)
