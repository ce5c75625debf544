"""Plans rehearsed step by step: what the forecast proves of each state, real packets show."""

from __future__ import annotations

import json

import pytest
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.design_file import write_design_file
from pontifex.core.handover.plan import ChangePlan, change_plan
from pontifex.core.kinds import ObjectType, Side
from pontifex.core.model import Design, Remove, apply_operations
from pontifex.core.rehearsal import NotRehearsed, Rehearsal, planned_states, rehearse_plan
from pontifex.core.rehearsal.events import MarkKind
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY, with_end

DEMO = demo_design()
SOUND_TUNNEL = DEMO.tunnel_by_id[SOUND]


def _walked(before: Design, after: Design) -> tuple[ChangePlan, Rehearsal]:
    plan = change_plan(before, after, TODAY)
    found = rehearse_plan(planned_states(before, after, plan, SOUND), SOUND, TODAY)
    assert isinstance(found, Rehearsal), found
    return plan, found


def _steps(found: Rehearsal) -> list[str]:
    return [mark.text.split(":")[0] for mark in found.marks if mark.kind is MarkKind.STEP]


def test_proposals_are_migrated_without_a_lost_ping():
    """Four steps, each dialled anew: the new beside the old, and the old gone; at no step anything is lost."""
    other = DEMO.tunnel_by_id["harbour-corvina"].right.ike_proposals[1:]
    first = SOUND_TUNNEL.right.ike_proposals[:1]
    old = with_end(Side.LEFT, with_end(Side.RIGHT, ike_proposals=first), ike_proposals=first)
    new = with_end(Side.LEFT, with_end(Side.RIGHT, old, ike_proposals=other), ike_proposals=other)
    plan, found = _walked(old, new)
    assert plan.proved
    assert len(_steps(found)) == 4
    assert found.outcome.up
    assert "Every ping passed" in found.outcome.why


def test_a_key_that_is_changed_end_by_end_is_missed_for_a_step():
    """Between its two steps the keys differ, and pings are lost, as the plan says; then the tunnel is back."""
    key = DEMO.tunnel_by_id["harbour-corvina"].left.key
    plan, found = _walked(DEMO, with_end(Side.LEFT, with_end(Side.RIGHT, key=key), key=key))
    assert [(outage.from_step, outage.until_step) for outage in plan.outages][:1] == [(1, 2)]
    lost, back = ([mark.at_s for mark in found.marks if mark.text == text] for text in ("pings are lost", "pings pass again"))
    (first, second) = (mark.at_s for mark in found.marks if mark.kind is MarkKind.STEP)
    assert first <= lost[0] < second <= back[-1]
    assert found.outcome.up


@pytest.mark.parametrize("is_new", [True, False])
def test_a_tunnel_comes_and_goes_by_its_steps(is_new):
    """A new one is up at the end, one that is taken down isn't; before and after that there is nothing."""
    gone = apply_operations(DEMO, [Remove(type=ObjectType.TUNNEL, id=SOUND, cascade=True)])
    _, found = _walked(*((gone, DEMO) if is_new else (DEMO, gone)))
    assert found.outcome.up is is_new
    ups = [mark.at_s for mark in found.marks if mark.kind is MarkKind.UP]
    assert (min(ups) > 60) is is_new


def test_what_no_rehearsal_knows_is_told():
    """A tunnel that the plan doesn't have, and a peering of clouds."""
    plan = change_plan(DEMO, DEMO, TODAY)
    for tunnel_id in ("nowhere", "basalt-gneiss"):
        assert isinstance(rehearse_plan(planned_states(DEMO, DEMO, plan, tunnel_id), tunnel_id, TODAY), NotRehearsed)


def test_the_command_walks_a_plan(tmp_path):
    """Exit 0 where the tunnel is up at the end; what is let happen besides is refused."""
    old, new = tmp_path / "old.json", tmp_path / "new.json"
    old.write_text(write_design_file(DEMO))
    new.write_text(write_design_file(with_end(Side.LEFT, with_end(Side.RIGHT, dead_peer_s=45), dead_peer_s=45)))
    run = CliRunner().invoke
    found = run(app, ["rehearse", str(new), SOUND, "--from", str(old), "--json"])
    assert (found.exit_code, json.loads(found.stdout)["up"]) == (0, True)
    assert run(app, ["rehearse", str(new), SOUND, "--from", str(old), "--fault", "30s restart left"]).exit_code == 2
