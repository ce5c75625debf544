"""What an end does that the other can't see: whether it cuts messages, follows an address, forgets old SAs, and calls again."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from cryptography import x509

from pontifex.core.ike.effects import IkeMoved
from pontifex.core.kinds import InitialContact, Role, Side
from pontifex.core.matching import Stage
from pontifex.core.model import Design
from pontifex.core.rehearsal import NotRehearsed, Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.events import MarkKind
from pontifex.core.rehearsal.faults import parse_fault
from tests.rehearsal.designs import certified
from tests.support.certificates import ISSUING, KEYS, OSTVIK, issue
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, PairData, design_of

_NAMES = [OSTVIK, *(x509.DNSName(f"gate-{number}.skerry.example") for number in range(60))]
LARGE = issue("gate", "Skerry Issuing", KEYS["gate"], KEYS["issuing"], names=_NAMES)


def _with(design: Design, left: dict[str, Any], right: dict[str, Any]) -> Design:
    tunnel = design.tunnels[0]
    ends = {"left": tunnel.left.with_valid(left), "right": tunnel.right.with_valid(right)}
    return design.changed(tunnels=(tunnel.with_valid(ends),))


def _dialled(design: Design, *faults: str) -> Rehearsal:
    under = RehearsalConditions(faults=tuple(map(parse_fault, faults)), until_s=600) if faults else RehearsalConditions()
    found = rehearse(design, design.tunnels[0], TODAY, under)
    assert isinstance(found, Rehearsal), found
    return found


def _large(left: bool | None, right: bool | None, passes: bool) -> Design:
    """A tunnel whose caller shows a certificate that no single packet takes."""
    design = _with(certified(), {"certificates": (LARGE, ISSUING), "fragmentation": left}, {"fragmentation": right})
    return design.changed(uplinks=tuple(uplink.changed(fragments_pass=passes) for uplink in design.uplinks))


@pytest.mark.parametrize(
    ("left", "right", "passes", "stage"),
    [
        (True, True, False, None),
        (True, False, False, Stage.AUTH),
        (False, True, False, Stage.AUTH),
        (False, False, True, None),
        (None, None, True, None),
    ],
)
def test_certificates_that_do_not_fit_are_forecast(left, right, passes, stage):
    """Both ends cut them, or IP does and its fragments pass; else nothing comes after IKE_SA_INIT."""
    found = _dialled(_large(left, right, passes))
    assert (found.outcome.stopped_at, found.outcome.agrees) == (stage, True), found.outcome.why


def test_whether_messages_are_cut_is_asked_where_it_decides():
    """Nobody has said, and they don't fit: it is a question; where they fit it is none."""
    design = _large(None, True, passes=False)
    asked = rehearse(design, design.tunnels[0], TODAY)
    assert isinstance(asked, NotRehearsed)
    small = certified()
    small = small.changed(uplinks=tuple(uplink.changed(fragments_pass=False) for uplink in small.uplinks))
    assert _dialled(small).outcome.agrees


def _moving(mobike: bool) -> Design:
    right: dict[str, Any] = {"peer": "any", "role": "wait", "name": "gate.right.example"}
    pair = PairData(
        *(replace(end, **more) for end, more in ((AGREED.left, {"peer": "gate.right.example"}), (AGREED.right, right)))
    )
    return _with(design_of(pair), {"mobike": mobike}, {"mobike": mobike})


@pytest.mark.parametrize("side", ["left", "right"])
def test_a_tunnel_goes_on_when_an_address_changes_where_both_ends_can(side):
    """With MOBIKE no ping is lost, whichever end moves; without it the tunnel is lost until it is noticed."""
    follows, breaks = (_dialled(_moving(mobike), f"60s address-changes {side}") for mobike in (True, False))
    assert any(isinstance(effect, IkeMoved) for _, effect in follows.effects)
    assert not any(mark.kind in (MarkKind.DOWN, MarkKind.PROBE) for mark in follows.marks)
    assert any(mark.kind is MarkKind.DOWN for mark in breaks.marks)
    assert breaks.outcome.up


@pytest.mark.parametrize("habit", list(InitialContact))
def test_what_is_left_over_of_a_caller_is_forgotten_or_kept(habit):
    """After a restart of the caller the other end has one IKE SA, or two until nobody answers by the old one."""
    quiet: dict[str, Any] = {"dead_peer_s": 0}
    design = _with(
        design_of(PairData(AGREED.left, replace(AGREED.right, role="wait"))), quiet, quiet | {"initial_contact": habit}
    )
    found = _dialled(design, "60s restart left")
    forgotten = [line for line in found.logs if line.side is Side.RIGHT and "no other" in line.text]
    assert bool(forgotten) is (habit is InitialContact.FORGETS)
    assert found.outcome.up


@pytest.mark.parametrize("again", [True, False])
@pytest.mark.parametrize("role", [Role.CALL, Role.ON_TRAFFIC])
def test_whether_somebody_calls_again_is_forecast(again, role):
    """An end that calls once leaves the tunnel down after a restart of the other one; traffic makes it call that waits for it."""
    pair = PairData(replace(AGREED.left, role=role.value), replace(AGREED.right, role="wait"))
    found = _dialled(_with(design_of(pair), {"calls_again": again}, {}))
    stage = None if again or role is Role.ON_TRAFFIC else Stage.RESTART
    assert (found.outcome.stopped_at, found.outcome.agrees) == (stage, True), found.outcome.why
