"""How gateways are reached"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    op.create_table(
        "device_access",
        *(
            sa.Column(name, sa.Text(), nullable=False)
            for name in ("design_id", "gateway_id", "protocol", "address", "user", "fingerprint", "made_by")
        ),
        sa.Column("secret_reference", postgresql.UUID(as_uuid=True), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_device_access_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("design_id", "gateway_id", name="pk_device_access"),
    )
