"""What carries a tunnel must not go into it: found, mended, traced, and kept apart by the Linux plan."""

from __future__ import annotations

from typing import Any

import pytest

from pontifex.core.addressing import Address, parse_address
from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.handover import linux_plan
from pontifex.core.kinds import AddressKind, DesignMember, Gateway, Route, Side, Tunnel
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.reasons import tunnels
from pontifex.core.routing import Conditions, Flow, Tables, trace
from tests.support.designs import TODAY
from tests.support.reasons import Expected, is_said, like
from tests.support.remedies import remedies
from tests.truth.worlds import base_objects

OUTSIDE = {"left": "198.51.100.1", "hub": "198.51.100.5", "right": "198.51.100.9"}


def _outside(one: DesignMember) -> DesignMember:
    """The same tunnel with its uplinks, and the far end's outside address as its peer."""
    if not isinstance(one, Tunnel):
        return one
    sites = {"left": one.left.gateway_id, "right": one.right.gateway_id}
    ends = {
        side: {**one.model_dump(mode="json")[side], "uplink_id": sites[side], "peer_address": OUTSIDE[sites[other]]}
        for side, other in (("left", "right"), ("right", "left"))
    }
    return Tunnel.model_validate({"id": one.id, "name": one.name, **ends})


EMPTY = Design(id="x", revision=0, name="x", key_salt="0" * 32)
BASE = apply_operations(EMPTY, [put(_outside(member)) for member in base_objects()])


def _route(gateway: str, prefix: str, tunnel: str) -> Route:
    return Route.model_validate({"id": f"r-{gateway}-{tunnel}", "gateway_id": gateway, "prefix": prefix, "tunnel_id": tunnel})


def _end(tunnel_id: str, side: str, **fields: Any) -> Tunnel:
    document = BASE.tunnel_by_id[tunnel_id].model_dump(mode="json")
    document[side] |= fields
    return Tunnel.model_validate(document)


EVERYTHING = ["0.0.0.0/0"]
ALL = _end("t3", "left", mode="policy", local_networks=EVERYTHING, remote_networks=EVERYTHING)
ASKS_BEYOND = Gateway.model_validate({**BASE.gateway_by_id["left"].model_dump(), "resolvers": ["10.80.0.53"]})
BY_NAME = _end("t3", "left", peer_address="gate.right.example")

# objects over the base, the code, where it is told, the cause, and whether there is something to press
CASES: dict[str, tuple[list[DesignMember], Code, set[str], Expected, bool]] = {
    "a default route": (
        [_route("left", "0.0.0.0/0", "t3")],
        Code.TUNNEL_CARRIES_ITSELF,
        {"t3", "t4"},
        like(tunnels.CarriesItself, by="route 0.0.0.0/0 into t3"),
        True,
    ),
    "a network that holds the peer": (
        [_route("left", "198.51.100.0/24", "t3")],
        Code.TUNNEL_CARRIES_ITSELF,
        {"t3", "t4"},
        like(tunnels.CarriesItself, by="route 198.51.100.0/24 into t3"),
        True,
    ),
    "all traffic as networks": ([ALL], Code.TUNNEL_CARRIES_ITSELF, {"t3", "t4"}, tunnels.CarriesItself, True),
    "a tunnel within a tunnel": (
        [_route("left", "198.51.100.9/32", "t1"), _route("left", "198.51.100.5/32", "t3")],
        Code.TUNNEL_CARRIES_ITSELF,
        {"t1", "t3"},
        tunnels.CarriesItself,
        True,
    ),
    "a name that is asked beyond it": (
        [ASKS_BEYOND, BY_NAME],
        Code.TUNNEL_NAME_BEYOND_ITSELF,
        {"t3"},
        like(tunnels.NameBeyondItself, name="gate.right.example"),
        True,
    ),
}


