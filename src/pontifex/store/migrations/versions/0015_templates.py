"""Templates of one's own"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "template",
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "id", "name", "text", "remark")),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_template_design_id", ondelete="CASCADE"),
        sa.UniqueConstraint("design_id", "name", name="uq_template_design_id_name", deferrable=True, initially="DEFERRED"),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_template"),
    )
