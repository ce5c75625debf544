"""Links that show a key once, to whoever has the spoken code as well"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.create_table(
        "key_link",
        *(sa.Column(name, postgresql.UUID(as_uuid=True), nullable=False) for name in ("id", "reference")),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "made_by")),
        sa.Column("code_hash", sa.LargeBinary(), nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()")),
        sa.Column("tries", sa.SmallInteger(), nullable=False, server_default="0"),
        sa.Column("opened_at", sa.DateTime(timezone=True)),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_key_link_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_key_link"),
    )
