"""Use cases about designs: ids, the history, changes that are made once, and designs that are put aside."""

from __future__ import annotations

from uuid import uuid4

import pytest
from sqlalchemy import text

from pontifex.core.design_file import UnreadableDesign, write_design_file
from pontifex.core.kinds import Site
from pontifex.core.model import put
from pontifex.demo import demo_design
from pontifex.services.designs import OPERATIONS, ChangeNotFound
from pontifex.store import Archived, DesignNotFound, DesignState, NothingToUndo, OnceOnly


def _site(id_):
    return put(Site(id=id_, name=id_))


@pytest.mark.parametrize(
    ("name", "ids"),
    [
        ("Skerry Line", ["skerry-line", "skerry-line-2", "skerry-line-3"]),
        ("Årdal & Søn (West)", ["ardal-sn-west", "ardal-sn-west-2", "ardal-sn-west-3"]),
        ("港", ["design", "design-2", "design-3"]),
    ],
)
def test_ids_are_made_of_names(designs, name, ids):
    """A design's id is made of its name, with a number where it is taken; each has a key salt of its own."""
    made = [designs.create(name) for _ in ids]
    assert [design.id for design in made] == ids
    assert len({designs.get(design.id).key_salt for design in made}) == len(ids)
    assert {summary.name for summary in designs.list()} == {name}


def test_names_never_run_out(designs):
    """However many designs have one name, the next one has an id of its own."""
    for _ in range(105):
        made = designs.create("Line")
    assert made.id == "line-105"


def test_a_design_is_deleted_and_restored(designs, keys):
    """A deleted design is found by nobody and keeps its id; restored it is what it was, with its history and keys."""
    id_ = designs.add(demo_design()).id
    reference = keys.set(designs.get(id_), "Harbour-Lamp-42").reference
    designs.change(DesignState(id_, 0), [_site("yard")], "Add the yard", "ann")
    designs.delete(id_)
    for asked in (designs.get, designs.standing, designs.history, designs.delete):
        with pytest.raises(DesignNotFound):
            asked(id_)
    assert (designs.list(), [design.id for design in designs.list(deleted=True)]) == ([], [id_])
    assert designs.create("Skerry Line").id == f"{id_}-2"
    designs.restore(id_)
    assert "yard" in designs.get(id_).site_by_id
    assert designs.history(id_).undo == "Add the yard"
    assert keys.show(designs.get(id_), reference, "ann") == "Harbour-Lamp-42"
    with pytest.raises(DesignNotFound):
        designs.restore(id_)


def test_what_was_deleted_goes_for_good_after_its_time(designs, keys, engine):
    """Within 30 days a deleted design stays; after them it goes with its keys."""
    kept, gone = designs.create("Kept"), designs.create("Gone")
    keys.generate(designs.get(gone.id))
    for one, days in ((kept, 29), (gone, 31)):
        designs.delete(one.id)
        with engine.begin() as connection:
            earlier = {"days": days, "id": one.id}
            connection.execute(
                text("UPDATE design SET deleted_at = now() - make_interval(days => :days) WHERE id = :id"), earlier
            )
    assert designs.purge() == 1
    assert [design.id for design in designs.list(deleted=True)] == [kept.id]
    with engine.connect() as connection:
        assert connection.scalar(text("SELECT count(*) FROM vault_key")) == 0


def test_an_archived_design_is_read_and_not_changed(designs):
    """What is put aside stays as it is until it is taken out again."""
    id_ = designs.create("Old").id
    designs.archive(id_, archived=True)
    assert designs.list()[0].archived_at is not None
    assert designs.get(id_).revision == 0
    with pytest.raises(Archived):
        designs.change(DesignState(id_, 0), [_site("yard")], "Add the yard", "ann")
    designs.archive(id_, archived=False)
    assert designs.change(DesignState(id_, 0), [_site("yard")], "Add the yard", "ann").revision == 1


def test_the_list_says_what_designs_are_about(designs):
    """Each with its sites, tunnels and last change; a new name is a change like others, and the id stays."""
    demo = designs.add(demo_design())
    designs.create("Empty")
    designs.rename(demo.id, "Skerry Ferries", "ann")
    empty, skerry = designs.list()
    assert (empty.name, empty.sites, empty.tunnels, empty.changed_at, empty.changed_by) == ("Empty", 0, 0, None, None)
    assert (skerry.id, skerry.name, skerry.changed_by) == (demo.id, "Skerry Ferries", "ann")
    assert (skerry.sites, skerry.tunnels) == (len(demo.sites), len(demo.tunnels))
    assert skerry.changed_at is not None
    designs.undo(DesignState(demo.id, 1), "ann")
    assert designs.get(demo.id).name == demo.name


def test_a_change_is_written_once(designs):
    """A change of an id is made once, however often it is sent; whether it was written can be asked."""
    id_, change_id = designs.create("Line").id, uuid4()
    with pytest.raises(ChangeNotFound):
        designs.written(id_, change_id)
    designs.change(DesignState(id_, 0), [_site("yard")], "Add the yard", "ann", change_id)
    with pytest.raises(OnceOnly):
        designs.change(DesignState(id_, 0), [_site("quay")], "Add the quay", "ann", change_id)
    assert (designs.written(id_, change_id).revision, designs.standing(id_).revision) == (1, 1)


def test_trying_writes_nothing(designs):
    """A change that is only tried says what it would do; the design and its log stay as they are."""
    id_ = designs.add(demo_design()).id
    tried = designs.try_change(id_, OPERATIONS.dump_json([_site("yard")]))
    assert [(field.name, field.before, field.after) for field in tried.fields] == [("yard", "—", "yard, office")]
    assert designs.standing(id_).revision == 0
    assert designs.history(id_).changes == ()


def test_history_tells_what_undo_and_redo_are_about(designs):
    """The notes of the changes that undo and redo would touch are told."""
    id_ = designs.add(demo_design()).id
    with pytest.raises(NothingToUndo):
        designs.undo(DesignState(id_, 0), "ann")
    designs.change(DesignState(id_, 0), [_site("yard")], "Add the yard", "ann")
    designs.change(DesignState(id_, 1), [_site("quay")], "Add the quay", "ben")
    assert (designs.history(id_).undo, designs.history(id_).redo) == ("Add the quay", None)
    undone = designs.undo(DesignState(id_, 2), "ann")
    assert (undone.revision, undone.fields[0].name, undone.fields[0].after) == (3, "quay", "—")
    assert (designs.history(id_).undo, designs.history(id_).redo) == ("Add the yard", "Add the quay")
    designs.redo(DesignState(id_, 3), "ann")
    assert set(designs.get(id_).site_by_id) >= {"yard", "quay"}


def test_what_is_not_there(designs):
    """A design or tunnel that isn't there is said by name; a file that can't be read makes no design."""
    with pytest.raises(DesignNotFound, match="there is no design 'none'"):
        designs.get("none")
    designs.add(demo_design())
    with pytest.raises(UnreadableDesign):
        designs.import_text(write_design_file(demo_design()).replace("fixed-public", "sometimes"))
    assert len(designs.list()) == 1
