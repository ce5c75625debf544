"""Tickets that opened their session, and sessions that were ended before their time"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "spent_token",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
    )
