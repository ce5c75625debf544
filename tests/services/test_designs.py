"""Use cases about designs: ids, what is kept between requests, and the history."""

from __future__ import annotations

from threading import Event, Thread

import pytest
import structlog
import structlog.testing

from pontifex.core.design_file import UnreadableDesign, write_design_file
from pontifex.core.findings import analyse
from pontifex.core.kinds import Site
from pontifex.core.model import put
from pontifex.demo import demo_design
from pontifex.services import DesignService
from pontifex.services.designs import TunnelNotFound
from pontifex.store import DesignNotFound, NothingToUndo


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
    assert len({design.key_salt for design in made}) == len(ids)
    assert {summary.name for summary in designs.list()} == {name}


def test_a_design_is_read_once_a_revision(designs, repository):
    """The same value serves every request until the revision moves on, whoever moved it."""
    id_ = designs.add(demo_design()).id
    first = designs.get(id_)
    assert designs.get(id_) is first
    assert designs.analysis(id_) is designs.analysis(id_)
    DesignService(repository).change(id_, 0, [_site("yard")], "by another server", "ben")
    assert "yard" in designs.get(id_).site_by_id
    assert designs.analysis(id_).revision == 1


def test_a_failed_check_is_logged_and_counted(designs, monkeypatch):
    """The design still has its analysis; the log has the error, and the count says that there was one."""
    monkeypatch.setattr("pontifex.core.findings.check.key_users", lambda _: 1 / 0)
    with structlog.testing.capture_logs() as logs:
        found = designs.analysis(designs.add(demo_design()).id)
    assert len(found.forecasts) == len(demo_design().tunnels)
    assert designs.failed_checks == 1
    assert [(one["event"], one["kind"], one["check"]) for one in logs if one["log_level"] == "error"] == [
        ("check failed", "ZeroDivisionError", "keys used more than once")
    ]


def test_many_designs_are_not_all_kept(designs):
    """Old designs make room for new ones and are read again when they are asked for."""
    ids = [designs.create(f"Design {k}").id for k in range(12)]
    assert [designs.get(id_).name for id_ in ids] == [f"Design {k}" for k in range(12)]
    assert len(designs._designs) <= 8
    assert set(designs._analyses) <= set(designs._designs)


def test_trying_writes_nothing(designs):
    """A change that is only tried says what it would do; the design and its log stay as they are."""
    id_ = designs.add(demo_design()).id
    tried = designs.try_change(id_, [_site("yard")])
    assert [(field.name, field.before, field.after) for field in tried.fields] == [("yard", "—", "yard, office")]
    assert designs.revision(id_) == 0
    assert designs.history(id_).changes == ()


def test_history_tells_what_undo_and_redo_are_about(designs):
    """The notes of the changes that undo and redo would touch are told."""
    id_ = designs.add(demo_design()).id
    with pytest.raises(NothingToUndo):
        designs.undo(id_, 0, "ann")
    designs.change(id_, 0, [_site("yard")], "Add the yard", "ann")
    designs.change(id_, 1, [_site("quay")], "Add the quay", "ben")
    assert (designs.history(id_).undo, designs.history(id_).redo) == ("Add the quay", None)
    undone = designs.undo(id_, 2, "ann")
    assert (undone.revision, undone.fields[0].name, undone.fields[0].after) == (3, "quay", "—")
    assert (designs.history(id_).undo, designs.history(id_).redo) == ("Add the yard", "Add the quay")
    designs.redo(id_, 3, "ann")
    assert set(designs.get(id_).site_by_id) >= {"yard", "quay"}


def test_what_is_not_there(designs):
    """A design or tunnel that isn't there is said by name; a file that can't be read makes no design."""
    with pytest.raises(DesignNotFound, match="there is no design 'none'"):
        designs.get("none")
    id_ = designs.add(demo_design()).id
    with pytest.raises(TunnelNotFound, match="there is no tunnel 'none'"):
        designs.match(id_, "none")
    with pytest.raises(UnreadableDesign):
        designs.import_text(write_design_file(demo_design()).replace("fixed-public", "sometimes"))
    assert len(designs.list()) == 1


def test_a_change_is_answered_before_its_analysis(repository, monkeypatch):
    """A change whose analysis takes its time is written and answered; what is to be said of it is there for who asks next."""
    designs = DesignService(repository, patience_s=0.01)
    made = designs.create("Slow")
    assert designs.analysis(made.id).revision == 0
    goes_on = Event()

    def analysed(design, *rest):
        assert goes_on.wait(30)
        return analyse(design, *rest)

    monkeypatch.setattr("pontifex.services.designs.analyse", analysed)
    change = designs.change(made.id, 0, [_site("yard")], "a yard", "ann")
    assert (change.revision, change.analysis) == (1, None)
    goes_on.set()
    assert designs.analysis(made.id).revision == 1


def test_an_analysis_that_fails_takes_no_change_down(repository, monkeypatch):
    """Whatever an analysis ends in, the change that was written is answered as such."""
    designs = DesignService(repository)
    made = designs.create("Fails")
    monkeypatch.setattr("pontifex.services.designs.analyse", lambda *_: 1 / 0)
    with structlog.testing.capture_logs() as logs:
        assert designs.change(made.id, 0, [_site("yard")], "a yard", "ann").revision == 1
    assert [one["kind"] for one in logs if one["log_level"] == "error"] == ["ZeroDivisionError"]
    assert designs.get(made.id).revision == 1


def test_who_asks_for_one_design_never_waits_for_another(designs, monkeypatch):
    """While the analysis of one design takes its time, another one is analysed, changed and answered."""
    slow, quick = designs.create("Slow"), designs.create("Quick")
    begun, goes_on = Event(), Event()

    def analysed(design, *rest):
        if design.id == slow.id:
            begun.set()
            assert goes_on.wait(30)
        return analyse(design, *rest)

    monkeypatch.setattr("pontifex.services.designs.analyse", analysed)
    waiting = Thread(target=designs.analysis, args=(slow.id,))
    waiting.start()
    try:
        assert begun.wait(30)
        assert designs.analysis(quick.id).revision == 0
        change = designs.change(quick.id, 0, [put(Site(id="yard", name="Yard"))], "a yard", "ann")
        assert (change.revision, designs.analysis(quick.id).revision) == (1, 1)
        assert waiting.is_alive()
    finally:
        goes_on.set()
        waiting.join(30)
    assert designs.analysis(slow.id).revision == 0
