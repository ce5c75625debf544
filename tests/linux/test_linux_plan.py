"""Plans for Linux machines against the kernel itself: it sends each flow where the trace says."""

from __future__ import annotations

import re
import time
from typing import Any

import pytest

from pontifex.core.addressing import Address, parse_address, parse_service
from pontifex.core.handover import CantBeKept, linux_files, linux_plan
from pontifex.core.handover.linux_files import NFT_FILE
from pontifex.core.handover.readings.linux import SYSCTL_FILE
from pontifex.core.kinds import Filter, Gateway, Network, ObjectType, Route, Rule, Site, Translation, Tunnel, Uplink
from pontifex.core.kinds.dscp import parse_dscp
from pontifex.core.model import Design, Remove, apply_operations, put
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.trace.flow_path import End, FlowPath
from tests.linux.world import HOSTS, TUNNELS, UPLINKS, World
from tests.support.networkd import entered

_PROBES = {"icmp": ["-I"], "tcp": ["-T"], "udp": ["-U"]}


def _base() -> Design:
    """Two sites with two networks each, two tunnels between their gateways, and routes into the first."""
    objects: list[Any] = []
    for side, address in UPLINKS.items():
        objects.append(Site(id=side, name=side))
        objects.append(Gateway.model_validate({"id": side, "site_id": side, "name": side, "kind": "server"}))
        objects.append(Uplink.model_validate({"id": f"{side}-up", "gateway_id": side, "name": "uplink", "address": address}))
    for name, (side, network) in HOSTS.items():
        fields = {"id": name, "site_id": side, "name": name, "prefix": f"{network}.0/24", "gateway_address": f"{network}.1"}
        objects.append(Network.model_validate(fields))
    for tunnel in TUNNELS:
        ends = {place: {"gateway_id": place, "mode": "route"} for place in ("left", "right")}
        objects.append(Tunnel.model_validate({"id": tunnel, "name": tunnel, **ends}))
    objects.append(_route("there", "left", "10.80.0.0/16"))
    objects.append(_route("back", "right", "10.65.0.0/16"))
    empty = Design(id="world", revision=0, name="world", key_salt="0" * 32)
    return apply_operations(empty, [put(item) for item in objects])


def _route(id_: str, gateway: str, prefix: str, tunnel: str = "t1") -> Route:
    return Route.model_validate({"id": id_, "gateway_id": gateway, "prefix": prefix, "tunnel_id": tunnel})


def _rule(name: str = "r", position: int = 10, **fields: Any) -> Rule:
    paths = fields.pop("paths", ["t2"])
    listed = [{"type": "tunnel", "id": id_} for id_ in paths]
    return Rule.model_validate({"id": name, "name": name, "gateway_id": "left", "position": position, "paths": listed, **fields})


def _gateway(id_: str, **fields: Any) -> Gateway:
    return Gateway.model_validate({"id": id_, "site_id": id_, "name": id_, "kind": "server", **fields})


def _filter(**fields: Any) -> Filter:
    return Filter.model_validate({"id": "f", "name": "f", "gateway_id": "right", **fields})


