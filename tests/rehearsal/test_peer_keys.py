"""A tunnel with static peer keys, rehearsed: what goes between both ends, and what is let happen to it."""

from __future__ import annotations

import pytest

from pontifex.core.kinds import Side
from pontifex.core.model import Design
from pontifex.core.rehearsal import Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.capture import pcapng, seen_outside
from pontifex.core.rehearsal.events import Carried, MarkKind
from pontifex.core.rehearsal.faults import parse_fault
from pontifex.core.rehearsal.told import shown_packets
from tests.support.designs import TODAY, with_end
from tests.support.witness import malformed
from tests.truth.peer_key_ends import agreed_design

AGREED = agreed_design()
OTHER_KEY = "b3RoZXIuLi4uLi4uLi4uLi4uLi4uLi4uLi4uLi4uLi4="


def _rehearsed(*faults: str, design: Design = AGREED) -> Rehearsal:
    found = rehearse(design, design.tunnels[0], TODAY, RehearsalConditions(faults=[parse_fault(fault) for fault in faults]))
    assert isinstance(found, Rehearsal)
    return found


def test_the_whole_course_is_told():
    """One call, one answer, packets as counts; after each restart there is a new session, with new keys."""
    found = _rehearsed()
    assert found.outcome.up
    course = rehearse(AGREED, AGREED.tunnels[0], TODAY)
    assert isinstance(course, Rehearsal)
    assert (course.outcome.up, course.outcome.agrees) == (True, True), course.outcome.why
    told = [
        packet.message.exchange
        for packet in shown_packets(course.sent)
        if packet.message and packet.message.carries is Carried.PEER_KEYS
    ]
    assert told[:2] == ["call", "answer"]
    assert {mark.kind for mark in course.marks} >= {MarkKind.DIAL, MarkKind.UP, MarkKind.RESTART}
    assert all(pair.after.passes is pair.expected for pair in course.probes)


def test_another_program_finds_its_packets_well_formed(tmp_path):
    """Headers and sums of each packet are right; what is in it is of a framing of our own."""
    file = tmp_path / "peer-keys.pcapng"
    file.write_bytes(pcapng(seen_outside(_rehearsed().sent)))
    assert not malformed(file)


@pytest.mark.parametrize(
    ("faults", "said"),
    [
        (["60s restart right"], "is up at the end"),
        (["60s restart left"], "is up at the end"),
        (["60s uplink-down left", "5m uplink-up left"], "is up at the end"),
        (["60s ports-blocked right", "5m ports-open right"], "is up at the end"),
        (["60s address-changes left"], "is up at the end"),
        (["60s clock-wrong right", "70s restart right"], "is up at the end"),
        (["60s key-changed left", "70s restart right"], "is down at the end"),
        (["60s switched-off right"], "is down at the end"),
    ],
)
def test_what_is_let_happen_is_noticed_and_mended(faults, said):
    """An end that roams is answered where it is; what was lost is called anew; another key keeps it down."""
    assert said in _rehearsed(*faults).outcome.why


@pytest.mark.parametrize(
    ("side", "changed", "says"),
    [
        (
            Side.RIGHT,
            {"peer_public_key": OTHER_KEY},
            "its public key isn't that of the peer",
        ),
        (Side.LEFT, {"peer_public_key": OTHER_KEY}, "isn't sealed for this end's key"),
        (Side.RIGHT, {"remote_networks": ["10.77.0.0/24"]}, "neither end takes what the other one sends"),
        (Side.RIGHT, {"port": 7000}, "The other end doesn't answer"),
    ],
)
def test_what_stops_it_is_told(side, changed, says):
    """Each fault stops the call where the forecast says, in words of the log."""
    design = with_end(side, AGREED, "t", **changed)
    found = rehearse(design, design.tunnels[0], TODAY)
    assert isinstance(found, Rehearsal)
    assert found.outcome.agrees
    assert says in found.outcome.why
