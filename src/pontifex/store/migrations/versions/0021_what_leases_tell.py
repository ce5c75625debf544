"""The suffix that leases tell, and leases that a dial-in gateway takes for itself"""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    op.add_column("network", sa.Column("dhcp_suffix", sa.Text()))
    op.add_column("profile", sa.Column("dhcp_block", sa.SmallInteger()))
