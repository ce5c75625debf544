"""What was seen of the probes before and after a run"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    op.create_table(
        "run_probe",
        sa.Column("run_id", postgresql.UUID(as_uuid=True), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("tries", "phase", "seen", "author")),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.ForeignKeyConstraint(["run_id"], ["plan_run.id"], name="fk_run_probe_run_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("run_id", "tries", "phase", name="pk_run_probe"),
    )
