"""How many findings the last analysis of a design had"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "examination",
        sa.Column("design_id", sa.Text(), nullable=False),
        sa.Column("incarnation", sa.Text(), nullable=False),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("revision", "findings", "blockers")),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_examination_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("design_id", name="pk_examination"),
    )
