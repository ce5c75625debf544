"""The tables. Every object belongs to a design and is known in it by its id; references are foreign keys.

Foreign keys between objects are deferred: the operations of one change may come in any order.
"""

from __future__ import annotations

from typing import Any, Final

from sqlalchemy import (
    Boolean,
    CheckConstraint,
    Column,
    DateTime,
    Float,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    SmallInteger,
    Table,
    Text,
    UniqueConstraint,
    func,
)
from sqlalchemy.dialects.postgresql import CIDR, INET, JSONB, MACADDR, UUID

metadata = MetaData(
    naming_convention={
        "pk": "pk_%(table_name)s",
        "fk": "fk_%(table_name)s_%(column_0_N_name)s",
        "uq": "uq_%(table_name)s_%(column_0_N_name)s",
        "ck": "ck_%(table_name)s_%(constraint_name)s",
        "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    }
)


def _text(name: str, *, key: bool = False, null: bool = False) -> Column[str]:
    return Column(name, Text, primary_key=key, nullable=null)


def _of_design() -> Column[str]:
    return Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), primary_key=True)


def _refers(field: str, table: str) -> ForeignKeyConstraint:
    columns = ["design_id", field]
    return ForeignKeyConstraint(columns, [f"{table}.design_id", f"{table}.id"], deferrable=True, initially="DEFERRED")


def _unique_name(*within: str) -> UniqueConstraint:
    return UniqueConstraint("design_id", *within, "name", deferrable=True, initially="DEFERRED")


def _object_table(name: str, *columns: Any) -> Table:
    return Table(name, metadata, _of_design(), _text("id", key=True), _text("name"), *columns)


