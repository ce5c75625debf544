"""Plans of a change: every state between is held against forecast and trace, and small plans against every other order."""

from __future__ import annotations

from collections.abc import Iterator
from functools import reduce
from itertools import permutations

import pytest
from hypothesis import given, settings

from pontifex.core.addressing import parse_prefix
from pontifex.core.addressing.address import parse_address_value
from pontifex.core.addressing.dhcp_routes import parse_dhcp_routes
from pontifex.core.handover.plan import ChangePlan, change_plan
from pontifex.core.handover.plan.entries import ENTERED, entries
from pontifex.core.handover.plan.entry import Action, Entry, written
from pontifex.core.handover.plan.leftovers import leftovers
from pontifex.core.handover.plan.plan import with_paper
from pontifex.core.handover.plan.standing import pair_key
from pontifex.core.kinds import KINDS, Filter, Member, MemberType, Network, ObjectType, PrefixList, Role, Side
from pontifex.core.matching import GatewayTunnels, StageState, TunnelEnds, compare, forecast
from pontifex.core.model import Design, Remove, RenumberNetwork, apply_operations, put
from pontifex.core.model.references import references
from pontifex.core.routing import Conditions, Reach, Tables, failing_tunnels
from pontifex.core.routing.wanted.intents import IntentTraces
from pontifex.demo import demo_design
from tests.support.designs import SOUND, TODAY
from tests.support.revisions import DEMO, REVISIONS

_WORKS = {StageState.HOLDS: 2, StageState.PARTIAL: 2, StageState.FAILS_LATER: 1}


def _works(state: Design, intents: Design) -> dict[object, int]:
    """Return what works in a state, from scratch: how well each tunnel does, and the pairs that are met."""
    named = [intent for intent in intents.intents if all(id_ in state.by_type[type_] for _, type_, id_ in references(intent))]
    state = state.changed(intents=tuple(named))
    together = GatewayTunnels(state)
    found: dict[object, int] = {}
    for tunnel in state.tunnels:
        rows = compare(TunnelEnds(state, tunnel, TODAY), together.neighbours(tunnel))
        found[tunnel.id] = _WORKS.get(forecast(tunnel, rows).state, 0)
    traces = IntentTraces(Tables(state), Conditions.of(state, failing=failing_tunnels(state, TODAY)))
    for want in traces.all:
        key = pair_key(want)
        found[key] = min(found.get(key, 1), int(traces.reach(want)[0] is Reach.REACHES))
    return found


def _kept(before: Design, after: Design) -> dict[object, int]:
    was, is_ = _works(before, before), _works(after, before)
    return {what: level for what in was if (level := min(was[what], is_.get(what, 0)))}


def _lost(kept: dict[object, int], state: Design, before: Design) -> int:
    now = _works(state, before)
    return sum(now.get(what, 0) < level for what, level in kept.items())


def _states(before: Design, after: Design, plan: ChangePlan) -> Iterator[Design]:
    """Yield the state after each step, by its writes alone."""
    state = with_paper(before, after)
    for step in plan.steps:
        if step.action:
            kind, _, id_ = step.about.partition("/")
            state = written(state, Entry(0, step.device, step.action, (ObjectType(kind), id_), step.writes))
        yield state


@settings(max_examples=25)
@given(REVISIONS)
def test_every_state_of_a_plan_is_as_it_says(revisions):
    """What works before and after works after each step, but for what the step itself says is lost; the last is the design."""
    before, after = revisions.before, revisions.after
    plan = change_plan(before, after, TODAY)
    kept = _kept(before, after)
    last = with_paper(before, after)
    for step, state in zip(plan.steps, _states(before, after, plan), strict=True):
        assert len(step.down) == _lost(kept, state, before)
        last = state
    assert plan.proved is not any(step.down for step in plan.steps)
    for kind in KINDS:
        if kind.name in ENTERED:
            assert getattr(last, kind.members) == getattr(after, kind.members)
    saved = {step.device.id for step in plan.steps if step.action is None}
    assert saved == {step.device.id for step in plan.steps if step.device.type is ObjectType.GATEWAY}


