"""A site that nobody can call: its own call is all there is, and what it is made of is told."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.catalogue import Code
from pontifex.core.kinds import AddressKind, Role, Side
from pontifex.core.matching import TunnelEnds, compare, match, row_remedies
from pontifex.core.matching.reversed_call import caller_alone, expected_round_trip_ms
from pontifex.core.model import Design, apply_operations
from tests.support.designs import TODAY, tunnels_alone, with_end, with_uplink

VESSEL = "harbour-aurelia"  # behind a carrier's NAT, at the right end
CALLING = with_end(Side.RIGHT, None, VESSEL, role=Role.CALL)


def _facts(design: Design) -> dict[str, tuple[str, bool]]:
    found = match(design, design.tunnel_by_id[VESSEL], TODAY)
    return {fact.title: (str(fact.says), fact.is_sound) for fact in found.call}


def _codes(design: Design) -> set[Code]:
    ends = TunnelEnds(design, design.tunnel_by_id[VESSEL], TODAY)
    return {row.code for row in compare(ends) if row.code}


@given(
    left=st.sampled_from(AddressKind),
    right=st.sampled_from(AddressKind),
    left_arrives=st.booleans(),
    right_arrives=st.booleans(),
)
def test_one_end_alone_can_call_where_the_other_alone_can_be_called(left, right, left_arrives, right_arrives):
    """By the table: a call arrives where UDP does, and never through a carrier's NAT."""
    design = with_uplink("harbour-fibre", None, address_kind=left, inbound_ike=left_arrives)
    design = with_uplink("aurelia-lte", design, address_kind=right, inbound_ike=right_arrives)
    left_open = left_arrives and left is not AddressKind.CARRIER_NAT
    right_open = right_arrives and right is not AddressKind.CARRIER_NAT
    expected = None if left_open == right_open else Side.RIGHT if left_open else Side.LEFT
    assert caller_alone(TunnelEnds(design, design.tunnel_by_id[VESSEL], TODAY)) is expected


def test_what_a_call_is_made_of():
    """Who, over what, what keeps it alive, after restarts, the inner address, and the round trip to expect."""
    facts = _facts(CALLING)
    assert facts["Who can call"] == ("Only MV Aurelia can call, over UDP 500 and 4500, and does; nobody can call it.", True)
    assert facts["What keeps it alive"] == ("MV Aurelia speaks before the NAT forgets.", True)
    assert facts["With its machine"][0].startswith("MV Aurelia is taken to call whenever its device starts")
    assert facts["Its inner address"][0].startswith("MV Aurelia has no inner address")
    assert facts["Round trip"] == ("About 152 ms are to be expected; measure it once it is up.", True)  # 2 × (6 + 70)
    waits = _facts(tunnels_alone())
    assert waits["Who can call"][0].endswith("and it waits; nobody can call it.")
    assert not waits["Who can call"][1]
    assert "Who can call" not in {fact.title for fact in match(CALLING, CALLING.tunnel_by_id["harbour-ostvik"], TODAY).call}


def test_an_inner_address_is_proposed_where_routes_lead_into_the_tunnel():
    """Beside those of other tunnels, free, and of one network at both ends; a tunnel by policy has no use for one."""
    design = tunnels_alone()
    facts = {fact.title: fact for fact in match(design, design.tunnel_by_id["dock-exit"], TODAY).call}
    (proposed,) = facts["Its inner address"].remedies
    after = apply_operations(design, proposed.operations)
    tunnel = after.tunnel_by_id["dock-exit"]
    assert [str(end.inner_address) for end in (tunnel.left, tunnel.right)] == ["10.95.0.9/30", "10.95.0.10/30"]
    told = {fact.title: fact for fact in match(after, tunnel, TODAY).call}["Its inner address"]
    assert not told.remedies
    assert str(told.says).startswith("Dry Dock is always 10.95.0.9/30")
    by_policy = {fact.title: fact for fact in match(design, design.tunnel_by_id[VESSEL], TODAY).call}
    assert not by_policy["Its inner address"].remedies


def test_a_call_that_does_not_begin_by_itself_is_told_and_mended():
    """It works until the device is started anew; the remedy lets it call whenever it starts."""
    design = with_end(Side.RIGHT, CALLING, VESSEL, starts_at_boot=False)
    ends = TunnelEnds(design, design.tunnel_by_id[VESSEL], TODAY)
    (row,) = [row for row in compare(ends) if row.code is Code.REACH_NOT_AT_BOOT]
    assert row.stage.value == "restart"
    mended = apply_operations(design, row_remedies(ends, row)[0].operations)
    assert Code.REACH_NOT_AT_BOOT not in _codes(mended)
    assert _facts(mended)["With its machine"] == ("MV Aurelia calls whenever its device starts.", True)


@pytest.mark.parametrize(
    ("measured", "told", "says"),
    [
        (150, set(), "It takes 150 ms, where about 152 ms were to be expected."),
        (320, set(), "It takes 320 ms, where about 152 ms were to be expected."),
        (330, {Code.REACH_ROUND_TRIP}, "It takes 330 ms, and about 152 ms were to be expected: the way is another one."),
    ],
)
def test_a_round_trip_is_compared_with_what_was_to_be_expected(measured, told, says):
    """Up to twice as long and a little is as expected."""
    design = with_end(Side.LEFT, CALLING, VESSEL, round_trip_ms=measured)
    assert _codes(design) & {Code.REACH_ROUND_TRIP} == told
    assert _facts(design)["Round trip"] == (says, not told)


def test_without_delays_nothing_is_expected():
    """What isn't known isn't taken for nothing."""
    design = with_uplink("aurelia-lte", CALLING, delay_ms=None)
    assert expected_round_trip_ms(TunnelEnds(design, design.tunnel_by_id[VESSEL], TODAY)) is None
    assert "nobody can say how long it takes" in _facts(design)["Round trip"][0]
