"""From whatever a cloud holds to what the design intends, step by step, over the stand-in cloud's own API."""

from __future__ import annotations

from datetime import timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pontifex.connectors.cloud import CloudSaysNo, CloudSilent, read_account
from pontifex.core.addressing import parse_prefix
from pontifex.core.clouds.as_read import as_agreed, as_read
from pontifex.core.clouds.changes import AnswerPeering, PutRoute, PutRule, PutSubnet, RemovePeering, RemoveRoute, RequestPeering
from pontifex.core.clouds.intended import intended_networks, intended_peerings
from pontifex.core.clouds.peering_state import PeeringState
from pontifex.core.clouds.reachability import CloudStates, cloud_reach
from pontifex.core.clouds.resources import CloudRoute, CloudSubnet, HeldRule, NetworkState, Peering
from pontifex.core.clouds.steps import StepState, cloud_steps
from pontifex.core.clouds.take_over import take_over
from pontifex.core.kinds import ObjectType
from pontifex.core.model import Design, Remove, apply_operations
from pontifex.core.routing.all_flows.matrix import Reach
from pontifex.demo import demo_design
from pontifex.demo.clouds import BOOKING, REPORTING
from tests.support.designs import TODAY, mended

DEMO = demo_design()
SOUND = as_agreed(mended(DEMO))
SETTLED = timedelta(seconds=10)
STRANGE_ROUTE = CloudRoute(prefix=parse_prefix("10.99.0.0/24"))
STRANGE_RULE = HeldRule.model_validate({"id": "strange", "level": "subnet", "direction": "in", "members": ["10.81.0.0/20"]})
HELD = st.fixed_dictionaries(
    {
        "peering": st.sampled_from([None, *PeeringState]),
        "subnets": st.booleans(),
        "rules": st.booleans(),
        "routes": st.booleans(),
        "strange": st.booleans(),
    }
)


def _held(network: NetworkState, held: dict[str, object]) -> NetworkState:
    """Return a network with some of what is intended, and maybe with what nobody wants."""
    tables = tuple(
        table.changed(
            routes=(
                *(route for route in table.routes if held["routes"] and not route.peering),
                *([STRANGE_ROUTE] if held["strange"] else []),
            )
        )
        for table in network.tables
    )
    strange = (STRANGE_RULE,) if held["strange"] else ()
    return network.changed(
        subnets=network.subnets if held["subnets"] else (),
        rules=(*(network.rules if held["rules"] else ()), *strange),
        tables=tables,
    )


def _begin(cloud, design: Design, held: dict[str, object]) -> None:
    networks = {network.id: _held(network, held) for network in intended_networks(design)}
    peerings = {}
    if held["peering"]:
        (wanted,) = intended_peerings(design)
        peerings["peering-1"] = Peering(
            id="peering-1",
            requester=wanted.requester.id,
            requester_account=BOOKING,
            accepter=wanted.accepter.id,
            accepter_account=REPORTING,
            state=held["peering"],
            since=cloud.now,
            until=cloud.now + timedelta(days=7),
        )
    cloud.served.cloud.state = cloud.served.cloud.state.changed(networks=networks, peerings=peerings, made=1)


def _brought_about(cloud, design: Design) -> int:
    """Take all steps that are due, and let time pass where the cloud is at it; return how many were taken."""
    taken = 0
    for _ in range(60):
        steps = cloud_steps(design, cloud.readings())
        due = next((step for step in steps if step.state is StepState.DUE), None)
        if due:
            cloud.carry_out(due.account, due.change)
            taken += 1
        elif any(step.state is StepState.SETTLING for step in steps):
            cloud.wait(SETTLED)
        else:
            assert {step.state for step in steps} <= {StepState.DONE}, [
                step for step in steps if step.state is not StepState.DONE
            ]
            return taken
    raise AssertionError("the steps don't come to an end")


@settings(max_examples=25, suppress_health_check=list(HealthCheck), deadline=None)
@given(held=HELD)
def test_due_steps_lead_to_what_is_intended_and_away_again(cloud, held):
    """From anything that a cloud may hold; none of them is refused, and at the end the clouds are as the design."""
    _begin(cloud, SOUND, held)
    _brought_about(cloud, SOUND)
    readings = cloud.readings()
    for intended in intended_networks(SOUND):
        state = next(network for network in readings[intended.account].networks if network.id == intended.id)
        assert {subnet.id: subnet for subnet in state.subnets} == {subnet.id: subnet for subnet in intended.subnets}
        assert {rule.id: rule for rule in state.rules} == {rule.id: rule for rule in intended.rules}
        assert {route.prefix for route in state.table("main").routes} == {route.prefix for route in intended.table("main").routes}
    (peering,) = intended_peerings(SOUND)
    assert {reached.before for reached in cloud_reach(CloudStates.of(SOUND, readings, TODAY), peering)} == {Reach.REACHES}
    assert not list(take_over(SOUND, readings))
    without = apply_operations(SOUND, [Remove(type=ObjectType.TUNNEL, id="basalt-gneiss", cascade=True)])
    _brought_about(cloud, without)
    cloud.wait(SETTLED)
    left = cloud.readings()
    assert all(peering.state.is_over for state in left.values() for peering in state.peerings)
    assert not [
        route
        for state in left.values()
        for network in state.networks
        for table in network.tables
        for route in table.routes
        if route.peering
    ]


