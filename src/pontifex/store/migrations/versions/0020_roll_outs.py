"""People's devices, signed versions of profiles, and how they are rolled out"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0020"
down_revision = "0019"


def _of_design(table: str, *, key: bool = True) -> tuple[sa.Column[str], sa.ForeignKeyConstraint]:
    foreign = sa.ForeignKeyConstraint(["design_id"], ["design.id"], name=f"fk_{table}_design_id", ondelete="CASCADE")
    return sa.Column("design_id", sa.Text(), primary_key=key, nullable=False), foreign


def _made_at(name: str) -> sa.Column[sa.DateTime]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now())


def upgrade() -> None:
    op.create_table(
        "profile_signer",
        *_of_design("profile_signer"),
        sa.Column("secret_reference", postgresql.UUID(as_uuid=True), nullable=False),
        sa.Column("public_key", postgresql.JSONB(), nullable=False),
        _made_at("made_at"),
    )
    op.create_table(
        "person_device",
        *_of_design("person_device"),
        sa.Column("id", postgresql.UUID(as_uuid=True), primary_key=True),
        sa.Column("place", sa.BigInteger(), sa.Identity(), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("name", "person", "team", "platform", "added_by")),
        sa.Column("token_hash", sa.LargeBinary(), nullable=False),
        _made_at("added_at"),
        sa.UniqueConstraint("design_id", "name", name="uq_person_device_design_id_name"),
        sa.UniqueConstraint("token_hash", name="uq_person_device_token_hash"),
    )
    op.create_table(
        "profile_version",
        *_of_design("profile_version"),
        sa.Column("profile_id", sa.Text(), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("signed", "remark", "made_by")),
        _made_at("made_at"),
    )
    op.create_table(
        "profile_rollout",
        *_of_design("profile_rollout"),
        sa.Column("profile_id", sa.Text(), primary_key=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("before", sa.Integer()),
        sa.Column("stage", sa.Text(), nullable=False),
        sa.Column("first", sa.Integer(), nullable=False),
        sa.Column("changed_by", sa.Text(), nullable=False),
        _made_at("changed_at"),
    )
    op.create_table(
        "device_report",
        sa.Column("design_id", sa.Text(), primary_key=True),
        sa.Column("device_id", postgresql.UUID(as_uuid=True), primary_key=True),
        sa.Column("profile_id", sa.Text(), primary_key=True),
        *(sa.Column(name, sa.Integer()) for name in ("fetched", "active", "refused")),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("reason", "platform_version")),
        sa.Column("dialled", sa.Boolean()),
        _made_at("reported_at"),
        sa.ForeignKeyConstraint(
            ["design_id", "device_id"],
            ["person_device.design_id", "person_device.id"],
            name="fk_device_report_design_id_device_id",
            ondelete="CASCADE",
        ),
    )
