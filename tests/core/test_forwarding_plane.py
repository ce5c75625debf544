"""The parts of the address space, the decisions about them as arrays, and what a change for a while leaves of both."""

from __future__ import annotations

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family
from pontifex.core.routing import Conditions, Flow, Tables
from pontifex.core.routing.all_flows.codes import BY_HAND_END, ENDS
from pontifex.core.routing.all_flows.equivalence_classes import EquivalenceClasses
from pontifex.core.routing.all_flows.forwarding_plane import ForwardingPlane
from pontifex.core.routing.all_flows.walk_outcomes import WalkOutcomes
from pontifex.core.routing.trace.decide import decide
from pontifex.core.routing.trace.flow import ANY_SERVICE
from pontifex.core.routing.trace.flow_path import End
from tests.support.designs import bare_demo
from tests.support.drawn import DRAWN, drawn_design

QUICK = settings(max_examples=30, suppress_health_check=list(HealthCheck), deadline=None)


def _decision(tables: Tables, gateway: object, source: Address, destination: Address) -> tuple[object, ...]:
    found = decide(tables, gateway, Flow(source, destination, ANY_SERVICE), Conditions())  # type: ignore[arg-type]
    return found.kind, found.tunnel and found.tunnel.id, found.uplink and found.uplink.id, found.gateway and found.gateway.id


@QUICK
@given(DRAWN[0], DRAWN[1], st.data())
def test_addresses_of_one_part_are_treated_alike(drawn, kinds, data):
    """Whatever the design holds, a gateway decides about the first and the last address of a part in the same way."""
    tables = Tables(drawn_design(drawn, kinds))
    parts = EquivalenceClasses(tables, Family.V4)
    place = data.draw(st.integers(0, len(parts) - 1))
    network = parts.networks[parts.network[place]]
    behind = [first for first in parts.firsts if first > parts.firsts[place]]
    last = min([address - 1 for address in behind] + [network.prefix.last])
    ends = [Address(Family.V4, value) for value in (parts.firsts[place], last)]
    other = Address(Family.V4, parts.firsts[data.draw(st.integers(0, len(parts) - 1))])
    for gateway in tables.design.gateways:
        assert len({_decision(tables, gateway, other, end) for end in ends}) == 1
        assert len({_decision(tables, gateway, end, other) for end in ends}) == 1


def test_parts_are_in_order_and_belong_to_the_narrowest_network():
    """Each part lies in its network, and in no narrower one of the same site; a range finds those inside of it."""
    design = bare_demo()
    parts = EquivalenceClasses(Tables(design), Family.V4)
    assert parts.firsts == sorted(parts.firsts)
    for first, place in zip(parts.firsts, parts.network.tolist(), strict=True):
        network = parts.networks[place]
        inside = [
            candidate
            for candidate in design.networks_of_site(network.site_id)
            if candidate.prefix.holds(Address(Family.V4, first))
        ]
        assert max(inside, key=lambda network: network.prefix.length).prefix == network.prefix
    staff = design.network_by_id["harbour-staff"].prefix
    found = parts.within(staff.network, staff.last)
    assert all(staff.network <= first <= staff.last for first in parts.firsts[found])
    assert found.stop - found.start == sum(staff.network <= first <= staff.last for first in parts.firsts)


def _walked(plane: ForwardingPlane) -> WalkOutcomes:
    outcomes = WalkOutcomes(plane.codes, len(plane.parts))
    plane.walk(outcomes, plane.all_pairs())
    return outcomes


@QUICK
@given(DRAWN[0], DRAWN[1], st.sampled_from(["harbour-ostvik", "harbour-brenna", "harbour-basalt", "x1"]))
def test_conditions_for_a_while_leave_nothing_behind(drawn, kinds, down):
    """Under other conditions a plane walks as one made for them; afterwards it walks as before."""
    design = drawn_design(drawn, kinds)
    tables, during = Tables(design), Conditions.of(design, frozenset({down}))
    parts = EquivalenceClasses(tables, Family.V4)
    plane = ForwardingPlane(tables, parts, Conditions.of(design), ANY_SERVICE)
    before = _walked(plane)
    tunnel = design.tunnel_by_id[down]
    with plane.changed(during, frozenset({down}), {tunnel.left.gateway_id, tunnel.right.gateway_id}):
        meanwhile = _walked(plane)
    anew = _walked(ForwardingPlane(tables, parts, during, ANY_SERVICE))
    after = _walked(plane)
    pairs = plane.all_pairs()
    assert np.array_equal(meanwhile.ends[pairs], anew.ends[pairs])
    assert np.array_equal(after.ends[pairs], before.ends[pairs])


def test_pairs_turn_round_and_walks_end():
    """Every ordered pair of two parts is there once, turns into its counterpart, and ends in one of the ways there are."""
    design = bare_demo()
    parts = EquivalenceClasses(Tables(design), Family.V4)
    plane = ForwardingPlane(Tables(design), parts, Conditions.of(design), ANY_SERVICE)
    pairs = plane.all_pairs()
    size = len(parts)
    assert len(set(pairs.tolist())) == size * (size - 1)
    assert np.array_equal(plane.turned(plane.turned(pairs)), pairs)
    assert all(
        divmod(pair, size) == divmod(turned, size)[::-1]
        for pair, turned in zip(pairs[:50], plane.turned(pairs)[:50], strict=True)
    )
    ends = set(_walked(plane).ends[pairs].tolist())
    assert ends <= set(range(len(ENDS))) | {int(BY_HAND_END)}
    assert ENDS.index(End.ARRIVES) in ends
