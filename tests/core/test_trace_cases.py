"""What a trace once said otherwise than the kernel does: each as its smallest case."""

from __future__ import annotations

from typing import Any

import pytest

from pontifex.core.addressing import Address, parse_address, parse_service
from pontifex.core.kinds import Filter, Gateway, Host, Network, Route, Rule, Translation, Tunnel
from pontifex.core.model import apply_operations, put
from pontifex.core.model.design import Design
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.all_flows.matrix import Reach, reach_of
from pontifex.core.routing.trace.flow import Failing
from tests.truth.worlds import base_objects

BASE = apply_operations(Design(id="x", revision=0, name="x", key_salt="0" * 32), [put(member) for member in base_objects()])


def _route(gateway: str, prefix: str, **hop: Any) -> Route:
    return Route.model_validate({"id": f"r-{gateway}-{len(prefix)}", "gateway_id": gateway, "prefix": prefix, **hop})


def _shown(id_: str, outside: str, **fields: Any) -> Translation:
    usual = {"id": id_, "name": id_, "gateway_id": "right", "inside": "10.80.0.0/24", "outside": outside}
    return Translation.model_validate({**usual, **fields})


def _gateway(site: str, **fields: Any) -> Gateway:
    return Gateway.model_validate({**BASE.gateway_by_id[site].model_dump(), **fields})


def _filter(gateway: str, direction: str, *to: str, id_: str = "f") -> Filter:
    return Filter.model_validate({"id": id_, "name": id_, "gateway_id": gateway, "direction": direction, "destinations": to})


def _rule(gateway: str, **fields: Any) -> Rule:
    return Rule.model_validate({"id": "p", "name": "p", "gateway_id": gateway, **fields})


def _tunnel(id_: str, left: dict[str, Any], right: dict[str, Any]) -> Tunnel:
    document = BASE.tunnel_by_id[id_].model_dump(mode="json")
    return Tunnel.model_validate({**document, "left": {**document["left"], **left}, "right": {**document["right"], **right}})


def _limited(service: str) -> Tunnel:
    here, there = ["10.65.0.0/16"], [f"10.80.0.0/16{service}"]
    return _tunnel("t3", {"local_networks": here, "remote_networks": there}, {"local_networks": there, "remote_networks": here})


BY_POLICY = _tunnel(
    "t3",
    {"local_networks": ["10.65.0.0/24"], "remote_networks": ["10.0.0.0/8"], "mode": "policy"},
    {"local_networks": ["10.0.0.0/8"], "remote_networks": ["10.65.0.0/24"], "mode": "policy"},
)
BACK_BY_T4 = _route("right", "10.65.0.0/24", tunnel_id="t4")
SEEN = _shown("s", "10.99.0.0/24", tunnel_id="t3")
VIA = _route("left", "10.80.0.0/24", via="10.95.4.2")
HIGH = _rule("right", destinations=["10.65.0.0/16 tcp 1024-65535"], paths=[{"type": "tunnel", "id": "t4"}])
NO_OTHERS = _filter("left", "in", "10.65.4.0/24")
HELD = _rule("left", on_failure="hold")
UNKNOWN_ROUTER = _gateway("left", default_router=False)

LEFT_NETWORK = {"gateway_id": "left", "inside": "10.65.0.0/24"}
TURNED_BACK = (  # the right end, without state, takes what it sees of the left network for its real addresses
    _shown("b", "10.98.0.0/24", inside="10.65.0.0/24", side="far"),
    _gateway("right", keeps_state=False),
)

