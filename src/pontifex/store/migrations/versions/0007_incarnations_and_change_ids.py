"""Which of several histories a design's revisions are of; changes told by their makers' ids; designs put aside"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import UUID

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    made = sa.func.replace(sa.cast(sa.func.gen_random_uuid(), sa.Text), "-", "")
    op.add_column("design", sa.Column("incarnation", sa.Text, nullable=False, server_default=made))
    op.add_column("design", sa.Column("archived_at", sa.DateTime(timezone=True)))
    op.add_column("design", sa.Column("deleted_at", sa.DateTime(timezone=True)))
    op.add_column("change", sa.Column("change_id", UUID(as_uuid=True)))
    op.create_unique_constraint("uq_change_design_id_change_id", "change", ["design_id", "change_id"])
    op.create_table(
        "master_key_check",
        sa.Column("id", sa.SmallInteger, primary_key=True),
        sa.Column("nonce", sa.LargeBinary, nullable=False),
        sa.Column("ciphertext", sa.LargeBinary, nullable=False),
    )
