"""What takes up address space, and what decides where traffic goes"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"

JSONB = postgresql.JSONB(astext_type=sa.Text())


def _text(name, null=False):
    return sa.Column(name, sa.Text(), nullable=null)


def _table(name, *columns, refers, unique_within=None):
    """Make a table of objects of a design; `refers` maps a column to the table whose id it holds."""
    keys = [sa.ForeignKeyConstraint(["design_id"], ["design.id"], name=f"fk_{name}_design_id", ondelete="CASCADE")]
    for column, table in refers.items():
        keys.append(
            sa.ForeignKeyConstraint(
                ["design_id", column],
                [f"{table}.design_id", f"{table}.id"],
                name=f"fk_{name}_design_id_{column}",
                deferrable=True,
                initially="DEFERRED",
            )
        )
    if unique_within is not None:
        within = ["design_id", *unique_within, "name"]
        keys.append(sa.UniqueConstraint(*within, name=f"uq_{name}_{'_'.join(within)}", deferrable=True, initially="DEFERRED"))
    head = (_text("design_id"), _text("id"), _text("name"))
    op.create_table(name, *head, *columns, *keys, sa.PrimaryKeyConstraint("design_id", "id", name=f"pk_{name}"))


def upgrade() -> None:
    for column in ("dhcp_ranges", "reserved_ranges"):
        op.add_column("network", sa.Column(column, JSONB, nullable=False, server_default="[]"))
        op.alter_column("network", column, server_default=None)
    for column in ("forwarding", "default_router"):
        op.add_column("gateway", sa.Column(column, sa.Boolean(), nullable=False, server_default=sa.true()))
        op.alter_column("gateway", column, server_default=None)
    op.add_column("network", sa.Column("lease_time_s", sa.Integer()))
    op.add_column("network", sa.Column("hosts_expected", sa.Integer()))
    _table(
        "host",
        _text("network_id"),
        sa.Column("address", postgresql.INET(), nullable=False),
        _text("host_class"),
        _text("assignment"),
        sa.Column("hardware_address", postgresql.MACADDR()),
        _text("dns_name", null=True),
        sa.Column("ports", JSONB, nullable=False),
        refers={"network_id": "network"},
        unique_within=["network_id"],
    )
    op.create_index("ix_host_address", "host", ["address"], postgresql_using="gist", postgresql_ops={"address": "inet_ops"})
    _table(
        "claim",
        _text("site_id"),
        sa.Column("prefix", postgresql.CIDR(), nullable=False),
        _text("remark"),
        refers={"site_id": "site"},
        unique_within=["site_id"],
    )
    _table(
        "translation",
        _text("gateway_id"),
        _text("tunnel_id", null=True),
        _text("side"),
        _text("kind"),
        sa.Column("inside", postgresql.CIDR(), nullable=False),
        sa.Column("outside", postgresql.CIDR(), nullable=False),
        refers={"gateway_id": "gateway", "tunnel_id": "tunnel"},
        unique_within=["gateway_id"],
    )
    _table(
        "route",
        _text("gateway_id"),
        sa.Column("prefix", postgresql.CIDR(), nullable=False),
        sa.Column("via", postgresql.INET()),
        _text("tunnel_id", null=True),
        _text("uplink_id", null=True),
        sa.Column("metric", sa.Integer(), nullable=False),
        refers={"gateway_id": "gateway", "tunnel_id": "tunnel", "uplink_id": "uplink"},
    )
    _table(
        "rule",
        _text("gateway_id"),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("sources", JSONB, nullable=False),
        sa.Column("destinations", JSONB, nullable=False),
        sa.Column("paths", JSONB, nullable=False),
        _text("on_failure"),
        refers={"gateway_id": "gateway"},
        unique_within=["gateway_id"],
    )
    _table(
        "profile",
        _text("gateway_id"),
        _text("pool_id", null=True),
        sa.Column("people", sa.Integer()),
        _text("mode"),
        sa.Column("networks", JSONB, nullable=False),
        sa.Column("resolvers", JSONB, nullable=False),
        sa.Column("suffixes", JSONB, nullable=False),
        refers={"gateway_id": "gateway", "pool_id": "network"},
        unique_within=[],
    )
