"""Standards, and which tunnel follows which"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0011"
down_revision = "0010"

_TEXTS = {"id": False, "name": False, "technology": False, "mode": True, "auth": True, "identity_pattern": False}
_LISTS = ("ike_proposals", "child_proposals")
_SECONDS = ("ike_lifetime_s", "child_lifetime_s", "rekey_margin_s", "dead_peer_s", "keepalive_s")


def upgrade() -> None:
    op.create_table(
        "standard",
        sa.Column("design_id", sa.Text(), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=nullable) for name, nullable in _TEXTS.items()),
        *(sa.Column(name, postgresql.JSONB(), nullable=False) for name in _LISTS),
        *(sa.Column(name, sa.Integer()) for name in _SECONDS),
        sa.Column("reauthenticate", sa.Boolean()),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_standard_design_id", ondelete="CASCADE"),
        sa.UniqueConstraint("design_id", "name", name="uq_standard_design_id_name", deferrable=True, initially="DEFERRED"),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_standard"),
    )
    op.add_column("tunnel", sa.Column("standard_id", sa.Text()))
    op.create_foreign_key(
        "fk_tunnel_design_id_standard_id",
        "tunnel",
        "standard",
        ["design_id", "standard_id"],
        ["design_id", "id"],
        deferrable=True,
        initially="DEFERRED",
    )
