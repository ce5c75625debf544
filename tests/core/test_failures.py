"""One check that fails never takes the others down."""

from __future__ import annotations

from dataclasses import replace
from typing import NoReturn

import pytest

from pontifex.core.as_json import json_octets
from pontifex.core.catalogue import Code
from pontifex.core.failures import FailedCheck
from pontifex.core.findings import AnalysisCache, analyse, check, tunnels
from pontifex.core.kinds import Technology
from pontifex.core.matching import StageState, TunnelEnds, Verdict, compare, forecast
from pontifex.core.matching.rows import ROWS
from pontifex.core.reasons.unknown import NotComparable
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY


def _broken(*_: object, **__: object) -> NoReturn:
    raise IndexError("secret-looking text")


def test_a_row_that_fails_says_so_and_the_others_stand(monkeypatch):
    """An error in one row is that row's alone: it is named with its kind, the forecast is not known there, and no text leaks."""
    design = demo_design()
    tunnel = design.tunnel_by_id[SOUND]
    whole = compare(TunnelEnds(design, tunnel, TODAY))
    specs = tuple(replace(spec, judge=_broken) if spec.key == "ike-proposals" else spec for spec in ROWS[Technology.IPSEC_IKEV2])
    monkeypatch.setitem(ROWS, Technology.IPSEC_IKEV2, specs)
    pair = TunnelEnds(design, tunnel, TODAY)
    rows = compare(pair)
    assert len(rows) == len(whole)
    (failed,) = [row for row in rows if row.code == Code.ANALYSIS_CHECK_FAILED]
    assert failed.verdict is Verdict.UNKNOWN
    assert failed.reason == NotComparable("IndexError")
    assert [failure.kind for failure in pair.failures.found] == ["IndexError"]
    assert forecast(tunnel, rows).state is StageState.UNKNOWN
    assert failed.key == "ike-proposals"


@pytest.mark.parametrize(
    ("module", "name", "about"),
    [
        (tunnels, "telling_rows", "tunnel"),
        (tunnels, "key_prints", "tunnel"),
        *((tunnels.TUNNEL_CHECKS, name, "tunnel") for name in tunnels.TUNNEL_CHECKS),
        (check, "network_findings", "settings"),
        (check, "between_findings", "settings"),
        (check, "crossings_of", "settings"),
        (check, "overlaps", "settings"),
        *((check.PATH_CHECKS, name, "settings") for name in check.PATH_CHECKS),
    ],
)
def test_a_check_that_fails_is_a_finding_at_its_object(monkeypatch, module, name, about):
    """Whatever check breaks, the design opens, each tunnel has a forecast, and the failed check is named, told and not hidden."""
    sound = analyse(demo_design(), TODAY)
    if isinstance(module, dict):
        monkeypatch.setitem(module, name, _broken)
    else:
        monkeypatch.setattr(module, name, _broken)
    told: list[FailedCheck] = []
    found = analyse(demo_design(), TODAY, AnalysisCache(), told.append)
    failed = [finding for finding in found.findings if finding.code == Code.ANALYSIS_CHECK_FAILED]
    assert {finding.where[0].type.value for finding in failed} == {about}
    assert len(told) == len(failed) > 0
    assert "secret-looking" not in json_octets(found).decode()
    assert [foretold.tunnel_id for foretold in found.forecasts] == [foretold.tunnel_id for foretold in sound.forecasts]
    waiting = {Code.CLOUD_ANSWER_BLOCKED}  # behind a tunnel whose troubles aren't known now
    told_before = {finding.code for finding in sound.findings} | waiting
    assert {finding.code for finding in found.findings} - {Code.ANALYSIS_CHECK_FAILED} <= told_before
