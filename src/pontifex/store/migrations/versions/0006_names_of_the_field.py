"""Reserved prefixes under their own name, in the log as well, and a column as wide as its field allows"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"

_CONSTRAINTS = (
    ("pk_claim", "pk_prefix_reservation"),
    ("fk_claim_design_id", "fk_prefix_reservation_design_id"),
    ("fk_claim_design_id_site_id", "fk_prefix_reservation_design_id_site_id"),
    ("uq_claim_design_id_site_id_name", "uq_prefix_reservation_design_id_site_id_name"),
)
# a quotation mark within a text is written \" in JSON, so that nothing but a key and its value reads like this
_IN_THE_LOG = (
    ('"op": "put-claim"', '"op": "put-prefix-reservation"'),
    ('"type": "claim"', '"type": "prefix-reservation"'),
)


def upgrade() -> None:
    op.rename_table("claim", "prefix_reservation")
    for before, after in _CONSTRAINTS:
        op.execute(f"ALTER TABLE prefix_reservation RENAME CONSTRAINT {before} TO {after}")
    for column in ("forward", "backward", "fields"):
        text = sa.cast(sa.column(column), sa.Text)
        for before, after in _IN_THE_LOG:
            text = sa.func.replace(text, before, after)
        changes = sa.table("change", sa.column(column))
        op.execute(changes.update().values({column: sa.cast(text, JSONB)}))
    op.alter_column("profile", "most_routes", type_=sa.SmallInteger())
