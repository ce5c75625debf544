"""Exits, prefix lists, and the address by which the outside has seen a host"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0023"
down_revision = "0022"


def _refers(table: str, field: str, target: str) -> sa.ForeignKeyConstraint:
    return sa.ForeignKeyConstraint(
        ["design_id", field],
        [f"{target}.design_id", f"{target}.id"],
        name=f"fk_{table}_design_id_{field}",
        deferrable=True,
        initially="DEFERRED",
    )


def upgrade() -> None:
    op.add_column("host", sa.Column("seen_outside", postgresql.INET()))
    op.create_table(
        "exit",
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "id", "name", "gateway_id")),
        sa.Column("host_id", sa.Text()),
        *(sa.Column(name, postgresql.JSONB(), nullable=False) for name in ("shared_by", "reached_from")),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_exit_design_id", ondelete="CASCADE"),
        _refers("exit", "gateway_id", "gateway"),
        _refers("exit", "host_id", "host"),
        sa.UniqueConstraint(
            "design_id",
            "gateway_id",
            "name",
            name="uq_exit_design_id_gateway_id_name",
            deferrable=True,
            initially="DEFERRED",
        ),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_exit"),
    )
    op.create_table(
        "prefix_list",
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "id", "name", "source")),
        sa.Column("prefixes", postgresql.JSONB(), nullable=False),
        sa.Column("as_of", sa.Date()),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_prefix_list_design_id", ondelete="CASCADE"),
        sa.UniqueConstraint("design_id", "name", name="uq_prefix_list_design_id_name", deferrable=True, initially="DEFERRED"),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_prefix_list"),
    )
