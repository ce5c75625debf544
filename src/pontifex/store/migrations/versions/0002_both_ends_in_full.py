"""Both ends in full: technologies per end, selectors with protocols and ports, algorithm policies"""

import json

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from pontifex.core.ipsec.policy import CURRENT_PRACTICE, DEFAULT_POLICIES

revision = "0002"
down_revision = "0001"

JSONB = postgresql.JSONB(astext_type=sa.Text())


def _add(table, name, kind, default):
    """Add a column that must be filled: rows that stand there get the default, new ones say it themselves."""
    op.add_column(table, sa.Column(name, kind, nullable=False, server_default=default))
    op.alter_column(table, name, server_default=None)


def upgrade() -> None:
    policies = json.dumps([policy.model_dump(mode="json") for policy in DEFAULT_POLICIES])
    _add("design", "policies", JSONB, policies)
    _add("design", "policy_id", sa.Text(), CURRENT_PRACTICE.id)
    _add("design", "planning_horizon_days", sa.SmallInteger(), "60")
    _add("gateway", "service_on", sa.Boolean(), sa.true())
    _add("gateway", "technologies", JSONB, "[]")
    _add("gateway", "folds_case", sa.Boolean(), sa.false())
    op.add_column("gateway", sa.Column("most_selectors", sa.SmallInteger()))
    _add("uplink", "inbound_tcp", sa.Boolean(), sa.false())
    _add("uplink", "only_tcp_out", sa.Boolean(), sa.false())
    op.add_column("uplink", sa.Column("mtu", sa.Integer()))
    op.add_column("uplink", sa.Column("nat_timeout_s", sa.Integer()))
    _add("tunnel", "exceptions", JSONB, "[]")
    op.drop_column("tunnel", "technology")  # IPsec with IKEv2 was the only one, and is the default of an end
    op.add_column("tunnel_end", sa.Column("key_weakness", sa.Text()))
    _add("tunnel_end", "details", JSONB, "{}")
    op.alter_column("selector", "prefix", new_column_name="selector", type_=sa.Text(), postgresql_using="prefix::text")
