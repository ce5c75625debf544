"""Readings of devices, plans that are walked, and links for partners"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0014"
down_revision = "0013"

_NOW = sa.text("now()")


def upgrade() -> None:
    op.create_table(
        "reading",
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "gateway_id")),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_reading_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("design_id", "gateway_id", "taken_at", name="pk_reading"),
    )
    op.create_table(
        "plan_run",
        sa.Column("design_id", sa.Text(), nullable=False),
        sa.Column("id", postgresql.UUID(as_uuid=True), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("title", "since")),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("started_by", sa.Text(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False, server_default=_NOW),
        sa.Column("plan", postgresql.JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_plan_run_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_plan_run"),
    )
    op.create_table(
        "run_tick",
        sa.Column("run_id", postgresql.UUID(as_uuid=True), nullable=False),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("position", "step")),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("result", "remark", "author")),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=_NOW),
        sa.ForeignKeyConstraint(["run_id"], ["plan_run.id"], name="fk_run_tick_run_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("run_id", "position", name="pk_run_tick"),
    )
    op.create_table(
        "partner_link",
        sa.Column("id", postgresql.UUID(as_uuid=True), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "tunnel_id", "side", "made_by")),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=_NOW),
        *(sa.Column(name, sa.DateTime(timezone=True)) for name in ("revoked_at", "answered_at")),
        sa.Column("answer", postgresql.JSONB(), nullable=False, server_default="{}"),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_partner_link_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_partner_link"),
    )