@settings(max_examples=25)
@given(REVISIONS)
def test_no_other_order_of_a_small_plan_breaks_less(revisions):
    """All orders of up to five entries are tried from scratch: none has less of an outage."""
    before, after = revisions.before, revisions.after
    made = entries(before, after)
    if not 2 <= len(made) <= 5:
        return
    start, kept = with_paper(before, after), _kept(before, after)
    costs: dict[frozenset[int], int] = {}

    def cost(order: tuple[Entry, ...]) -> int:
        total = 0
        for length in range(1, len(order)):
            key = frozenset(entry.place for entry in order[:length])
            if key not in costs:
                costs[key] = _lost(kept, reduce(written, order[:length], start), before)
            total += costs[key]
        return total

    allowed = (
        order
        for order in permutations(made)
        if all(entry.after <= {candidate.place for candidate in order[:place]} for place, entry in enumerate(order))
    )
    plan = change_plan(before, after, TODAY)
    assert plan.is_least
    assert sum(len(step.down) for step in plan.steps) == min(map(cost, allowed))


def _both(design: Design, **fields: object) -> Design:
    tunnel = design.tunnel_by_id[SOUND]
    for side in Side:
        tunnel = tunnel.with_valid({side.value: tunnel.end(side).with_valid(fields)})
    return design.changed(tunnels=tuple(tunnel if candidate.id == SOUND else candidate for candidate in design.tunnels))


def _actions(plan: ChangePlan) -> list[tuple[Action | None, str]]:
    return [(step.action, step.device.id) for step in plan.steps]


def test_new_proposals_stand_beside_the_old_until_both_ends_have_them():
    """First both ends take the new ones, the waiting end first; the old go last; nothing is down meanwhile."""
    demo = demo_design()
    plan = change_plan(demo, _both(demo, ike_proposals=demo.tunnel_by_id["harbour-corvina"].right.ike_proposals[:1]), TODAY)
    assert plan.proved
    actions = [action for action, _ in _actions(plan) if action]
    assert actions == sorted(actions, key=list(Action).index)
    assert actions[-1] is Action.TAKE_OUT
    assert plan.no_return == next(step.number for step in plan.steps if step.action is Action.TAKE_OUT)


def test_a_key_can_not_be_changed_without_an_outage():
    """Each end takes one key: the least outage is one step long, and says why."""
    demo = demo_design()
    plan = change_plan(demo, _both(demo, key=demo.tunnel_by_id["harbour-corvina"].left.key), TODAY)
    assert (plan.proved, plan.is_least) == (False, True)
    assert plan.outages[0].what == "tunnel Harbour–Ostvik"
    assert (plan.outages[0].from_step, plan.outages[0].until_step) == (1, 2)
    assert "keys differ" in plan.outages[0].why
    assert [action for action, _ in _actions(plan)] == [Action.CHANGE, Action.CHANGE, None, None]


def test_a_tunnel_is_entered_waiting_end_first_and_taken_down_calling_end_first():
    """Both ends are entered before either is switched on; what hangs on a tunnel goes before it does."""
    demo = demo_design()
    gone = apply_operations(demo, [Remove(type=ObjectType.TUNNEL, id=SOUND, cascade=True)])
    there, back = change_plan(gone, demo, TODAY), change_plan(demo, gone, TODAY)
    entered = [step for step in there.steps if step.action in (Action.ENTER, Action.SWITCH_ON)]
    assert [step.action for step in entered] == [Action.ENTER, Action.ENTER, Action.SWITCH_ON, Action.SWITCH_ON]
    waiting = next(side for side in Side if demo.tunnel_by_id[SOUND].end(side).role is Role.WAIT)
    assert [step.side for step in entered] == [waiting, waiting.other] * 2
    ends = [step for step in back.steps if step.about == f"tunnel/{SOUND}"]
    assert [(step.action, step.side) for step in ends] == [(Action.SWITCH_OFF, waiting.other), (Action.REMOVE, waiting)]
    assert there.proved
    assert [state.state for state in back.steps[-2].expected] == [None]


