"""What a person is shown of two ends: ladders, questions to whoever runs the other end, and how to change a key."""

from __future__ import annotations

from pontifex.core.kinds import Side
from pontifex.core.matching import match
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY, with_end

LEFT, RIGHT = Side


def test_the_ladders_show_which_rungs_meet():
    """Each pair of proposals that meets is a line between the ladders; the chosen one is marked, or else the nearest."""
    shown = match(demo_design(), demo_design().tunnel_by_id[SOUND], TODAY)
    ladder = next(row.ladder for row in shown.rows if row.ladder)
    assert ladder
    assert ladder.chosen
    assert [(rung.left, rung.right) for rung in ladder.meeting] == [(0, 0)]
    assert (ladder.chosen.left, ladder.chosen.right, ladder.nearest) == (0, 0, None)
    tarn = match(demo_design(), demo_design().tunnel_by_id["harbour-tarn"], TODAY)
    ladder = next(row.ladder for row in tarn.rows if row.ladder)
    assert ladder
    assert (ladder.meeting, ladder.chosen, ladder.unmet) == ((), None, ("ENCR", "PRF", "INTEG", "KE"))


def test_what_is_not_known_is_asked_for_and_keys_never_are():
    """The questions name what is unknown at an end, with our own value where that helps; no list asks for a key."""
    design = with_end(RIGHT, local_identity=None, key=None, remote_networks=[])
    questions = match(design, design.tunnel_by_id[SOUND], TODAY).questions
    assert questions.left.count("\n") < questions.right.count("\n")
    assert "(We have: fqdn ostvik.skerry.example)" in questions.right
    assert "(We have: 10.64.0.0/22; 10.64.8.0/23)" in questions.right
    assert "never send the key with this list" in questions.right
    planned = match(demo_design(), demo_design().tunnel_by_id["aurelia-corvina"], TODAY).questions
    assert "MV Corvina" in planned.right
    assert planned.right.count("?") >= 10


def test_a_key_is_changed_in_an_order():
    """The plan enters the new key at the waiting end first, and names the window."""
    steps = match(demo_design(), demo_design().tunnel_by_id[SOUND], TODAY).rotation
    assert "Enter it at Harbour House first" in [step.title for step in steps]
    design = with_end(RIGHT, reauthenticate=True)
    steps = match(design, design.tunnel_by_id[SOUND], TODAY).rotation
    assert any("The window is at most 240 min" in step.why for step in steps)
