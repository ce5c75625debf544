"""A tunnel over TLS, rehearsed: what goes between both ends, and what is let happen to it."""

from __future__ import annotations

import pytest

from pontifex.core.kinds import Side
from pontifex.core.rehearsal import Rehearsal, RehearsalConditions, rehearse
from pontifex.core.rehearsal.capture import pcapng, seen_outside
from pontifex.core.rehearsal.events import Carried, MarkKind
from pontifex.core.rehearsal.faults import parse_fault
from pontifex.core.rehearsal.told import shown_packets
from pontifex.demo import demo_design
from tests.support.designs import TODAY, with_end
from tests.support.witness import malformed

DEMO = demo_design()
EXIT = DEMO.tunnel_by_id["dock-exit"]


def _rehearsed(*faults: str, until_s: float | None = None) -> Rehearsal:
    found = rehearse(DEMO, EXIT, TODAY, RehearsalConditions(faults=[parse_fault(fault) for fault in faults], until_s=until_s))
    assert isinstance(found, Rehearsal)
    return found


def test_the_whole_course_is_told():
    """Hello, the cipher, TLS in both directions, packets as counts; it is renegotiated, and comes back after restarts."""
    found = _rehearsed()
    assert (found.outcome.up, found.outcome.agrees) == (True, True)
    told = [
        packet.message.exchange
        for packet in shown_packets(found.sent)
        if packet.message and packet.message.carries is Carried.TLS
    ]
    assert told[:3] == ["hello", "cipher taken", "TLS"]
    assert {mark.kind for mark in found.marks} >= {MarkKind.DIAL, MarkKind.UP, MarkKind.REKEY, MarkKind.RESTART}
    assert all(pair.after.passes is pair.expected for pair in found.probes)
    assert any("acknowledgement" in packet.routine for packet in shown_packets(found.sent))


def test_another_program_finds_its_packets_well_formed(tmp_path):
    """Headers and sums of each packet are right; what is in it is of a framing of our own."""
    file = tmp_path / "tls.pcapng"
    file.write_bytes(pcapng(seen_outside(_rehearsed().sent)))
    assert not malformed(file)


@pytest.mark.parametrize(
    ("faults", "said"),
    [
        (["60s restart right"], "is up at the end"),
        (["60s uplink-down left", "5m uplink-up left"], "is up at the end"),
        (["60s ports-blocked right", "5m ports-open right"], "is up at the end"),
        (["60s address-changes left"], "is up at the end"),
        (["60s key-changed left", "70s restart right"], "is down at the end"),
        (["60s clock-wrong right", "70s restart right"], "is down at the end"),
        (["60s switched-off right"], "is down at the end"),
    ],
)
def test_what_is_let_happen_is_noticed_and_mended(faults, said):
    """What comes back is dialled anew; a key or a clock that is wrong keeps it down once it is dialled."""
    assert said in _rehearsed(*faults).outcome.why


def test_however_many_networks_both_ends_have_they_agree_on_them():
    """What the ends tell of themselves may take several records of TLS."""
    many, everything = [f"2001:db8:{number:x}::/64" for number in range(250)], ["::/0"]
    design = with_end(Side.LEFT, DEMO, EXIT.id, local_networks=many, remote_networks=everything)
    design = with_end(Side.RIGHT, design, EXIT.id, local_networks=everything, remote_networks=many)
    found = rehearse(design, design.tunnel_by_id[EXIT.id], TODAY)
    assert isinstance(found, Rehearsal)
    assert (found.outcome.up, found.outcome.agrees) == (True, True), found.outcome.why


def test_each_end_keeps_to_its_own_networks():
    """What the other end's networks don't hold is neither sent nor taken."""
    narrow = with_end(Side.RIGHT, DEMO, EXIT.id, remote_networks=["172.23.0.0/28"])
    found = rehearse(narrow, narrow.tunnel_by_id[EXIT.id], TODAY)
    assert isinstance(found, Rehearsal)
    assert found.outcome.up