def test_the_peering_of_the_demo_is_mended_step_by_step(cloud):
    """Accepted, settling, active; then a route in each table; the answers still need a rule of the subnet."""
    _begin(cloud, DEMO, {"peering": PeeringState.PENDING, "subnets": True, "rules": True, "routes": True, "strange": False})
    (peering,) = intended_peerings(DEMO)
    states = {step.key: step.state for step in cloud_steps(DEMO, cloud.readings())}
    assert states["request/basalt-gneiss"] is StepState.DONE
    assert states["accept/basalt-gneiss"] is StepState.DUE
    assert {state for key, state in states.items() if key.startswith("route/")} == {StepState.LATER}
    accept = next(step for step in cloud_steps(DEMO, cloud.readings()) if step.key.startswith("accept/"))
    cloud.carry_out(accept.account, accept.change)
    settling = next(step for step in cloud_steps(DEMO, cloud.readings()) if step.key.startswith("accept/"))
    assert (settling.state, settling.why) == (StepState.SETTLING, "it is accepted; the cloud is making it")
    with pytest.raises(CloudSaysNo, match="peering-1 is accepted"):
        cloud.carry_out(BOOKING, PutRoute("basalt-network", "main", parse_prefix("10.81.0.0/20"), "peering-1"))
    assert _brought_about(cloud, DEMO) == 2
    (reports,) = cloud_reach(CloudStates.of(DEMO, cloud.readings(), TODAY), peering)
    assert (reports.before, reports.after) == (Reach.ONE_WAY, Reach.ONE_WAY)
    assert "no subnet rule of Gneiss lets the answer out" in reports.why
    (remedy,) = take_over(DEMO, cloud.readings())
    told = apply_operations(DEMO, remedy.operations)
    assert all(end.peering_agreed for end in (told.tunnel_by_id["basalt-gneiss"].left, told.tunnel_by_id["basalt-gneiss"].right))


def test_a_request_that_nobody_answers_expires_and_is_made_again(cloud):
    """After seven days; one that is refused as well. A request is seen by the other account only after a while."""
    _begin(cloud, DEMO, {"peering": PeeringState.PENDING, "subnets": True, "rules": True, "routes": True, "strange": False})
    cloud.wait(timedelta(days=7))
    request = next(step for step in cloud_steps(DEMO, cloud.readings()) if step.key.startswith("request/"))
    assert (request.state, request.held) == (StepState.DUE, "expired")
    assert request.why == "the last request expired before anybody answered"
    with pytest.raises(CloudSaysNo, match="the request is expired"):
        cloud.carry_out(REPORTING, AnswerPeering("peering-1", accepted=True))
    cloud.carry_out(request.account, request.change)
    accept = next(step for step in cloud_steps(DEMO, cloud.readings()) if step.key.startswith("accept/"))
    assert accept.state is StepState.SETTLING
    with pytest.raises(CloudSaysNo, match="sees no peering peering-2"):
        cloud.carry_out(REPORTING, AnswerPeering("peering-2", accepted=True))
    cloud.wait(SETTLED)
    with pytest.raises(CloudSaysNo, match=f"{REPORTING} is asked, not {BOOKING}"):
        cloud.carry_out(BOOKING, AnswerPeering("peering-2", accepted=True))
    cloud.carry_out(REPORTING, AnswerPeering("peering-2", accepted=False))
    again = next(step for step in cloud_steps(DEMO, cloud.readings()) if step.key.startswith("request/"))
    assert (again.state, again.why) == (StepState.DUE, "the last request was refused")