design = Table(
    "design",
    metadata,
    _text("id", key=True),
    _text("name"),
    _text("key_salt"),
    Column("policies", JSONB, nullable=False),
    _text("policy_id"),
    Column("planning_horizon_days", SmallInteger, nullable=False),
    Column("revision", Integer, nullable=False),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
supernet = Table(
    "supernet",
    metadata,
    _of_design(),
    Column("position", SmallInteger, primary_key=True),
    Column("prefix", CIDR, nullable=False),
)
site = _object_table("site", _text("kind"), _text("organisation"), _text("place"), _text("region"), _unique_name())
network = _object_table(
    "network",
    _text("site_id"),
    Column("prefix", CIDR, nullable=False),
    _text("role"),
    Column("vlan", SmallInteger),
    Column("gateway_address", INET),
    Column("dhcp_ranges", JSONB, nullable=False),
    Column("lease_time_s", Integer),
    Column("reserved_ranges", JSONB, nullable=False),
    Column("hosts_expected", Integer),
    Column("dhcp_routes", JSONB, nullable=False),
    Column("resolvers", JSONB, nullable=False),
    _text("interface", null=True),
    Column("own_table", Boolean, nullable=False),
    _text("zone"),
    _refers("site_id", "site"),
    _unique_name("site_id"),
    CheckConstraint("vlan between 1 and 4094", name="vlan_in_range"),
    Index("ix_network_prefix", "prefix", postgresql_using="gist", postgresql_ops={"prefix": "inet_ops"}),
)
gateway = _object_table(
    "gateway",
    _text("site_id"),
    _text("kind"),
    Column("service_on", Boolean, nullable=False),
    Column("technologies", JSONB, nullable=False),
    Column("forwarding", Boolean, nullable=False),
    Column("default_router", Boolean, nullable=False),
    Column("inside_address", INET),
    Column("resolvers", JSONB, nullable=False),
    _text("outranking"),
    Column("keeps_state", Boolean, nullable=False),
    Column("folds_case", Boolean, nullable=False),
    Column("most_selectors", SmallInteger),
    _refers("site_id", "site"),
    _unique_name("site_id"),
)
uplink = _object_table(
    "uplink",
    _text("gateway_id"),
    _text("address_kind"),
    Column("address", INET),
    _text("dns_name", null=True),
    Column("inbound_ike", Boolean, nullable=False),
    Column("inbound_tcp", Boolean, nullable=False),
    Column("only_tcp_out", Boolean, nullable=False),
    Column("rate_down_mbit_s", Float),
    Column("rate_up_mbit_s", Float),
    Column("delay_ms", Float),
    Column("jitter_ms", Float),
    Column("loss_percent", Float),
    Column("mtu", Integer),
    Column("nat_timeout_s", Integer),
    _text("interface", null=True),
    Column("preference", SmallInteger, nullable=False),
    _refers("gateway_id", "gateway"),
    _unique_name("gateway_id"),
)
tunnel = _object_table("tunnel", Column("exceptions", JSONB, nullable=False), _unique_name())
host = _object_table(
    "host",
    _text("network_id"),
    Column("address", INET, nullable=False),
    _text("host_class"),
    _text("assignment"),
    Column("hardware_address", MACADDR),
    _text("dns_name", null=True),
    Column("ports", JSONB, nullable=False),
    _refers("network_id", "network"),
    _unique_name("network_id"),
    Index("ix_host_address", "address", postgresql_using="gist", postgresql_ops={"address": "inet_ops"}),
)
claim = _object_table(
    "claim",
    _text("site_id"),
    Column("prefix", CIDR, nullable=False),
    _text("remark"),
    _refers("site_id", "site"),
    _unique_name("site_id"),
)
translation = _object_table(
    "translation",
    _text("gateway_id"),
    _text("tunnel_id", null=True),
    _text("side"),
    _text("kind"),
    Column("inside", CIDR, nullable=False),
    Column("outside", CIDR, nullable=False),
    _refers("gateway_id", "gateway"),
    _refers("tunnel_id", "tunnel"),
    _unique_name("gateway_id"),
)
route = _object_table(
    "route",
    _text("gateway_id"),
    Column("prefix", CIDR, nullable=False),
    Column("via", INET),
    _text("tunnel_id", null=True),
    _text("uplink_id", null=True),
    _text("network_id", null=True),
    _text("origin"),
    Column("metric", Integer, nullable=False),
    _refers("gateway_id", "gateway"),
    _refers("tunnel_id", "tunnel"),
    _refers("uplink_id", "uplink"),
    _refers("network_id", "network"),
)
rule = _object_table(
    "rule",
    _text("gateway_id"),
    Column("position", Integer, nullable=False),
    Column("sources", JSONB, nullable=False),
    Column("destinations", JSONB, nullable=False),
    Column("paths", JSONB, nullable=False),
    _text("on_failure"),
    Column("source_members", JSONB, nullable=False),
    Column("destination_members", JSONB, nullable=False),
    Column("destination_names", JSONB, nullable=False),
    _text("name_resolution"),
    _text("region"),
    Column("dscp", JSONB, nullable=False),
    _text("marks", null=True),
    Column("back_margin_percent", SmallInteger, nullable=False),
    Column("back_after_s", Integer, nullable=False),
    _refers("gateway_id", "gateway"),
    _unique_name("gateway_id"),
)
filter_ = _object_table(
    "filter",
    _text("gateway_id"),
    _text("direction"),
    Column("sources", JSONB, nullable=False),
    Column("destinations", JSONB, nullable=False),
    _refers("gateway_id", "gateway"),
    _unique_name("gateway_id"),
)
intent = _object_table(
    "intent",
    Column("sources", JSONB, nullable=False),
    Column("destinations", JSONB, nullable=False),
    Column("services", JSONB, nullable=False),
    Column("both_ways", Boolean, nullable=False),
    _text("dscp", null=True),
    Column("rate_mbit_s", Float),
    _unique_name(),
)
profile = _object_table(
    "profile",
    _text("gateway_id"),
    _text("pool_id", null=True),
    Column("people", Integer),
    _text("mode"),
    Column("networks", JSONB, nullable=False),
    Column("resolvers", JSONB, nullable=False),
    Column("suffixes", JSONB, nullable=False),
    Column("own_resolvers", JSONB, nullable=False),
    Column("most_routes", Integer),
    _refers("gateway_id", "gateway"),
    _refers("pool_id", "network"),
    _unique_name(),
)

_END_KEY: Final = ["design_id", "tunnel_id", "side"]


def _of_end() -> ForeignKeyConstraint:
    return ForeignKeyConstraint(_END_KEY, [f"tunnel_end.{column}" for column in _END_KEY], ondelete="CASCADE")


def _end_columns() -> list[Column[str]]:
    return [_text(column, key=True) for column in _END_KEY]


tunnel_end = Table(
    "tunnel_end",
    metadata,
    *_end_columns(),
    _text("gateway_id"),
    _text("uplink_id", null=True),
    _text("role", null=True),
    _text("peer_address", null=True),
    _text("local_identity_type", null=True),
    _text("local_identity_value", null=True),
    _text("remote_identity_type", null=True),
    _text("remote_identity_value", null=True),
    # what the design knows of the key; no foreign key: the key of an imported design is not in this vault
    Column("key_reference", UUID(as_uuid=True)),
    _text("key_fingerprint", null=True),
    _text("key_trimmed", null=True),
    _text("key_folded", null=True),
    Column("key_length", SmallInteger),
    _text("key_start", null=True),
    _text("key_end", null=True),
    Column("key_strength_bits", SmallInteger),
    _text("key_weakness", null=True),
    Column("ike_lifetime_s", Integer),
    Column("child_lifetime_s", Integer),
    Column("details", JSONB, nullable=False),  # the fields that nothing refers to and no query asks for
    ForeignKeyConstraint(["design_id", "tunnel_id"], ["tunnel.design_id", "tunnel.id"], ondelete="CASCADE"),
    _refers("gateway_id", "gateway"),
    _refers("uplink_id", "uplink"),
    CheckConstraint("side in ('left', 'right')", name="side_known"),
)
selector = Table(
    "selector",
    metadata,
    *_end_columns(),
    _text("direction", key=True),  # local or remote
    Column("position", SmallInteger, primary_key=True),
    _text("selector"),  # a prefix or a range, with protocol and ports where they are limited
    _of_end(),
)
proposal_transform = Table(
    "proposal_transform",
    metadata,
    *_end_columns(),
    _text("protocol", key=True),  # ike or esp
    Column("proposal", SmallInteger, primary_key=True),  # position in the end's list
    Column("position", SmallInteger, primary_key=True),  # position in the proposal; -1 alone stands for an empty one
    _text("type", null=True),
    Column("transform_id", Integer),
    Column("key_length", SmallInteger),
    _of_end(),
)
change = Table(
    "change",
    metadata,
    _of_design(),
    Column("revision", Integer, primary_key=True),  # the one that the change led to
    _text("kind"),  # edit, undo, redo
    Column("target", Integer),  # the revision that an undo or redo is about
    _text("author"),
    _text("note"),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("forward", JSONB, nullable=False),
    Column("backward", JSONB, nullable=False),
    Column("fields", JSONB, nullable=False),
)
vault_key = Table(
    "vault_key",
    metadata,
    Column("reference", UUID(as_uuid=True), primary_key=True),
    Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
    Column("nonce", LargeBinary, nullable=False),
    Column("ciphertext", LargeBinary, nullable=False),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("shown_at", DateTime(timezone=True)),
    _text("shown_to", null=True),
)
