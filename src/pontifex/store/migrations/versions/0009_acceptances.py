"""Findings that somebody lives with"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"

_TEXTS = ("design_id", "id", "name", "code", "at_type", "at_id", "at_field", "reason")


def upgrade() -> None:
    op.create_table(
        "acceptance",
        *(sa.Column(name, sa.Text(), nullable=False) for name in _TEXTS),
        sa.Column("until", sa.Date(), nullable=False),
        sa.Column("accepted_by", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_acceptance_design_id", ondelete="CASCADE"),
        sa.UniqueConstraint("design_id", "name", name="uq_acceptance_design_id_name", deferrable=True, initially="DEFERRED"),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_acceptance"),
    )