# what is put, which routes are gone, which tunnels are down, and the flows: from, to, service, class
SCENARIOS: dict[str, tuple[list[Any], list[str], list[str], list[tuple[str, str, str, str]]]] = {
    "routes alone": ([], [], [], [("a", "c", "icmp", "DF"), ("d", "b", "icmp", "DF"), ("a", "b", "icmp", "DF")]),
    "by source": ([_rule(sources=["10.65.4.0/24"])], [], [], [("a", "c", "icmp", "DF"), ("b", "c", "icmp", "DF")]),
    "by destination": ([_rule(destinations=["10.80.1.0/24"])], [], [], [("a", "d", "icmp", "DF"), ("a", "c", "icmp", "DF")]),
    "by protocol and port": (
        [_rule(destinations=["10.80.0.0/16 tcp 443", "10.80.0.0/16 udp", "10.80.0.0/16 port 8080"])],
        [],
        [],
        [
            ("a", "c", "tcp 443", "DF"),
            ("a", "c", "tcp 80", "DF"),
            ("a", "c", "tcp 8080", "DF"),
            ("a", "c", "udp 53", "DF"),
            ("a", "c", "icmp", "DF"),
        ],
    ),
    "by class": ([_rule(dscp=["EF"])], [], [], [("a", "c", "icmp", "EF"), ("a", "c", "icmp", "DF")]),
    "by class in more rules than a mark has bits": (
        [
            *(_rule(f"n{k}", k, sources=[f"10.99.{k}.0/24"], dscp=["AF11"], on_failure="hold") for k in range(1, 40)),
            _rule("last", 50, dscp=["EF", "AF31"]),
        ],
        [],
        [],
        [("a", "c", "icmp", "EF"), ("a", "c", "icmp", "AF31"), ("a", "c", "icmp", "AF11"), ("a", "c", "icmp", "DF")],
    ),
    "by a class that a rule marks": (
        [_rule("mark", 5, sources=["10.65.0.0/24"], marks="EF", paths=[]), _rule(dscp=["EF"])],
        [],
        [],
        [("a", "c", "icmp", "DF"), ("b", "c", "icmp", "DF")],
    ),
    "a class that a rule marks in the other family alone": (
        [_rule("mark", 5, destinations=["::/0"], marks="EF", paths=[]), _rule(dscp=["EF"])], [], [], [("a", "c", "icmp", "DF")],
    ),
    "the second path": ([_rule(sources=["10.65.0.0/24"], paths=["t2", "t1"])], ["there"], ["t2"], [("a", "c", "icmp", "DF")]),
    "fall through": ([_rule(sources=["10.65.0.0/24"])], [], ["t2"], [("a", "c", "icmp", "DF")]),
    "hold": (
        [_rule(sources=["10.65.0.0/24"], on_failure="hold")],
        [],
        ["t2"],
        [("a", "c", "icmp", "DF"), ("b", "c", "icmp", "DF")],
    ),
    "a rule that takes answers, too": ([_rule()], [], [], [("a", "c", "icmp", "DF")]),
    "no return route": ([], ["back"], [], [("a", "c", "icmp", "DF")]),
    "no route at all": ([], ["there"], [], [("a", "c", "icmp", "DF")]),
    "forwarding off": ([_gateway("right", forwarding=False)], [], [], [("a", "c", "icmp", "DF")]),
    "routes before rules": (
        [_rule(), _gateway("left", outranking="specific")],
        [],
        [],
        [("a", "c", "icmp", "DF"), ("a", "b", "icmp", "DF")],
    ),
    "a filter": (
        [_filter(direction="in", destinations=["10.80.0.0/24 tcp 443"])],
        [],
        [],
        [("a", "c", "tcp 443", "DF"), ("a", "c", "icmp", "DF"), ("c", "a", "icmp", "DF")],
    ),
    "a filter for the other family alone": (
        [_filter(direction="in", destinations=["::/0 tcp 443"])], [], [], [("a", "c", "tcp 443", "DF")],
    ),
}  # fmt: skip


@pytest.fixture(scope="module")
def world(namespaces, tmp_path_factory):
    del namespaces  # what is asked for is that they are there
    with World(tmp_path_factory.mktemp("state")) as made:
        yield made


@pytest.mark.parametrize("name", SCENARIOS)
def test_the_kernel_sends_each_flow_where_the_trace_says(world, name):
    """With the plans applied, real packets take the tunnels of the trace, and arrive, return, leave or are held as it says."""
    put_, gone, down, flows = SCENARIOS[name]
    removed = [Remove(type=ObjectType.ROUTE, id=id_) for id_ in gone]
    design = apply_operations(_base(), [*(put(item) for item in put_), *removed])
    tables, conditions = Tables(design), Conditions.of(design, frozenset(down))
    before = {side: world.state(side) for side in UPLINKS}
    for tunnel in down:
        world.set_tunnel(tunnel, up=False)
    plans = {side: _plan(tables, side) for side in UPLINKS}
    for side, plan in plans.items():
        world.shell(side, plan.apply)
    try:
        for source, target, service, dscp in flows:
            ends = [Address(*parse_address(f"{HOSTS[side][1]}.10")) for side in (source, target)]
            found = trace(tables, Flow(ends[0], ends[1], parse_service(service), parse_dscp(dscp)), conditions)
            answered, there, back = _sent(world, source, ends, service, dscp)
            assert there == _expected(found.forward), found.verdict
            assert answered == (found.back is not None and found.back.end is End.ARRIVES), found.verdict
            if found.back:
                assert back == _expected(found.back), found.verdict
    finally:
        for side, plan in plans.items():
            world.shell(side, plan.back)
        for tunnel in down:
            world.set_tunnel(tunnel, up=True)
    assert {side: world.state(side) for side in UPLINKS} == before


