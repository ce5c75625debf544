"""The migrations make exactly the tables that the code speaks of."""

from __future__ import annotations

import psycopg
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import inspect, text

from pontifex.core.kinds import ObjectType
from pontifex.store import ChangeKind, DesignRepository, DesignState
from pontifex.store.database import MIGRATIONS, connect, migrate, newest_revision
from pontifex.store.tables import metadata


def test_the_migrations_make_the_tables(engine):
    """A migrated database differs in nothing from the tables in the code."""
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), metadata) == []


def test_migrating_twice_changes_nothing(engine):
    """A database that is up to date stays as it is, data included."""
    with engine.begin() as connection:
        columns = "id, name, key_salt, revision, policies, policy_id, planning_horizon_days"
        values = "'kept', 'Kept', repeat('0', 32), 3, '[]', 'strict', 60"
        connection.execute(text(f"INSERT INTO design ({columns}) VALUES ({values})"))
    migrate(engine)
    with engine.connect() as connection:
        assert connection.execute(text("SELECT name, revision FROM design")).all() == [("Kept", 3)]


def test_the_newest_revision_is_told_by_the_names_of_files():
    """A database at the newest revision is left alone without asking what makes migrations."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    assert ScriptDirectory.from_config(config).get_heads() == [newest_revision()]


def test_an_empty_database_is_migrated_from_nothing(cluster):
    """A server that has never seen the product gets all tables, with their foreign keys and the index on prefixes."""
    with psycopg.connect(cluster.admin_url(), autocommit=True) as connection:
        connection.execute("CREATE DATABASE untouched")
    opened = connect(cluster.url("untouched"))
    migrate(opened)
    found = inspect(opened)
    assert set(metadata.tables) <= set(found.get_table_names())
    assert {key["referred_table"] for key in found.get_foreign_keys("network")} == {"design", "site"}
    assert "ix_network_prefix" in {index["name"] for index in found.get_indexes("network")}
    opened.dispose()


FIRST_DESIGN = """
INSERT INTO design (id, name, key_salt, revision) VALUES ('d', 'Old', repeat('0', 32), 4);
INSERT INTO site (design_id, id, name, kind, organisation, place) VALUES ('d', 's', 'Site', 'office', '', '');
INSERT INTO network (design_id, id, name, site_id, prefix, role, zone)
VALUES ('d', 'n', 'Lan', 's', '10.64.0.0/22', 'user', '');
INSERT INTO gateway (design_id, id, name, site_id, kind)
VALUES ('d', 'g', 'Gate', 's', 'router'), ('d', 'h', 'Other', 's', 'router');
INSERT INTO uplink (design_id, id, name, gateway_id, address_kind, inbound_ike, preference)
VALUES ('d', 'u', 'Line', 'g', 'fixed-public', true, 1);
INSERT INTO tunnel (design_id, id, name, technology) VALUES ('d', 't', 'Tunnel', 'ipsec-ikev2');
INSERT INTO tunnel_end (design_id, tunnel_id, side, gateway_id, role, ike_lifetime_s)
VALUES ('d', 't', 'left', 'g', 'call', 3600), ('d', 't', 'right', 'h', 'wait', null);
INSERT INTO selector (design_id, tunnel_id, side, direction, position, prefix)
VALUES ('d', 't', 'left', 'local', 0, '10.64.0.0/22'), ('d', 't', 'left', 'local', 1, 'fd5c:9a1e:40::/64');
"""


def test_a_database_of_the_first_version_keeps_its_designs(cluster):
    """What was entered in the first version is there after migrating, and new fields hold what an old design means."""
    with psycopg.connect(cluster.admin_url(), autocommit=True) as connection:
        connection.execute("CREATE DATABASE first_version")
    opened = connect(cluster.url("first_version"))
    migrate(opened, "0001")
    with opened.begin() as old:
        old.execute(text(FIRST_DESIGN))
    migrate(opened)
    design = DesignRepository(opened).load("d")
    opened.dispose()
    tunnel = design.tunnel_by_id["t"]
    assert (design.revision, design.policy.name, tunnel.left.technology.value) == (4, "Current practice", "ipsec-ikev2")
    assert (tunnel.left.ike_lifetime_s, tunnel.left.enabled, design.gateway_by_id["g"].service_on) == (3600, True, True)
    assert (design.networks[0].dhcp_ranges, design.networks[0].lease_time_s) == ((), None)
    assert [str(network) for network in tunnel.left.local_networks] == ["10.64.0.0/22", "fd5c:9a1e:40::/64"]


KEPT = '{"id": "c", "name": "growth", "site_id": "s", "prefix": "10.66.0.0/24", "remark": ""}'
CALLED = KEPT.replace("growth", r"the \"op\": put-claim")  # somebody's own words
BEFORE_RENAMING = f"""
INSERT INTO claim (design_id, id, name, site_id, prefix, remark)
VALUES ('d', 'c', 'the "op": put-claim', 's', '10.66.0.0/24', '');
INSERT INTO change (design_id, revision, kind, target, author, note, forward, backward, fields) VALUES
('d', 5, 'edit', null, 'a', 'Hold it',
 '[{{"op": "put-claim", "object": {KEPT}}}]', '[{{"op": "remove", "type": "claim", "id": "c", "cascade": false}}]', '[]'),
('d', 6, 'edit', null, 'a', 'Name it', '[{{"op": "put-claim", "object": {CALLED}}}]', '[{{"op": "put-claim", "object": {KEPT}}}]',
 '[{{"type": "claim", "id": "c", "name": "growth", "field": "Name", "before": "growth", "after": "other"}}]');
UPDATE design SET revision = 6;
"""


def test_undo_works_across_the_new_name_of_reserved_prefixes(cluster):
    """Claims are reserved prefixes now, in the log as well; what people wrote themselves is left alone."""
    with psycopg.connect(cluster.admin_url(), autocommit=True) as connection:
        connection.execute("CREATE DATABASE before_renaming")
    opened = connect(cluster.url("before_renaming"))
    for revision, statements in (("0001", FIRST_DESIGN), ("0005", BEFORE_RENAMING)):
        migrate(opened, revision)
        with opened.begin() as old:
            old.exec_driver_sql(statements)
    migrate(opened)
    repository = DesignRepository(opened)
    names = [reservation.name for reservation in repository.load("d").prefix_reservations]
    for base in (6, 7):
        design = repository.step(DesignState("d", base), ChangeKind.UNDO, "b").design
        names += [reservation.name for reservation in design.prefix_reservations]
    assert names == ['the "op": put-claim', "growth"]
    changes, _, _ = repository.history("d", 10)
    assert changes[-2].fields[0].type is ObjectType.PREFIX_RESERVATION
    opened.dispose()