# objects over the base, what is down, from, to, service; and the start of the verdict
CASES: dict[str, tuple[list[Any], list[str], str, str, str, str]] = {
    "an answer is translated back whichever tunnel it takes": (
        [SEEN, BACK_BY_T4], [], "10.65.0.10", "10.99.0.10", "any", "Arrives by t3, and returns another way by t4.",
    ),
    "a host that is asked by its real address answers by it": (
        [SEEN], [], "10.65.0.10", "10.80.0.10", "any", "Arrives and returns by t3.",
    ),
    "of two translations the first decides": (
        [SEEN, _shown("z", "10.96.1.0/24")], [], "10.65.0.10", "10.99.0.10", "any", "Arrives and returns by t3.",
    ),
    "without state each packet is translated by itself": (
        [SEEN, _gateway("right", keeps_state=False)], [], "10.65.0.10", "10.80.0.10", "any",
        "Arrives by t3, and the answer is lost: the answer comes from 10.99.0.10",
    ),
    "an answer to another address than the connection left from is not known": (
        [_shown("n", "10.98.0.0/24", **LEFT_NETWORK), *TURNED_BACK, _filter("left", "in", "10.65.4.0/24")], [],
        "10.65.0.10", "10.80.0.10", "tcp 443",
        "Arrives by t3, and the answer is lost: at left left keeps state, and has not seen this connection begin",
    ),
    "an answer reaches another host than the one that asked": (
        [_shown("n", "10.98.0.7/32", **LEFT_NETWORK, kind="behind-one"), *TURNED_BACK], [], "10.65.0.10", "10.80.0.10", "any",
        "Arrives by t3, and the answer is lost: the answer goes to 10.65.0.7",
    ),
    "a next hop that is the far end's inner address": (
        [VIA], [], "10.65.0.10", "10.80.0.10", "any", "Arrives by t4, and returns another way by t3.",
    ),
    "with its tunnel down the next route is taken": (
        [VIA], ["t4"], "10.65.0.10", "10.80.0.10", "any", "Arrives and returns by t3.",
    ),
    "networks with a port hold on a routed tunnel": (
        [_limited(" tcp 443")], [], "10.65.0.10", "10.80.0.10", "tcp 80", "Is lost: at left the networks of t3 at left",
    ),
    "and let its answers pass": ([_limited(" tcp 443")], [], "10.65.0.10", "10.80.0.10", "tcp 443", "Arrives and returns by t3."),
    "networks of another protocol": ([_limited(" udp")], [], "10.65.0.10", "10.80.0.10", "tcp 443", "Is lost"),
    "answers go to a high port": (
        [HIGH], [], "10.65.0.10", "10.80.0.10", "tcp 443", "Arrives by t3, and returns another way by t4.",
    ),
    "an answer in UDP that nobody has seen begin is new": (
        [_filter("left", "in", "10.65.0.0/24")], [], "10.65.0.10", "10.80.0.10", "udp 53", "Arrives and returns by t3.",
    ),
    "a filter for one direction leaves the others alone": (
        [_filter("hub", "in")], [], "10.65.0.10", "10.80.0.10", "tcp 443", "Arrives and returns by t3.",
    ),
    "a network within another is looked for on one's own wire": (
        [], [], "10.65.0.10", "10.65.0.138", "any", "Is lost: at a at left 10.65.0.0/24 holds 10.65.0.138",
    ),
    "a gateway answers by itself without forwarding": (
        [_gateway("right", forwarding=False)], [], "10.65.0.10", "10.80.0.1", "any", "Arrives and returns by t3.",
    ),
    "whatever its filters": ([_filter("right", "in", "10.80.1.0/24")], [], "10.65.0.10", "10.80.0.1", "any", "Arrives"),
    "whatever its rules": ([HELD], [], "10.80.0.10", "10.65.0.1", "any", "Arrives and returns by t3."),
    "a tunnel by policy goes before a connected network": (
        [BY_POLICY], [], "10.65.0.10", "10.65.4.10", "any", "Is lost: at right the networks of t3",
    ),
    "another router of which nothing is known": ([UNKNOWN_ROUTER], [], "10.65.0.10", "10.80.0.10", "any", "Is not known yet"),
}  # fmt: skip


def _address(text: str) -> Address:
    return Address(*parse_address(text))


@pytest.mark.parametrize("name", CASES)
def test_the_trace_says_what_the_kernel_does(name):
    """Translations, next hops, networks with ports, filters, wires, own addresses and policies, as they are told apart."""
    objects, down, source, target, service, verdict = CASES[name]
    tables = Tables(apply_operations(BASE, [put(item) for item in objects]))
    flow = Flow(_address(source), _address(target), parse_service(service))
    assert str(trace(tables, flow, Conditions.of(tables.design, frozenset(down))).verdict).startswith(verdict)


def test_an_answer_that_began_elsewhere_is_new_in_udp_and_nothing_in_tcp():
    """A filter lets an answer in UDP pass that it would let begin; in TCP it knows that the beginning is lacking."""
    around: list[Any] = [_route("right", "10.65.0.0/24", tunnel_id="t2"), _filter("hub", "through", "10.65.0.0/24")]
    tables = Tables(apply_operations(BASE, [put(item) for item in around]))
    verdicts = [
        str(trace(tables, Flow(_address("10.65.0.10"), _address("10.80.0.10"), parse_service(service)), Conditions()).verdict)
        for service in ("udp 53", "tcp 53")
    ]
    assert verdicts[0] == "Arrives by t3, and returns another way by t2 and t1."
    assert verdicts[1].endswith("hub keeps state, and has not seen this connection begin.")


def test_what_is_not_known_yet_is_not_lost():
    """A tunnel of which it isn't known whether it comes up is neither up nor down: nothing else takes its place."""
    tables = Tables(BASE)
    flow = Flow(_address("10.65.0.10"), _address("10.80.0.10"))
    found = trace(tables, flow, Conditions.of(BASE, failing=Failing(unknown={"t3": "the key of left is not known yet"})))
    assert str(found.verdict) == "Is not known yet: whether t3 comes up is not known yet: the key of left is not known yet."
    assert reach_of(found) is Reach.UNKNOWN


def test_pools_lie_within_their_network():
    """A pool within a network is no wire of its own: the gateway answers for its addresses."""
    pool = Network.model_validate({**BASE.network_by_id["n"].model_dump(), "role": "pool"})
    tables = Tables(apply_operations(BASE, [put(pool)]))
    found = trace(tables, Flow(_address("10.65.0.10"), _address("10.65.0.138")), Conditions())
    assert str(found.verdict) == "Arrives and returns within the site."


def test_a_domain_stands_for_all_below_it():
    """A rule about a domain is about the hosts below it and itself, at whatever depth, and about no other name that ends so."""
    names = ("Gate.skerry.example", "a.b.skerry.example", "skerry.example", "notskerry.example")
    fields = {"network_id": "d"}
    hosts = [
        Host.model_validate({**fields, "id": f"h{k}", "name": name, "address": f"10.80.0.{20 + k}", "dns_name": name})
        for k, name in enumerate(names)
    ]
    rule = _rule("left", destination_names=["*.skerry.example"], paths=[{"type": "tunnel", "id": "t4"}])
    tables = Tables(apply_operations(BASE, [*map(put, hosts), put(rule)]))
    ways = [trace(tables, Flow(_address("10.65.0.10"), host.address), Conditions()).forward.tunnels for host in hosts]
    assert ways == [("t4",), ("t4",), ("t4",), ("t3",)]
