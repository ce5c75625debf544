"""Analyses: made once a revision, from what is kept of the one before."""

from __future__ import annotations

import pytest
import structlog
import structlog.testing

from pontifex.core.findings import analyse
from pontifex.core.kinds import Acceptance, Site
from pontifex.core.model import put
from pontifex.demo import demo_design
from pontifex.services import DesignService, KeptDesigns
from pontifex.services.analyses import AnalysisService, TunnelNotFound
from pontifex.store import ChangeConflict, DesignListing, DesignRepository, DesignState
from pontifex.work.budget import BrokenOff
from tests.support.designs import TODAY


def _yard(name="yard"):
    return [put(Site(id="yard", name=name))]


@pytest.fixture
def listing(engine):
    """The list of the designs of a fresh database."""
    return DesignListing(engine)


@pytest.fixture
def analyses(kept, listing):
    """Analyses of the designs of a fresh database."""
    return AnalysisService(kept, listing, lambda: TODAY)


@pytest.fixture
def elsewhere(engine):
    """Another server on the same database."""
    return DesignService(KeptDesigns(DesignRepository(engine)), DesignListing(engine))


def test_a_design_is_read_once_a_revision(designs, analyses, elsewhere):
    """The same value serves every question until the design moves on, whoever moved it; what didn't change is the same."""
    id_ = designs.add(demo_design()).id
    first = designs.get(id_)
    assert designs.get(id_) is first
    assert analyses.of(first) is analyses.of(first)
    elsewhere.change(DesignState(id_, 0), _yard(), "by another server", "ben")
    moved = designs.get(id_)
    assert "yard" in moved.site_by_id
    assert all(moved.tunnel_by_id[tunnel.id] is tunnel for tunnel in first.tunnels)
    assert analyses.analysis(id_).revision == 1
    elsewhere.undo(DesignState(id_, 1), "ben")
    assert designs.get(id_).changed(revision=0) == first
    assert analyses.analysis(id_).result.findings == analyse(first, TODAY).findings


def test_the_list_tells_what_the_last_analysis_counted(designs, analyses, listing):
    """Findings that nobody has accepted, at which revision; nothing before the first; an older count never wins."""
    id_ = designs.add(demo_design()).id
    (listed,) = listing.summaries()
    assert (listed.findings, listed.blockers, listed.examined) == (None, None, None)
    found = analyses.analysis(id_).result.findings
    (listed,) = listing.summaries()
    blockers = sum(finding.severity.value == "blocker" for finding in found)
    assert (listed.findings, listed.blockers, listed.examined) == (len(found), blockers, 0)
    place = found[0].where[0]
    kept_until = {"until": TODAY, "accepted_by": "ann", "reason": "for tonight"}
    accepted = {"code": found[0].code.value, "at_type": place.type.value, "at_id": place.id, "at_field": place.field}
    designs.change(DesignState(id_, 0), [put(Acceptance(id="one", name="One", **accepted, **kept_until))], "tonight", "ann")
    analyses.analysis(id_)
    (listed,) = listing.summaries()
    assert (listed.findings, listed.blockers, listed.examined) == (len(found) - 1, blockers - 1, 1)
    listing.examined(DesignState(id_, 0, designs.get(id_).incarnation), 99, 99)
    assert listing.summaries() == [listed]
    listing.examined(DesignState("gone", 0, "another"), 99, 99)


def test_what_a_change_does_to_the_analysis(designs, analyses, elsewhere):
    """It is told where the analysis before is known, and not where there were other changes, or another history."""
    id_ = designs.add(demo_design()).id
    designs.change(DesignState(id_, 0), _yard(), "a yard", "ann")
    assert analyses.change(id_, 1) is None
    designs.change(DesignState(id_, 1), _yard("Yard"), "its name", "ann")
    assert analyses.change(id_, 2) is not None
    elsewhere.change(DesignState(id_, 2), _yard("Pier"), "another name", "ben")
    designs.change(DesignState(id_, 3), _yard("Quay"), "yet another", "ann")
    assert analyses.change(id_, 4) is None