@pytest.mark.parametrize("name", [name for name, (_, _, down, _) in SCENARIOS.items() if not down])
def test_files_leave_the_machine_as_the_commands_do(world, name):
    """Read by another reader, the files that outlive a restart enter the very rules, routes, tables and switches of the plan."""
    put_, gone, _, _ = SCENARIOS[name]
    removed = [Remove(type=ObjectType.ROUTE, id=id_) for id_ in gone]
    tables = Tables(apply_operations(_base(), [*(put(item) for item in put_), *removed]))
    for side in UPLINKS:
        names, routers = _names(side)
        plan, before = linux_plan(tables, side, names, routers), world.state(side)
        if any(" goto " in line for line in plan.apply):
            with pytest.raises(CantBeKept, match="a port and all above it"):
                linux_files(tables, side, names, routers)
            continue
        files = linux_files(tables, side, names, routers)
        world.shell(side, plan.apply)
        wanted = _settled(world.state(side))
        world.shell(side, plan.back)
        networks = [text for file, text in files.items() if file.endswith(".network")]
        switches = dict(line.split(" = ") for line in files[SYSCTL_FILE].splitlines() if " = " in line)
        held = {key: world.run(side, "sysctl", "-n", key).strip() for key in switches}
        world.shell(side, tuple(f"sysctl -qw {key}={value}" for key, value in switches.items()))
        world.shell(side, tuple(line for text in networks for line in entered(text)))
        world.run(side, "nft", "-f", "-", text=files.get(NFT_FILE, ""))
        found = _settled(world.state(side))
        world.shell(side, tuple(line for text in networks for line in entered(text, "del")))
        world.shell(side, tuple(f"sysctl -qw {key}={value}" for key, value in held.items()))
        world.run(side, "nft", "delete", "table", "inet", "pontifex", check=False)
        assert found == wanted
        assert world.state(side) == before


def _settled(state: str) -> list[str]:
    """What decides about packets on a machine, whoever has entered it."""
    return sorted(re.sub(r" (?:proto|protocol) \S+| onlink", "", line).strip() for line in state.splitlines())


def _expected(way: FlowPath) -> list[str]:
    """Return what a way of the trace goes through, each once: what goes round in circles passes more often."""
    return list(dict.fromkeys([*way.tunnels, *(["outside"] if way.end is End.UNPROTECTED else [])]))


def _plan(tables: Tables, side: str):
    return linux_plan(tables, side, *_names(side))


def _names(side: str):
    router = f"{UPLINKS[side].rpartition('.')[0]}.{int(UPLINKS[side].rpartition('.')[2]) + 1}"
    names = {(ObjectType.UPLINK, f"{side}-up"): "uplink", **{(ObjectType.TUNNEL, tunnel): tunnel for tunnel in TUNNELS}}
    return names, {f"{side}-up": (Address(*parse_address(router)),)}


def _sent(world: World, source: str, ends: list[Address], service: str, dscp: str) -> tuple[bool, list[str], list[str]]:
    """Send real packets; return whether they are answered, and what they and the answers come through."""
    world.seen.clear()
    begin, end = map(str, ends)
    tos = str(parse_dscp(dscp) << 2)
    if service == "icmp":
        printed = world.run(source, "ping", "-n", "-c", "1", "-W", "2", "-Q", tos, end, check=False)
        answered = " 0% packet loss" in printed
    else:
        protocol, port = service.split()
        once = ["-q", "1", "-N", "1", "-f", "3", "-m", "3"]  # a second packet might still be on its way with the next flow
        words = ["traceroute", "-n", *once, "-w", "2", "-t", tos, *_PROBES[protocol], "-p", port, end]
        answered = f" {end} " in world.run(source, *words, check=False).partition("\n")[2]
    return answered, _ways(world, begin, end), _ways(world, end, begin)