@pytest.mark.parametrize("network", ["ostvik-cameras", "ostvik-ticketing"])
def test_a_network_is_renumbered_with_the_new_prefix_beside_the_old(network):
    """Tunnels and routes know the new prefix before the network moves, and forget the old one after it."""
    moved = apply_operations(
        DEMO, [RenumberNetwork(id=network, prefix="10.77.0.0/" + str(DEMO.network_by_id[network].prefix.length))]
    )
    plan = change_plan(DEMO, moved, TODAY)
    places = {step.action: step.number for step in plan.steps if step.action}
    assert plan.proved
    assert places[Action.ADD_BESIDE] < places[Action.CHANGE] < places[Action.TAKE_OUT]


def test_hosts_hear_of_what_their_leases_tell():
    """A network with leases gets another resolver: its hosts go by the old one until they renew, which is a step."""
    network = next(candidate for candidate in DEMO.networks if candidate.dhcp_ranges and not candidate.resolvers)
    told = network.changed(resolvers=(parse_address_value("10.64.8.53"),), lease_time_s=7200)
    plan = change_plan(
        DEMO.changed(networks=_with(network.changed(lease_time_s=86_400))), DEMO.changed(networks=_with(told)), TODAY
    )
    about = [(step.action, step.about) for step in plan.steps]
    renewal = (Action.RENEW, f"network/{network.id}")
    assert about[about.index(renewal) - 1] == (Action.CHANGE, f"network/{network.id}")
    assert "86400 s" in plan.steps[about.index(renewal)].does
    named = change_plan(DEMO, DEMO.changed(networks=_with(network.changed(vlan=77))), TODAY)
    assert Action.RENEW not in [step.action for step in named.steps]


def _with(network: Network) -> tuple[Network, ...]:
    return tuple(network if candidate.id == network.id else candidate for candidate in DEMO.networks)


def test_what_a_take_down_leaves_behind_is_named():
    """A filter and a DHCP route that name what is gone, a key, a name: nothing that somebody else still needs."""
    demo = demo_design()
    network = demo.network_by_id["harbour-staff"]
    prefix = demo.network_by_id["ostvik-ticketing"].prefix
    told = network.changed(dhcp_routes=parse_dhcp_routes(f"{prefix} via 10.64.0.1"))
    filters = (Filter(id="f", name="from Ostvik", gateway_id="harbour-gateway", sources=(prefix,)),)
    before = demo.changed(
        networks=tuple(told if network.id == told.id else network for network in demo.networks), filters=filters
    )
    after = apply_operations(before, [Remove(type=ObjectType.SITE, id="ostvik", cascade=True)])
    found = {leftover.what for leftover in leftovers(before, after)}
    assert {
        f"the filter from Ostvik: from {prefix}",
        f"the route to {prefix} that DHCP hands out in staff",
        "the name ostvik.dyn.example",
    } <= found
    assert any(what.startswith("the key EPG2UZ") for what in found)
    assert leftovers(before, before) == ()


def test_a_changed_list_of_prefixes_is_entered_where_rules_name_it():
    """A device holds the prefixes, not the list: so it is a step at the gateway of the rule, and not on paper."""
    rule = next(candidate for candidate in DEMO.rules if candidate.id == "dock-containers-exit")
    member = Member(type=MemberType.PREFIX_LIST, id="pilots")
    listed = PrefixList(id="pilots", name="Pilots", prefixes=(parse_prefix("203.0.113.64/26"),))
    before = apply_operations(DEMO, [put(listed), put(rule.changed(destination_members=(member,)))])
    after = apply_operations(before, [put(listed.changed(prefixes=(parse_prefix("203.0.113.128/26"),)))])
    step = change_plan(before, after, TODAY).steps[0]
    assert (step.device.id, step.about) == ("dock-gateway", "rule/dock-containers-exit")


def test_a_cloud_rule_is_a_step_at_its_site():
    """It stands at no gateway; whoever has the account makes it."""
    rule = DEMO.cloud_rules[0]
    step = change_plan(DEMO, apply_operations(DEMO, [put(rule.changed(services=()))]), TODAY).steps[0]
    assert (step.device.type, step.device.id, step.about) == (ObjectType.SITE, "gneiss", f"cloud-rule/{rule.id}")
