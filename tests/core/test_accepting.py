"""Findings that are accepted until a day, and several that are mended by one change."""

from __future__ import annotations

from datetime import date, timedelta

from pontifex.core.findings import AnalysisCache, analyse, mended_together
from pontifex.core.findings.finding import Finding
from pontifex.core.kinds import Acceptance
from pontifex.core.model import Design, Remove, apply_operations, put
from pontifex.demo import demo_design
from tests.support.designs import TODAY

DEMO = demo_design()


def accepted(finding: Finding, until: date) -> Acceptance:
    place = finding.where[0]
    fields = {"code": finding.code, "at_type": place.type, "at_id": place.id, "at_field": place.field, "until": until}
    return Acceptance.model_validate({"id": "lived-with", "name": "lived with", "reason": "until the dock is rebuilt", **fields})


def found_in(design: Design, like: Finding) -> Finding:
    return next(finding for finding in analyse(design, TODAY).findings if finding.key == like.key)


def test_what_is_accepted_is_told_as_such_and_due_again_after_its_day():
    """Each finding of the demo is accepted on its last day and due on the next; nothing else is changed by that."""
    findings = analyse(DEMO, TODAY).findings
    for finding in findings:
        for until, holds in ((TODAY, True), (TODAY - timedelta(days=1), False)):
            living = apply_operations(DEMO, [put(accepted(finding, until))])
            told = found_in(living, finding)
            assert told.accepted is not None
            assert told.accepted.holds is holds
            others = [candidate for candidate in analyse(living, TODAY).findings if candidate.accepted is None]
            assert [other.key for other in others] == [candidate.key for candidate in findings if candidate.key != finding.key]
    gone = apply_operations(living, [Remove(type="acceptance", id="lived-with")])
    assert gone.acceptances == ()


def test_mending_together_mends_each_and_undoes_none():
    """All findings of the demo with a remedy, by one change: none of them is there afterwards, as one by one."""
    memory = AnalysisCache()
    mendable = [finding for finding in analyse(DEMO, TODAY, memory).findings if finding.mendable]
    change, count = mended_together(DEMO, [finding.at for finding in mendable], TODAY, memory)
    after = {finding.key for finding in analyse(apply_operations(DEMO, change.forward), TODAY).findings}
    left = [candidate.key for candidate in mendable if candidate.key in after]
    assert count >= len(mendable) / 2
    assert len(left) <= len(mendable) - count


def test_remedies_of_one_object_do_not_overwrite_each_other():
    """Two findings at one tunnel, each mended by a put of that tunnel: together both are gone."""
    memory = AnalysisCache()
    told = analyse(DEMO, TODAY, memory).findings
    at_tarn = [finding for finding in told if finding.where[0].id == "harbour-tarn" and finding.mendable]
    assert len(at_tarn) >= 2
    change, _ = mended_together(DEMO, [finding.at for finding in at_tarn], TODAY, memory)
    after = {finding.key for finding in analyse(apply_operations(DEMO, change.forward), TODAY).findings}
    assert not [candidate.key for candidate in at_tarn[:2] if candidate.key in after]