def test_an_answer_holds_so_many_findings(designs, kept, analyses, monkeypatch):
    """The worst are told, with how many there are; what a change does leads from what was told to what is told."""
    monkeypatch.setattr("pontifex.services.analyses.MOST_SHOWN", 5)
    id_ = designs.add(demo_design()).id
    before = analyses.analysis(id_).result
    whole = analyses.of(kept.get(id_))
    assert before.findings == whole.findings[:5]
    assert (before.findings_count, before.overlaps_count) == (len(whole.findings), len(whole.overlaps))
    first = analyses.remedies(id_, whole.findings[0].at)[0]
    designs.change(DesignState(id_, 0), first.operations, "mend the first", "ann")
    step = analyses.change(id_, 1)
    assert step
    told = [finding for place, finding in enumerate(before.findings) if place not in step.removed]
    for added in step.added:
        told.insert(added.place, added.finding)
    after = analyses.analysis(id_).result
    assert (tuple(told), step.findings_count) == (after.findings, after.findings_count)


def test_another_history_under_the_same_id(designs, analyses, engine):
    """After a restore from elsewhere the same revision is another state: nothing that was kept is taken for it."""
    id_ = designs.add(demo_design()).id
    seen = designs.standing(id_)
    designs.change(DesignState(id_, 0), _yard(), "a yard", "ann")
    assert "yard" in designs.get(id_).site_by_id
    repository = DesignRepository(engine)
    with engine.begin() as connection:
        connection.exec_driver_sql("DELETE FROM design")
    repository.create(demo_design())
    repository.change(DesignState(id_, 0), [put(Site(id="quay", name="Quay"))], "a quay", "ben")
    assert set(designs.get(id_).site_by_id) >= {"quay"}
    assert "yard" not in designs.get(id_).site_by_id
    assert analyses.analysis(id_).incarnation == designs.standing(id_).incarnation != seen.incarnation
    with pytest.raises(ChangeConflict) as refused:
        designs.change(seen, _yard(), "a yard", "ann")
    assert refused.value.is_other_history


def test_a_failed_check_is_logged_and_counted(designs, analyses, monkeypatch):
    """The design still has its analysis; the log has the error, and the count says that there was one."""
    monkeypatch.setattr("pontifex.core.findings.check.overlaps", lambda *_: 1 / 0)
    with structlog.testing.capture_logs() as logs:
        found = analyses.analysis(designs.add(demo_design()).id).result
    assert len(found.forecasts) == len(demo_design().tunnels)
    assert analyses.failed_checks == 1
    assert [(log["event"], log["kind"], log["check"]) for log in logs if log["log_level"] == "error"] == [
        ("check failed", "ZeroDivisionError", "collisions of networks")
    ]


def test_many_designs_are_not_all_kept(designs, kept, analyses):
    """Old designs make room for new ones and are read again when they are asked for."""
    ids = [designs.create(f"Design {k}").id for k in range(12)]
    assert [designs.get(id_).name for id_ in ids] == [f"Design {k}" for k in range(12)]
    for id_ in ids:
        analyses.analysis(id_)
    assert sum(id_ in kept for id_ in ids) == 8
    assert set(analyses._examined) == {id_ for id_ in ids if id_ in kept}


def test_a_tunnel_that_is_not_there(designs, analyses):
    """It is said by name."""
    id_ = designs.add(demo_design()).id
    with pytest.raises(TunnelNotFound, match="there is no tunnel 'none'"):
        analyses.match(id_, "none")


def test_counts_that_were_broken_off_are_kept_later(designs, kept, engine):
    """A task that is broken off while its counts are written leaves the analysis kept: whoever asks next writes them."""

    class BrokenOffOnce(DesignListing):
        """A list of which the first write is broken off."""

        tries = 0

        def examined(self, standing: DesignState, findings: int, blockers: int) -> None:
            """Keep what an analysis counted, but for the first time."""
            self.tries += 1
            if self.tries == 1:
                raise BrokenOff
            super().examined(standing, findings, blockers)

    id_ = designs.add(demo_design()).id
    listing = BrokenOffOnce(engine)
    analyses = AnalysisService(kept, listing, lambda: TODAY)
    with pytest.raises(BrokenOff):
        analyses.analysis(id_)
    for _ in range(2):
        analyses.analysis(id_)
    assert listing.tries == 2
    assert listing.summaries()[0].examined == 0
