"""Peerings of clouds, rehearsed: for every state of both accounts, what comes of it and what was forecast."""

from __future__ import annotations

from itertools import product

import pytest

from pontifex.core.addressing import parse_prefix
from pontifex.core.model import Design
from pontifex.core.rehearsal import NotRehearsed, Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.faults import parse_fault
from pontifex.demo import demo_design
from tests.support.designs import TODAY

_DAY_S = 86_400.0


def _peering(left: bool | None, right: bool | None, *, on: bool = True) -> Design:
    design = demo_design()
    before = design.tunnel_by_id["basalt-gneiss"]
    ends = before.left.changed(peering_agreed=left), before.right.changed(peering_agreed=right, enabled=on)
    changed = before.changed(left=ends[0], right=ends[1])
    return design.changed(tunnels=tuple(changed if tunnel.id == before.id else tunnel for tunnel in design.tunnels))


def _rehearsed(design: Design, under: RehearsalConditions | None = None) -> Rehearsal | NotRehearsed:
    return rehearse(design, design.tunnel_by_id["basalt-gneiss"], TODAY, under or RehearsalConditions())


@pytest.mark.parametrize(("left", "right", "on"), list(product((True, False), (True, False), (True, False))))
def test_what_comes_of_it_was_forecast(left, right, on):
    """It stands where both agree and are switched on; in seven days a request that nobody accepts is over."""
    found = _rehearsed(_peering(left, right, on=on))
    assert isinstance(found, Rehearsal)
    assert found.outcome.agrees
    assert found.outcome.up is (left and right and on)
    asked = left or (right and on)
    assert (found.lasted_s > 7 * _DAY_S) is (asked and not found.outcome.up)
    assert bool(found.logs) is asked


def test_what_is_not_known_or_refused_is_told():
    """An answer that nobody has told, blocks that overlap, and faults, of which there are none here."""
    unknown = _rehearsed(_peering(True, None))
    assert isinstance(unknown, NotRehearsed)
    design = _peering(True, True)
    shared = parse_prefix("10.80.0.0/16")
    overlapping = design.changed(cloud_networks=tuple(network.changed(blocks=(shared,)) for network in design.cloud_networks))
    refused = _rehearsed(overlapping)
    assert isinstance(refused, NotRehearsed)
    assert "10.80.0.0/16" in refused.reasons[0]
    assert isinstance(_rehearsed(design, RehearsalConditions(faults=[parse_fault("30s restart left")])), NotRehearsed)