def test_what_a_cloud_refuses(cloud):
    """Blocks that overlap, too many, twice, elsewhere, and what is no request at all: each with its reason, and nothing else."""
    _begin(cloud, DEMO, {"peering": None, "subnets": True, "rules": True, "routes": True, "strange": False})
    before = cloud.readings()
    quotas = before[BOOKING].quotas
    ask = RequestPeering("basalt-network", "gneiss-network", REPORTING)
    for change, why in (
        (RequestPeering("basalt-network", "nowhere", REPORTING), "has no network nowhere"),
        (RequestPeering("gneiss-network", "basalt-network", BOOKING), f"{BOOKING} has no network gneiss-network"),
        (PutSubnet("basalt-network", CloudSubnet(id="x", prefix=parse_prefix("10.82.0.0/24"), table="main")), "in no block"),
        (PutSubnet("basalt-network", CloudSubnet(id="x", prefix=parse_prefix("10.80.0.0/24"), table="main")), "overlap"),
        (RemovePeering("peering-9"), "sees no peering"),
    ):
        with pytest.raises(CloudSaysNo, match=why):
            cloud.carry_out(BOOKING, change)
    assert cloud.readings() == before
    cloud.carry_out(BOOKING, ask)
    with pytest.raises(CloudSaysNo, match="have a peering, or a request"):
        cloud.carry_out(BOOKING, ask)
    for place in range(quotas.rules - len(before[REPORTING].networks[0].rules)):
        cloud.carry_out(REPORTING, PutRule("gneiss-network", STRANGE_RULE.changed(id=f"r{place}")))
    with pytest.raises(CloudSaysNo, match="no more are allowed"):
        cloud.carry_out(REPORTING, PutRule("gneiss-network", STRANGE_RULE))


def test_networks_that_overlap_are_refused_before_they_are_asked_for(cloud):
    """As the cloud would: the step says so, and the cloud does when it is asked all the same."""
    basalt, gneiss = DEMO.cloud_networks
    same = DEMO.changed(cloud_networks=(basalt, gneiss.changed(blocks=(*gneiss.blocks, parse_prefix("10.80.0.0/21")))))
    _begin(cloud, same, {"peering": None, "subnets": True, "rules": True, "routes": True, "strange": False})
    request = next(step for step in cloud_steps(same, cloud.readings()) if step.key.startswith("request/"))
    assert (request.state, request.why) == (
        StepState.REFUSED,
        "both networks have 10.80.0.0/21; the cloud takes no peering of these",
    )
    with pytest.raises(CloudSaysNo, match=r"both networks have 10\.80\.0\.0/21"):
        cloud.carry_out(request.account, request.change)


def test_a_peering_goes_only_once_neither_table_leads_into_it(cloud):
    """A route that is left at one account alone keeps it, whichever account is read first."""
    _begin(cloud, SOUND, {"peering": None, "subnets": True, "rules": True, "routes": True, "strange": False})
    _brought_about(cloud, SOUND)
    without = apply_operations(SOUND, [Remove(type=ObjectType.TUNNEL, id="basalt-gneiss", cascade=True)])
    for account, network, prefix in (
        (BOOKING, "basalt-network", "10.81.0.0/20"),
        (REPORTING, "gneiss-network", "10.80.0.0/20"),
    ):
        (step,) = [
            candidate for candidate in cloud_steps(without, cloud.readings()) if candidate.key.startswith("remove-peering/")
        ]
        assert (step.state, step.why) == (StepState.LATER, "routes lead into it; they go first")
        cloud.carry_out(account, RemoveRoute(network, "main", parse_prefix(prefix)))
    (step,) = [candidate for candidate in cloud_steps(without, cloud.readings()) if candidate.key.startswith("remove-peering/")]
    assert step.state is StepState.DUE


def test_what_is_not_known_yet_is_said(cloud):
    """Without a reading nothing is due but reading; of one account alone, only what it holds."""
    nothing = cloud_steps(DEMO, {})
    assert {step.state for step in nothing} == {StepState.NOT_READ, StepState.LATER}
    _begin(cloud, DEMO, {"peering": PeeringState.PENDING, "subnets": True, "rules": True, "routes": True, "strange": False})
    alone = {BOOKING: cloud.readings()[BOOKING]}
    states = {step.key: step.state for step in cloud_steps(DEMO, alone)}
    assert (states["request/basalt-gneiss"], states["accept/basalt-gneiss"]) == (StepState.DONE, StepState.NOT_READ)
    assert as_read(DEMO, {}) == DEMO


def test_a_cloud_that_answers_otherwise(cloud):
    """A wrong token, another account's token, another certificate, nobody there: told, and nothing sent."""
    for access, kind, why in (
        (cloud.access(BOOKING, token="guessed"), CloudSaysNo, "doesn't know this token"),
        (cloud.access(REPORTING, token=cloud.served.tokens[BOOKING]), CloudSaysNo, "the token opens the account"),
        (cloud.access(BOOKING, fingerprint="00:11"), CloudSilent, "another certificate"),
        (cloud.access(BOOKING, address="127.0.0.1:1"), CloudSilent, "nothing that speaks TLS"),
    ):
        with pytest.raises(kind, match=why) as refused:
            read_account(access)
        assert access.token not in str(refused.value) + repr(access)
