"""The tables. Every object belongs to a design and is known in it by its id; references are foreign keys."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Final

from sqlalchemy import (
    BigInteger,
    Boolean,
    CheckConstraint,
    Column,
    DateTime,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    SmallInteger,
    Table,
    Text,
    UniqueConstraint,
    cast,
    func,
)
from sqlalchemy.dialects.postgresql import CIDR, JSONB, UUID

from pontifex.core.kinds import KINDS, ObjectType
from pontifex.store.columns import kind_table, refers

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


design = Table(
    "design",
    metadata,
    _text("id", key=True),
    _text("name"),
    _text("key_salt"),
    Column("policies", JSONB, nullable=False),
    _text("policy_id"),
    Column("planning_horizon_days", SmallInteger, nullable=False),
    # tells its revisions from those of another history under the same id
    Column("incarnation", Text, nullable=False, server_default=func.replace(cast(func.gen_random_uuid(), Text), "-", "")),
    Column("revision", Integer, nullable=False),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("archived_at", DateTime(timezone=True)),  # put aside: read, and not changed
    Column("deleted_at", DateTime(timezone=True)),  # gone but for who restores it
)
supernet = Table(
    "supernet",
    metadata,
    _of_design(),
    Column("position", SmallInteger, primary_key=True),
    Column("prefix", CIDR, nullable=False),
)
_MORE: Final[dict[ObjectType, tuple[Any, ...]]] = {
    ObjectType.NETWORK: (
        CheckConstraint("vlan between 1 and 4094", name="vlan_in_range"),
        Index("ix_network_prefix", "prefix", postgresql_using="gist", postgresql_ops={"prefix": "inet_ops"}),
    ),
    ObjectType.HOST: (Index("ix_host_address", "address", postgresql_using="gist", postgresql_ops={"address": "inet_ops"}),),
}
plain: Final[dict[ObjectType, Table]] = {  # the tables of all kinds that are one row each
    kind.name: kind_table(metadata, kind, *_MORE.get(kind.name, ())) for kind in KINDS if kind.name is not ObjectType.TUNNEL
}
tunnel = Table(
    "tunnel",
    metadata,
    _of_design(),
    _text("id", key=True),
    _text("name"),
    _text("standard_id", null=True),
    Column("exceptions", JSONB, nullable=False),
    refers("standard_id", "standard"),
    UniqueConstraint("design_id", "name", deferrable=True, initially="DEFERRED"),
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
    refers("gateway_id", "gateway"),
    refers("uplink_id", "uplink"),
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
    Column("change_id", UUID(as_uuid=True)),  # that its maker gave it
    UniqueConstraint("design_id", "change_id"),
)
examination = Table(  # what the last analysis of a design counted
    "examination",
    metadata,
    _of_design(),
    _text("incarnation"),
    Column("revision", Integer, nullable=False),
    Column("findings", Integer, nullable=False),
    Column("blockers", Integer, nullable=False),
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
master_key_check = Table(  # one row, which the master key alone can read
    "master_key_check",
    metadata,
    Column("id", SmallInteger, primary_key=True),
    Column("nonce", LargeBinary, nullable=False),
    Column("ciphertext", LargeBinary, nullable=False),
)
spent_token = Table(  # tickets that opened their session, and sessions that were ended
    "spent_token",
    metadata,
    _text("id", key=True),
    Column("until", DateTime(timezone=True), nullable=False),  # it would be of no use any more after this
)
reading = Table(  # what a device ran and kept, as somebody read it
    "reading",
    metadata,
    _of_design(),
    _text("gateway_id", key=True),
    Column("taken_at", DateTime(timezone=True), primary_key=True),
    Column("document", JSONB, nullable=False),
)
plan_run = Table(  # a plan that is walked, as it was made
    "plan_run",
    metadata,
    Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
    Column("id", UUID(as_uuid=True), primary_key=True),
    _text("title"),
    _text("since"),
    Column("revision", Integer, nullable=False),
    _text("started_by"),
    Column("started_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("plan", JSONB, nullable=False),
)
run_tick = Table(  # a line of its log
    "run_tick",
    metadata,
    Column("run_id", UUID(as_uuid=True), ForeignKey("plan_run.id", ondelete="CASCADE"), primary_key=True),
    Column("position", Integer, primary_key=True),
    Column("step", Integer, nullable=False),
    _text("result"),
    _text("remark"),
    _text("author"),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
run_probe = Table(  # what somebody has seen of a pair before the first step of a run, or after the last
    "run_probe",
    metadata,
    Column("run_id", UUID(as_uuid=True), ForeignKey("plan_run.id", ondelete="CASCADE"), primary_key=True),
    _text("tries", key=True),
    _text("phase", key=True),  # before or after
    _text("seen"),
    _text("author"),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
)
partner_link = Table(  # by which a partner fills in one end of a tunnel
    "partner_link",
    metadata,
    Column("id", UUID(as_uuid=True), primary_key=True),
    Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
    _text("tunnel_id"),
    _text("side"),
    Column("until", DateTime(timezone=True), nullable=False),
    _text("made_by"),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("revoked_at", DateTime(timezone=True)),
    Column("answer", JSONB, nullable=False, server_default="{}"),
    Column("answered_at", DateTime(timezone=True)),
)
key_link = Table(  # that shows a key once, to whoever has the spoken code as well
    "key_link",
    metadata,
    Column("id", UUID(as_uuid=True), primary_key=True),
    Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), nullable=False),
    Column("reference", UUID(as_uuid=True), nullable=False),
    Column("code_hash", LargeBinary, nullable=False),
    Column("until", DateTime(timezone=True), nullable=False),
    _text("made_by"),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
    Column("tries", SmallInteger, nullable=False, server_default="0"),
    Column("opened_at", DateTime(timezone=True)),
)
device_access = Table(  # how a gateway is reached; the secret stands in the vault
    "device_access",
    metadata,
    Column("design_id", Text, ForeignKey("design.id", ondelete="CASCADE"), primary_key=True),
    _text("gateway_id", key=True),
    _text("protocol"),
    _text("address"),
    _text("user"),
    _text("fingerprint"),
    Column("secret_reference", UUID(as_uuid=True), nullable=False),
    _text("made_by"),
    Column("made_at", DateTime(timezone=True), nullable=False, server_default=func.now()),
)


def _time(name: str) -> Column[datetime]:
    return Column(name, DateTime(timezone=True), nullable=False, server_default=func.now())


profile_signer = Table(  # the key that a design's profiles are signed with; its private half stands in the vault
    "profile_signer",
    metadata,
    _of_design(),
    Column("secret_reference", UUID(as_uuid=True), nullable=False),
    Column("public_key", JSONB, nullable=False),
    _time("made_at"),
)
person_device = Table(  # a device of a person; who has its token is it
    "person_device",
    metadata,
    _of_design(),
    Column("id", UUID(as_uuid=True), primary_key=True),
    Column("place", BigInteger, Identity(), nullable=False),  # in the order in which they were added
    *(_text(name) for name in ("name", "person", "team", "platform", "added_by")),
    Column("token_hash", LargeBinary, nullable=False),
    _time("added_at"),
    UniqueConstraint("design_id", "name"),
    UniqueConstraint("token_hash"),
)
profile_version = Table(  # a profile as it was signed
    "profile_version",
    metadata,
    _of_design(),
    _text("profile_id", key=True),
    Column("number", Integer, primary_key=True),
    Column("document", JSONB, nullable=False),
    *(_text(name) for name in ("signed", "remark", "made_by")),
    _time("made_at"),
)
profile_rollout = Table(  # which version is offered, and to whom
    "profile_rollout",
    metadata,
    _of_design(),
    _text("profile_id", key=True),
    Column("version", Integer, nullable=False),
    Column("before", Integer),
    _text("stage"),
    Column("first", Integer, nullable=False),
    _text("changed_by"),
    _time("changed_at"),
)
device_report = Table(  # what a device has asked and said of a profile
    "device_report",
    metadata,
    _text("design_id", key=True),
    Column("device_id", UUID(as_uuid=True), primary_key=True),
    _text("profile_id", key=True),
    *(Column(name, Integer) for name in ("fetched", "active", "refused")),
    *(_text(name) for name in ("reason", "platform_version")),
    Column("dialled", Boolean),
    _time("reported_at"),
    ForeignKeyConstraint(["design_id", "device_id"], ["person_device.design_id", "person_device.id"], ondelete="CASCADE"),
)
cloud_access = Table(  # how an account of a cloud is reached; its token stands in the vault
    "cloud_access",
    metadata,
    _of_design(),
    _text("account", key=True),
    *(_text(name) for name in ("address", "fingerprint", "made_by")),
    Column("secret_reference", UUID(as_uuid=True), nullable=False),
    _time("made_at"),
)
cloud_reading = Table(  # what an account of a cloud held when it was read last
    "cloud_reading",
    metadata,
    _of_design(),
    _text("account", key=True),
    Column("document", JSONB, nullable=False),
    _text("taken_by"),
    _time("taken_at"),
)