def _ways(world: World, begin: str, end: str) -> list[str]:
    return list(dict.fromkeys(seen.where for seen in world.seen if (seen.source, seen.destination) == (begin, end)))


def test_the_hops_of_traceroute_are_those_of_the_trace(world):
    """Traceroute -n meets the gateways of the trace in their order, by the addresses of the tunnel that was taken."""
    design = apply_operations(
        _base(), [put(_rule(destinations=["10.80.1.0/24"])), put(_route("two", "right", "10.65.0.0/24", "t2"))]
    )
    tables = Tables(design)
    plans = {side: _plan(tables, side) for side in UPLINKS}
    for side, plan in plans.items():
        world.shell(side, plan.apply)
    begin, end = (Address(*parse_address(text)) for text in ("10.65.0.10", "10.80.1.10"))
    found = trace(tables, Flow(begin, end), Conditions())
    assert [hop.where for hop in found.forward.hops] == ["left", "right"]
    printed = world.run("a", "traceroute", "-n", "-q", "1", "-w", "1", "-I", "10.80.1.10")
    assert [line.split()[1] for line in printed.splitlines()[1:]] == ["10.65.0.1", TUNNELS["t2"][1], "10.80.1.10"]
    for side, plan in plans.items():
        world.shell(side, plan.back)


def test_a_translated_network_answers_from_what_it_is_seen_as(world):
    """One-to-one at the right: the left reaches a host at the address that it sees, and the tunnel carries that address alone."""
    fields = {"id": "t", "name": "t", "gateway_id": "right", "inside": "10.80.0.0/24", "outside": "10.99.0.0/24"}
    objects: list[Any] = [Translation.model_validate(fields), _route("seen", "left", "10.99.0.0/24")]
    tables = Tables(apply_operations(_base(), [put(item) for item in objects]))
    plans = {side: _plan(tables, side) for side in UPLINKS}
    for side, plan in plans.items():
        world.shell(side, plan.apply)
    ends = [Address(*parse_address(text)) for text in ("10.65.0.10", "10.99.0.10")]
    assert str(trace(tables, Flow(ends[0], ends[1]), Conditions()).verdict) == "Arrives and returns by t1."
    assert _sent(world, "a", ends, "icmp", "DF") == (True, ["t1"], ["t1"])
    for side, plan in plans.items():
        world.shell(side, plan.back)


def test_a_plan_applied_twice_changes_nothing(world):
    """The second time everything stands as after the first; and the way back leads from there to where it began."""
    objects: list[Any] = [
        _rule(sources=["10.65.0.0/24"], dscp=["EF"], on_failure="hold"),
        _filter(direction="in", sources=["10.65.0.0/16"]),
    ]
    tables = Tables(apply_operations(_base(), [put(item) for item in objects]))
    for side in UPLINKS:
        before = world.state(side)
        plan = _plan(tables, side)
        world.shell(side, plan.apply)
        once = world.state(side)
        world.shell(side, plan.apply)
        assert world.state(side) == once != before
        world.shell(side, plan.back)
        assert world.state(side) == before


def test_what_a_tunnel_that_is_down_would_carry_follows_as_soon_as_it_is_up(world):
    """A plan runs through while a tunnel is down; its route and its path of a rule stand once it comes up, by themselves."""
    objects: list[Any] = [_rule(sources=["10.65.4.0/24"], paths=["t2"]), _route("second", "left", "10.81.0.0/16", "t2")]
    tables = Tables(apply_operations(_base(), [put(item) for item in objects]))
    before = world.state("left")
    world.set_tunnel("t2", up=False)
    plan = _plan(tables, "left")
    world.shell("left", plan.apply)
    assert "10.81.0.0/16" not in world.state("left")
    world.set_tunnel("t2", up=True)
    until = time.monotonic() + 30
    while not {"10.81.0.0/16 dev t2", "default dev t2 table 1000"} <= _lines(world.state("left")):
        assert time.monotonic() < until, world.state("left")
        time.sleep(0.05)
    world.shell("left", plan.back)
    assert world.state("left") == before


def _lines(state: str) -> set[str]:
    """The routes of a machine, each without what doesn't matter here."""
    return {line.split(" proto")[0].split(" metric")[0].strip() for line in state.splitlines()}