@pytest.mark.parametrize("name", CASES)
def test_what_would_go_into_its_own_tunnel_is_found_and_mended(name):
    """It is told at the tunnel with what leads there; the route by the uplink, or the address for the name, mends it."""
    objects, code, where, said, mendable = CASES[name]
    assert not {finding.code for finding in analyse(BASE, TODAY).findings} & {code}
    design = apply_operations(BASE, [put(item) for item in objects])
    told = {finding.where[0].id: finding for finding in analyse(design, TODAY).findings if finding.code == code}
    assert told.keys() <= where
    assert is_said(said, told[min(where & told.keys())].why.reason)
    assert bool(remedies(design, told["t3"])) is mendable
    for remedy in remedies(design, told["t3"]):
        after = analyse(apply_operations(design, remedy.operations), TODAY).findings
        assert "t3" not in {candidate.where[0].id for candidate in after if candidate.code == code}


def test_a_remedy_that_leads_a_tunnel_into_itself_brings_the_route_around():
    """All traffic at the far end alone: what makes this end like it sends the peer's address there, too, but for the route."""
    policy = {"mode": "policy", "local_networks": EVERYTHING}
    near = _end("t3", "left", **policy, remote_networks=["10.80.0.0/24"])
    far = near.with_end(Side.RIGHT, local_networks=ALL.left.remote_networks, remote_networks=ALL.left.local_networks)
    design = apply_operations(BASE, [put(far)])
    told = [finding for finding in analyse(design, TODAY).findings if finding.code.endswith("all-traffic-one-side")]
    wide = [remedy for finding in told for remedy in remedies(design, finding) if len(remedy.operations) > 1]
    assert "198.51.100.9/32" in {str(route.prefix) for route in apply_operations(design, wide[0].operations).routes}
    for remedy in wide:
        after = analyse(apply_operations(design, remedy.operations), TODAY).findings
        assert Code.TUNNEL_CARRIES_ITSELF not in {finding.code for finding in after}


@pytest.mark.parametrize(
    ("peer", "uplink"),
    [("any", "left"), ("right.example", "left"), ("198.51.100.9", None)],
    ids=["callers from anywhere", "a name that any address may have", "no uplink to go by"],
)
def test_no_remedy_leads_a_tunnel_into_itself_where_no_route_goes_around(peer, uplink):
    policy = {"mode": "policy", "local_networks": EVERYTHING, "peer_address": peer, "uplink_id": uplink}
    far = _end("t3", "left", **policy, remote_networks=["10.80.0.0/24"])
    far = far.with_end(Side.RIGHT, local_networks=ALL.left.remote_networks, remote_networks=ALL.left.local_networks)
    unknown = BASE.uplink_by_id["right"].changed(address=None, address_kind=AddressKind.CHANGING_PUBLIC)
    design = apply_operations(BASE, [put(far), put(unknown)])
    told = [finding for finding in analyse(design, TODAY).findings if finding.code.endswith("all-traffic-one-side")]
    assert told
    for remedy in (remedy for finding in told for remedy in remedies(design, finding)):
        after = analyse(apply_operations(design, remedy.operations), TODAY).findings
        assert Code.TUNNEL_CARRIES_ITSELF not in {finding.code for finding in after}


def test_it_is_traced_as_a_flow_of_its_own():
    """From the uplink's address to the peer's the trace begins at the gateway itself, and says what is wrong with it."""
    design = apply_operations(BASE, [put(_route("left", "0.0.0.0/0", "t3"))])
    ends = [Address(*parse_address(OUTSIDE[side])) for side in ("left", "right")]
    verdict = trace(Tables(design), Flow(ends[0], ends[1]), Conditions()).verdict
    assert str(verdict) == "Is lost: at left what carries t3 would go into t3."
    assert str(trace(Tables(BASE), Flow(ends[0], ends[1]), Conditions()).verdict).startswith(
        "Leaves to the Internet: left sends it out"
    )


def test_the_linux_plan_goes_around():
    """Where a way into a tunnel holds a peer's address, the plan has a route by the uplink to that address alone."""
    design = apply_operations(BASE, [put(_route("left", "0.0.0.0/0", "t3"))])
    lines = linux_plan(Tables(design), "left").apply
    around = [line for line in lines if "198.51.100.9 dev uplink" in line]
    assert around == ['route "uplink" ip -4 route replace 198.51.100.9 dev uplink metric 512 proto 112']
    assert not [candidate for candidate in linux_plan(Tables(BASE), "left").apply if "198.51.100.9" in candidate]
