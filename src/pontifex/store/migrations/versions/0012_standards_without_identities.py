"""A standard may say nothing of identities"""

from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.alter_column("standard", "identity_pattern", nullable=True)
