"""The one repository for writes, on the real database."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from ipaddress import IPv4Network

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import func, insert, select
from sqlalchemy.exc import DBAPIError, IntegrityError

from pontifex.core.addressing import Address, Family
from pontifex.core.kinds import ObjectType, Side, Site
from pontifex.core.model import ChangeRefused, Remove, apply_operations, put
from pontifex.demo import DEMO_ID, demo_design
from pontifex.store import ChangeConflict, ChangeKind, DesignNotFound, DesignRepository, DesignState, NothingToUndo, rows, tables
from tests.support.operations import OPERATIONS


@pytest.fixture
def demo(repository):
    """The demo, written to the database."""
    repository.create(demo_design())
    return repository


def _site(id_, name=None):
    return put(Site(id=id_, name=name or id_))


def test_a_design_is_read_as_it_was_written(demo):
    """Every field of every object survives the tables."""
    assert demo.load(DEMO_ID).content() == demo_design().content()
    with pytest.raises(DesignNotFound):
        demo.load("none")


def test_prefixes_are_native(demo, engine):
    """Prefixes are kept as cidr: the database itself can ask what contains what."""
    column = tables.plain[ObjectType.NETWORK].c.prefix
    with engine.connect() as connection:
        found = connection.scalars(select(column).where(column.bool_op("<<")("10.64.0.0/16")).order_by(column)).all()
    assert found[0] == IPv4Network("10.64.0.0/22")
    assert len(found) == 5


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(operations=st.lists(OPERATIONS, min_size=1, max_size=5))
def test_the_tables_hold_what_the_core_made(demo, operations):
    """Whatever the core accepts, the tables hold; undone, they hold what was there before; refused, nothing changed."""
    before = demo.load(DEMO_ID)
    try:
        expected = apply_operations(before, operations)
    except ChangeRefused:
        with pytest.raises(ChangeRefused):
            demo.change(DesignState(DEMO_ID, before.revision), operations, "try", "test")
        assert demo.load(DEMO_ID) == before
        return
    after = demo.change(DesignState(DEMO_ID, before.revision), operations, "try", "test").design
    assert demo.load(DEMO_ID).content() == after.content() == expected.content()
    if after.revision > before.revision:
        demo.step(DesignState(DEMO_ID, after.revision), ChangeKind.UNDO, "test")
        assert demo.load(DEMO_ID).content() == before.content()


def test_undo_and_redo_walk_the_log(demo):
    """Undo and redo are changes of their own; a new edit ends the redoing."""
    start = demo.load(DEMO_ID).content()
    demo.change(DesignState(DEMO_ID, 0), [_site("one")], "one", "ann")
    demo.change(DesignState(DEMO_ID, 1), [_site("two")], "two", "ben")
    both = demo.load(DEMO_ID).content()
    demo.step(DesignState(DEMO_ID, 2), ChangeKind.UNDO, "ann")
    demo.step(DesignState(DEMO_ID, 3), ChangeKind.UNDO, "ann")
    assert demo.load(DEMO_ID).content() == start
    with pytest.raises(NothingToUndo):
        demo.step(DesignState(DEMO_ID, 4), ChangeKind.UNDO, "ann")
    demo.step(DesignState(DEMO_ID, 4), ChangeKind.REDO, "ann")
    demo.step(DesignState(DEMO_ID, 5), ChangeKind.REDO, "ann")
    assert demo.load(DEMO_ID).content() == both
    demo.step(DesignState(DEMO_ID, 6), ChangeKind.UNDO, "ann")
    demo.change(DesignState(DEMO_ID, 7), [_site("three")], "three", "ben")
    with pytest.raises(NothingToUndo):
        demo.step(DesignState(DEMO_ID, 8), ChangeKind.REDO, "ann")
    log, undoable, redoable = demo.history(DEMO_ID, 100)
    assert [logged.kind.value for logged in log] == ["edit", "undo", "redo", "redo", "undo", "undo", "edit", "edit"]
    assert (undoable, redoable) == (8, None)
    assert log[0].fields[0].name == "three"


def test_a_conflict_names_what_changed_meanwhile(demo):
    """A change from an older revision passes unless the same objects were changed since; then it says by whom and what."""
    demo.change(DesignState(DEMO_ID, 0), [_site("ostvik", "Ostvik Quay")], "rename", "ann")
    demo.change(DesignState(DEMO_ID, 0), [_site("other")], "elsewhere", "ben")
    with pytest.raises(ChangeConflict) as caught:
        demo.change(DesignState(DEMO_ID, 0), [_site("ostvik", "Ostvik Pier")], "rename too", "ben")
    (meanwhile,) = caught.value.meanwhile
    assert (meanwhile.author, meanwhile.fields[0].before, meanwhile.fields[0].after) == ("ann", "Ostvik Terminal", "Ostvik Quay")
    with pytest.raises(ChangeConflict):
        demo.step(DesignState(DEMO_ID, 1), ChangeKind.UNDO, "ben")
    assert demo.standing(DEMO_ID).revision == 2


def test_a_cascade_does_not_sweep_away_what_others_changed(demo):
    """Removing a site with all that hangs on it is refused where somebody changed one of those objects meanwhile."""
    network = next(candidate for candidate in demo_design().networks if candidate.id == "ostvik-cameras")
    demo.change(DesignState(DEMO_ID, 0), [put(network.changed(vlan=41))], "new VLAN", "ann")
    removal = [Remove(type=ObjectType.SITE, id="ostvik", cascade=True)]
    with pytest.raises(ChangeConflict) as caught:
        demo.change(DesignState(DEMO_ID, 0), removal, "closed", "ben")
    assert caught.value.meanwhile[0].note == "new VLAN"
    demo.change(DesignState(DEMO_ID, 1), removal, "closed", "ben")


def test_of_many_at_once_each_is_whole(demo):
    """Of twenty people who rename the same site at once, one is let in; the others are refused."""

    def rename(k):
        try:
            demo.change(DesignState(DEMO_ID, 0), [_site("ostvik", f"Name {k}"), _site(f"by-{k}")], "race", f"p{k}")
        except ChangeConflict:
            return None
        return k

    with ThreadPoolExecutor(8) as pool:
        (winner,) = [k for k in pool.map(rename, range(20)) if k is not None]
    design = demo.load(DEMO_ID)
    assert design.site_by_id["ostvik"].name == f"Name {winner}"
    assert [id_ for id_ in design.site_by_id if id_.startswith("by-")] == [f"by-{winner}"]


def test_a_database_that_goes_away_in_mid_change(demo, engine, monkeypatch):
    """When the connection breaks within a change, nothing of it is written, and the next change passes."""
    real = rows.write_operations

    def breaking(connection, design_id, operations):
        real(connection, design_id, operations)
        with engine.connect() as other:
            other.execute(select(func.pg_terminate_backend(connection.scalar(select(func.pg_backend_pid())))))
            other.commit()

    monkeypatch.setattr("pontifex.store.designs.write_operations", breaking)
    with pytest.raises(DBAPIError):
        demo.change(DesignState(DEMO_ID, 0), [_site("lost")], "lost", "ann")
    monkeypatch.undo()
    assert demo.load(DEMO_ID).content() == demo_design().content()
    demo.change(DesignState(DEMO_ID, 0), [_site("kept")], "kept", "ann")
    assert "kept" in demo.load(DEMO_ID).site_by_id


def test_the_tables_refuse_what_the_core_would(demo, engine):
    """The tables' own constraints stand behind the core: a network of no site can't be written."""
    row: dict[str, object] = {
        "design_id": DEMO_ID,
        "id": "x",
        "name": "x",
        "site_id": "none",
        "prefix": "10.90.0.0/24",
        "role": "user",
        "zone": "",
    }
    row |= {"dhcp_ranges": [], "reserved_ranges": [], "dhcp_routes": [], "resolvers": [], "own_table": False}
    with pytest.raises(IntegrityError, match="fk_network"), engine.begin() as connection:
        connection.execute(insert(tables.plain[ObjectType.NETWORK]), row)


def test_a_change_that_changes_nothing_makes_no_revision(demo):
    """Putting an object as it stands leaves the revision and the log alone."""
    site = demo_design().site_by_id["ostvik"]
    demo.change(DesignState(DEMO_ID, 0), [put(site)], "same", "ann")
    assert demo.standing(DEMO_ID).revision == 0
    assert demo.history(DEMO_ID, 10) == ([], None, None)


def test_a_kept_design_of_an_older_revision_is_not_used(demo, engine):
    """The repository applies a change to the design as it stands, whatever copy the caller kept."""
    kept = demo.load(DEMO_ID)
    DesignRepository(engine).change(
        DesignState(DEMO_ID, 0), [Remove(type=ObjectType.SITE, id="corvina", cascade=True)], "sold", "ann"
    )
    tunnel = kept.tunnel_by_id["harbour-brenna"].with_end(Side.LEFT, uplink_id=None)
    after = demo.change(DesignState(DEMO_ID, 0), [put(tunnel)], "edit", "ben", kept).design
    assert "corvina" not in after.site_by_id
    assert demo.load(DEMO_ID).content() == after.content()


def test_more_objects_than_a_statement_has_parameters(repository, engine):
    """Seventy thousand hosts of one network are written, and removed, as one change each."""
    design = demo_design()
    design = design.changed(id="many", hosts=(), exits=())
    repository.create(design)
    network = design.network_by_id["ostvik-ticketing"]
    pattern = demo_design().hosts[0].changed(network_id=network.id)
    hosts = [
        pattern.changed(id=f"h{k}", name=f"h{k}", address=Address(Family.V4, (10 << 24) + (65 << 16) + k)) for k in range(70_000)
    ]
    with engine.begin() as connection:
        rows.write_operations(connection, "many", [put(host) for host in hosts])
        assert connection.scalar(select(func.count()).select_from(tables.plain[ObjectType.HOST])) == len(hosts)
        rows.write_operations(connection, "many", [Remove(type=ObjectType.HOST, id=host.id) for host in hosts])
        assert connection.scalar(select(func.count()).select_from(tables.plain[ObjectType.HOST])) == 0
