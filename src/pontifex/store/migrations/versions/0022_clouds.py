"""Cloud networks and what their rules let through; how clouds are reached, and what was read there"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0022"
down_revision = "0021"


def _kind_table(name: str, texts: tuple[str, ...], documents: tuple[str, ...]) -> None:
    op.create_table(
        name,
        *(sa.Column(column, sa.Text(), nullable=False) for column in ("design_id", "id", "name", "site_id", *texts)),
        *(sa.Column(column, postgresql.JSONB(), nullable=False) for column in documents),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name=f"fk_{name}_design_id", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["design_id", "site_id"],
            ["site.design_id", "site.id"],
            name=f"fk_{name}_design_id_site_id",
            deferrable=True,
            initially="DEFERRED",
        ),
        sa.UniqueConstraint(
            "design_id", "site_id", "name", name=f"uq_{name}_design_id_site_id_name", deferrable=True, initially="DEFERRED"
        ),
        sa.PrimaryKeyConstraint("design_id", "id", name=f"pk_{name}"),
    )


def upgrade() -> None:
    _kind_table("cloud_network", ("account", "region"), ("blocks",))
    _kind_table("cloud_rule", ("level", "direction"), ("members", "far", "services"))
    made_at = sa.text("now()")
    op.create_table(
        "cloud_access",
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "account", "address", "fingerprint", "made_by")),
        sa.Column("secret_reference", postgresql.UUID(as_uuid=True), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=made_at),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_cloud_access_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("design_id", "account", name="pk_cloud_access"),
    )
    op.create_table(
        "cloud_reading",
        sa.Column("design_id", sa.Text(), nullable=False),
        sa.Column("account", sa.Text(), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        sa.Column("taken_by", sa.Text(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False, server_default=made_at),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_cloud_reading_design_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("design_id", "account", name="pk_cloud_reading"),
    )
