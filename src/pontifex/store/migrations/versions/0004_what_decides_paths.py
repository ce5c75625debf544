"""What decides paths: filters, intents, subnets' own tables, classes and quality"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"

JSONB = postgresql.JSONB(astext_type=sa.Text())


def _text(name, null=False):
    return sa.Column(name, sa.Text(), nullable=null)


def _add(table, name, type_, value):
    """Add a column that every row must have, with a value for the rows that are there."""
    op.add_column(table, sa.Column(name, type_, nullable=False, server_default=value))
    op.alter_column(table, name, server_default=None)


def _table(name, *columns, unique_within, gateway):
    keys = [sa.ForeignKeyConstraint(["design_id"], ["design.id"], name=f"fk_{name}_design_id", ondelete="CASCADE")]
    if gateway:
        keys.append(
            sa.ForeignKeyConstraint(
                ["design_id", "gateway_id"],
                ["gateway.design_id", "gateway.id"],
                name=f"fk_{name}_design_id_gateway_id",
                deferrable=True,
                initially="DEFERRED",
            )
        )
    within = ["design_id", *unique_within, "name"]
    keys.append(sa.UniqueConstraint(*within, name=f"uq_{name}_{'_'.join(within)}", deferrable=True, initially="DEFERRED"))
    head = (_text("design_id"), _text("id"), _text("name"))
    op.create_table(name, *head, *columns, *keys, sa.PrimaryKeyConstraint("design_id", "id", name=f"pk_{name}"))


def upgrade() -> None:
    _add("site", "region", sa.Text(), "")
    _add("network", "dhcp_routes", JSONB, "[]")
    _add("network", "resolvers", JSONB, "[]")
    _add("network", "own_table", sa.Boolean(), sa.false())
    op.add_column("gateway", sa.Column("inside_address", postgresql.INET()))
    _add("gateway", "outranking", sa.Text(), "nothing")
    op.add_column("uplink", sa.Column("jitter_ms", sa.Float()))
    op.add_column("uplink", sa.Column("loss_percent", sa.Float()))
    op.add_column("route", _text("network_id", null=True))
    op.create_foreign_key(
        "fk_route_design_id_network_id",
        "route",
        "network",
        ["design_id", "network_id"],
        ["design_id", "id"],
        deferrable=True,
        initially="DEFERRED",
    )
    _add("route", "origin", sa.Text(), "static")
    for column in ("source_members", "destination_members", "destination_names", "dscp"):
        _add("rule", column, JSONB, "[]")
    _add("rule", "name_resolution", sa.Text(), "at-start")
    _add("rule", "region", sa.Text(), "")
    op.add_column("rule", _text("marks", null=True))
    _add("rule", "back_margin_percent", sa.SmallInteger(), "20")
    _add("rule", "back_after_s", sa.Integer(), "60")
    _add("profile", "own_resolvers", JSONB, "[]")
    op.add_column("profile", sa.Column("most_routes", sa.Integer()))
    _table(
        "filter",
        _text("gateway_id"),
        _text("direction"),
        sa.Column("sources", JSONB, nullable=False),
        sa.Column("destinations", JSONB, nullable=False),
        unique_within=["gateway_id"],
        gateway=True,
    )
    _table(
        "intent",
        sa.Column("sources", JSONB, nullable=False),
        sa.Column("destinations", JSONB, nullable=False),
        sa.Column("services", JSONB, nullable=False),
        sa.Column("both_ways", sa.Boolean(), nullable=False),
        _text("dscp", null=True),
        sa.Column("rate_mbit_s", sa.Float()),
        unique_within=[],
        gateway=False,
    )
