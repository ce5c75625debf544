"""Profiles in full, and the platforms of people's devices"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0019"
down_revision = "0018"

_LISTS = ("groups", "families", "servers", "search", "dial_applications", "inside_tests", "rules")
_ENDS = {
    "device_end": '{"local_auth": "eap", "remote_auth": "certificate"}',
    "gateway_end": '{"local_auth": "certificate", "remote_auth": "eap"}',
}


def _filled(name: str, type_: sa.types.TypeEngine, value: str) -> None:
    """Add a column that is not null, with a value for the rows that are there."""
    op.add_column("profile", sa.Column(name, type_, nullable=False, server_default=value))
    op.alter_column("profile", name, server_default=None)


def upgrade() -> None:
    for name in _LISTS:
        _filled(name, postgresql.JSONB(), "[]")
    for name, value in _ENDS.items():
        _filled(name, postgresql.JSONB(), value)
    _filled("dial", sa.Text(), "by-hand")
    _filled("lock_down", sa.Boolean(), "false")
    op.add_column("profile", sa.Column("proxy", postgresql.JSONB()))
    op.add_column("profile", sa.Column("second_factor", sa.Boolean()))
    op.add_column("profile", sa.Column("idle_limit_s", sa.Integer()))
    op.add_column("profile", sa.Column("session_limit_s", sa.Integer()))
    op.create_table(
        "platform",
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("design_id", "id", "name", "family", "remark")),
        *(sa.Column(name, postgresql.JSONB(), nullable=False) for name in ("cannot", "can")),
        sa.ForeignKeyConstraint(["design_id"], ["design.id"], name="fk_platform_design_id", ondelete="CASCADE"),
        sa.UniqueConstraint("design_id", "name", name="uq_platform_design_id_name", deferrable=True, initially="DEFERRED"),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_platform"),
    )
