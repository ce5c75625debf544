"""What a new kind of object takes: the files below, in a copy of the product, and it is there everywhere."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import psycopg

SOURCE = Path(__file__).parents[1] / "src"
KINDS, MODEL = Path("pontifex/core/kinds"), Path("pontifex/core/model")

BEACON = '''"""A beacon: a light at a site."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class Beacon(DesignMember):
    """A light at a site."""

    site_id: ObjectId = Field(title="Site")
    lamp: Address = Field(title="Lamp")
    range_km: int | None = Field(default=None, title="Range, km", ge=1, le=60)


BEACON: Final = Kind(
    ObjectType.BEACON, Beacon, "beacons", "Beacons", Group.PLACES,
    refers=(Reference("site_id", ObjectType.SITE, is_parent=True),), searched=("lamp",),
)
'''
MIGRATION = '''"""Beacons"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "9999"
down_revision = "{head}"


def upgrade() -> None:
    site = sa.ForeignKeyConstraint(
        ["design_id", "site_id"], ["site.design_id", "site.id"], name="fk_beacon_design_id_site_id",
        deferrable=True, initially="DEFERRED",
    )
    name = sa.UniqueConstraint(
        "design_id", "site_id", "name", name="uq_beacon_design_id_site_id_name", deferrable=True, initially="DEFERRED"
    )
    op.create_table(
        "beacon",
        sa.Column("design_id", sa.Text(), sa.ForeignKey("design.id", name="fk_beacon_design_id", ondelete="CASCADE")),
        sa.Column("id", sa.Text()),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("site_id", sa.Text(), nullable=False),
        sa.Column("lamp", postgresql.INET(), nullable=False),
        sa.Column("range_km", sa.SmallInteger()),
        sa.PrimaryKeyConstraint("design_id", "id", name="pk_beacon"),
        site,
        name,
    )
'''
TEST = '''"""Everything that is derived knows the new kind."""

import os

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from pontifex.core.design_file import design_of, write_design_file
from pontifex.core.find import find
from pontifex.core.importing import plan_rows
from pontifex.core.kinds import KIND_BY_TYPE, ObjectType
from pontifex.core.kinds.beacon import Beacon
from pontifex.core.kinds.column import CellForm, columns_of
from pontifex.core.model import ChangeRefused, Remove, apply_operations, difference, put
from pontifex.api.reference import design_file_schema
from pontifex.demo import demo_design
from pontifex.store import DesignState, {repository}
from pontifex.store.database import connect, migrate
from pontifex.store.tables import metadata

LIGHT = Beacon(id="light", name="Pier light", site_id="ostvik", lamp="10.65.0.9", range_km=7)
DEMO = demo_design()

# an operation, a reference that is checked, and a cascade
lit = apply_operations(DEMO, [put(LIGHT)])
assert put(LIGHT).op == "put-beacon"
assert lit.beacons == (LIGHT,)
with pytest.raises(ChangeRefused, match="there is no site 'nowhere'"):
    apply_operations(DEMO, [put(LIGHT.changed(site_id="nowhere"))])
assert apply_operations(lit, [Remove(type=ObjectType.SITE, id="ostvik", cascade=True)]).beacons == ()

# the search, the difference, a pasted row, and the columns of its grid
assert [(hit.id, hit.detail) for hit in find(lit, "pier light")] == [("light", "beacon, 10.65.0.9, Ostvik Terminal")]
assert [one.id for one in difference(DEMO, lit).objects] == ["light"]
(row,) = plan_rows(DEMO, ObjectType.BEACON, "Ostvik Terminal,Quay light,10.65.0.10,12").operations
assert (row.object.lamp.value, row.object.range_km) == (0x0A41000A, 12)
shown = [(one.title, one.form) for one in columns_of(KIND_BY_TYPE[ObjectType.BEACON])]
assert shown == [
    ("Site", CellForm.REFERENCE), ("Name", CellForm.TEXT), ("Lamp", CellForm.FIGURES), ("Range, km", CellForm.NUMBER)
]

# the schema, and a design file there and back
assert "Beacon" in str(design_file_schema())
import json
assert design_of(json.loads(write_design_file(lit)), "x").beacons == (LIGHT,)

# the database
engine = connect(os.environ["BEACON_DATABASE"])
migrate(engine)
with engine.connect() as connection:
    assert compare_metadata(MigrationContext.configure(connection), metadata) == []
store = {repository}(engine)
store.create(DEMO.changed(revision=0))
store.change(DesignState(DEMO.id, 0), [put(LIGHT)], "A light", "somebody")
assert store.load(DEMO.id).beacons == (LIGHT,)
print("a new kind is everywhere")
'''


def _insert(path: Path, before: str, line: str) -> None:
    text = path.read_text()
    assert before in text
    path.write_text(text.replace(before, line + before, 1))


def test_a_new_kind_takes_six_files(cluster, tmp_path, capsys):
    """Model with its row, type, registry, list of the design, migration and test: the rest is derived."""
    copy = tmp_path / "src"
    shutil.copytree(SOURCE, copy, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    migrations = copy / "pontifex/store/migrations/versions"
    head = max(path.name[:4] for path in migrations.glob("0*.py"))
    design = MODEL / "design.py"
    whole = {
        KINDS / "beacon.py": BEACON,
        migrations.relative_to(copy) / "9999_beacons.py": MIGRATION.format(head=head),
        Path("test_beacon.py"): TEST.format(repository="DesignRepository"),
    }
    inserted = (
        (KINDS / "kind.py", '    SETTINGS = "settings"', '    BEACON = "beacon"\n'),
        (KINDS / "__init__.py", "from pontifex.core.kinds.filter", "from pontifex.core.kinds.beacon import BEACON, Beacon\n"),
        (KINDS / "__init__.py", "    SITE,\n    GATEWAY,", "    BEACON,\n"),
        (design, "from pontifex.core.model.supernets", "from pontifex.core.kinds import Beacon\n"),
        (design, "    profiles: tuple", '    beacons: tuple[Beacon, ...] = Field(default=(), title="Beacons")\n'),
    )
    for path, text in whole.items():
        (copy / path).write_text(text)
    for path, before, line in inserted:
        _insert(copy / path, before, line)
    files = sorted({*whole, *(path for path, _, _ in inserted)})
    with psycopg.connect(cluster.admin_url(), autocommit=True) as connection:
        connection.execute("CREATE DATABASE beacons")
    environment = os.environ | {"PYTHONPATH": str(copy), "BEACON_DATABASE": cluster.url("beacons")}
    ran = subprocess.run(
        [sys.executable, str(copy / "test_beacon.py")], env=environment, capture_output=True, text=True, check=False
    )
    assert ran.stdout == "a new kind is everywhere\n", ran.stderr
    with capsys.disabled():
        print(f"\na new kind of object takes {len(files)} files: {', '.join(map(str, files))}")
    assert len(files) <= 6
