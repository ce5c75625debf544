"""Random designs as Linux machines: real packets there and back against the trace, by the plan and by commands of our own."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from random import Random
from typing import Any, Final

from pontifex.core.addressing import Address, Service, parse_address
from pontifex.core.handover import linux_plan
from pontifex.core.kinds import (
    DesignMember,
    Filter,
    Gateway,
    Mode,
    Network,
    ObjectType,
    Route,
    Rule,
    Site,
    Translation,
    Tunnel,
    Uplink,
)
from pontifex.core.model import Design, Remove, apply_operations, put
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.trace.flow_path import End, FlowPath, Trace
from tests.truth.by_hand import commands
from tests.truth.machines import Machines, host_of
from tests.truth.packets import FIRST_NUMBER, ICMP, PORTS, TCP, UDP, Request, Sent

SITES: Final = ("left", "hub", "right")
_NETWORKS: Final = {  # network: its site, its prefix, its gateway's address
    "a": ("left", "10.65.0.0/24", "10.65.0.1"),
    "b": ("left", "10.65.4.0/24", "10.65.4.1"),
    "n": ("left", "10.65.0.128/26", "10.65.0.129"),  # within a
    "c": ("hub", "10.64.0.0/24", "10.64.0.1"),
    "d": ("right", "10.80.0.0/24", "10.80.0.1"),
    "e": ("right", "10.80.1.0/24", "10.80.1.1"),
    "a6": ("left", "fd5c:9a1e:40:1::/64", "fd5c:9a1e:40:1::1"),
    "d6": ("right", "fd5c:9a1e:40:8::/64", "fd5c:9a1e:40:8::1"),
}
_TUNNELS: Final = {  # tunnel: its sites, its inner addresses
    "t1": ("left", "hub", "10.95.1.1/30", "10.95.1.2/30"),
    "t2": ("hub", "right", "10.95.2.1/30", "10.95.2.2/30"),
    "t3": ("left", "right", "10.95.3.1/30", "10.95.3.2/30"),
    "t4": ("left", "right", "10.95.4.1/30", "10.95.4.2/30"),
}
_SEEN: Final = {"10.80.0.0/24": "10.99.0.0/24", "10.65.0.0/24": "10.98.0.0/24", "10.65.4.0/24": "10.97.0.0/24"}
_PREFIXES: Final = (
    "10.65.0.0/24", "10.65.4.0/24", "10.65.0.0/16", "10.65.0.128/26", "10.64.0.0/24", "10.80.0.0/24", "10.80.1.0/24",
    "10.80.0.0/16", "10.0.0.0/8", "0.0.0.0/0", "::/0", "fd5c:9a1e:40:1::/64", "fd5c:9a1e:40:8::/64", "fd5c:9a1e:40::/48",
    "10.99.0.0/24", "10.98.0.0/24", "10.80.0.10/32",
)  # fmt: skip
_SERVICES: Final = (
    "",
    "",
    "",
    " tcp",
    " tcp 443",
    " udp 53",
    " udp",
    " icmp",
    " port 1024-65535",
    " tcp 1024-65535",
    " port 53-443",
)
_CLASSES: Final = ("DF", "EF", "AF31")
_PROTOCOLS: Final = (ICMP, TCP, UDP)


def base_objects() -> list[DesignMember]:
    """Three sites, joined by four tunnels, with routes both ways."""
    found: list[DesignMember] = []
    for place, site in enumerate(SITES):
        found.append(Site(id=site, name=site))
        found.append(Gateway.model_validate({"id": site, "site_id": site, "name": site, "kind": "server"}))
        uplink = {
            "id": site,
            "gateway_id": site,
            "name": "uplink",
            "interface": "uplink",
            "address": f"198.51.100.{4 * place + 1}",
        }
        found.append(Uplink.model_validate(uplink))
    for id_, (site, prefix, gateway) in _NETWORKS.items():
        fields = {"id": id_, "site_id": site, "name": id_, "prefix": prefix, "gateway_address": gateway}
        found.append(Network.model_validate(fields))
    for id_, (left, right, *inner) in _TUNNELS.items():
        ends = {
            side: {"gateway_id": site, "mode": "route", "inner_address": address, "interface": id_}
            for side, site, address in zip(("left", "right"), (left, right), inner, strict=True)
        }
        found.append(Tunnel.model_validate({"id": id_, "name": id_, **ends}))
    ways = [
        ("left", "10.64.0.0/16", "t1"), ("hub", "10.65.0.0/16", "t1"), ("hub", "10.80.0.0/16", "t2"),
        ("right", "10.64.0.0/16", "t2"), ("left", "10.80.0.0/16", "t3"), ("right", "10.65.0.0/16", "t3"),
        ("left", "fd5c:9a1e:40:8::/64", "t3"), ("right", "fd5c:9a1e:40:1::/64", "t3"),
        ("left", "10.99.0.0/24", "t3"), ("right", "10.98.0.0/24", "t3"),
    ]  # fmt: skip
    for k, (site, prefix, tunnel) in enumerate(ways):
        found.append(Route.model_validate({"id": f"w{k}", "gateway_id": site, "prefix": prefix, "tunnel_id": tunnel}))
    return found


def _links(site: str) -> list[str]:
    return [id_ for id_, (left, right, *_) in _TUNNELS.items() if site in (left, right)]


def _route(random: Random, id_: str) -> dict[str, Any]:
    site = random.choice(SITES)
    hop: dict[str, Any] = random.choice(
        [
            {"tunnel_id": random.choice(list(_TUNNELS))},
            {"tunnel_id": random.choice(_links(site))},
            {"tunnel_id": random.choice(_links(site))},
            {"uplink_id": site},
            {"via": random.choice(["10.95.1.2", "10.95.3.2", "10.95.2.1", "10.95.4.1", "10.65.0.77", "10.44.0.1"])},
        ]
    )
    prefix = random.choice(_PREFIXES)
    if "via" in hop and ":" in prefix:
        prefix = "10.80.0.0/16"
    origin, metric = random.choice(["static", "static", "learnt"]), random.choice([0, 0, 5, 300])
    return {"id": id_, "gateway_id": site, "prefix": prefix, "origin": origin, "metric": metric, **hop}


def _box(random: Random) -> str:
    return f"{random.choice(_PREFIXES)}{random.choice(_SERVICES)}"


def _rule(random: Random, id_: str) -> dict[str, Any]:
    site = random.choice(SITES)
    paths = [{"type": "tunnel", "id": link} for link in random.sample(_links(site), random.choice([0, 1, 1, 2]))]
    if random.random() < 0.15:
        paths.append({"type": "uplink", "id": site})
    return {
        "id": id_, "name": id_, "gateway_id": site, "position": random.randint(1, 9), "paths": paths,
        "sources": random.sample(_PREFIXES, random.choice([0, 1, 1, 2])),
        "destinations": [_box(random) for _ in range(random.choice([0, 1, 1, 2]))],
        "dscp": random.choice([[], [], ["EF"], ["DF"], ["EF", "AF31"]]),
        "marks": random.choice([None, None, None, "EF", "AF31"]),
        "on_failure": random.choice(["hold", "fall-through"]),
    }  # fmt: skip


def _filter(random: Random, id_: str) -> dict[str, Any]:
    return {
        "id": id_, "name": id_, "gateway_id": random.choice(SITES), "direction": random.choice(["in", "out", "through"]),
        "sources": random.sample(_PREFIXES, random.choice([0, 1])),
        "destinations": [_box(random) for _ in range(random.choice([0, 1, 2]))],
    }  # fmt: skip


def _translation(random: Random, id_: str) -> dict[str, Any]:
    inside = random.choice(list(_SEEN))
    behind = random.random() < 0.25
    site = "right" if inside.startswith("10.80") else "left"
    return {
        "id": id_, "name": id_, "gateway_id": site, "inside": inside,
        "outside": "10.96.0.1/32" if behind else random.choice([_SEEN[inside], "10.96.1.0/24"]),
        "kind": "behind-one" if behind else "one-to-one",
        "tunnel_id": random.choice([None, *_links(site)]),
    }  # fmt: skip


def _gateway(random: Random) -> dict[str, Any]:
    site, outranking = random.choice(SITES), random.choice(["nothing", "connected", "specific"])
    fields = {"id": site, "site_id": site, "name": site, "kind": "server"}
    return {**fields, "forwarding": random.random() < 0.7, "outranking": outranking}


def _by_networks(random: Random, tunnels: dict[str, Tunnel]) -> Tunnel:
    """A tunnel whose networks decide what goes in, or limit what routes lead into it."""
    tunnel = tunnels[random.choice(list(tunnels))]
    routed = random.random() < 0.6
    limits = random.choice(["", "", " tcp", " udp 53", " tcp 443"]) if routed else ""
    here = [f"{random.choice(_PREFIXES)}{random.choice(['', limits])}" for _ in range(random.choice([1, 2]))]
    there = [f"{random.choice(_PREFIXES)}{limits}" for _ in range(random.choice([1, 2]))]
    mirrored = {"left": (here, there), "right": (there, here)}
    document = tunnel.model_dump(mode="json")
    for side, (local, remote) in mirrored.items():
        document[side] |= {"local_networks": local, "remote_networks": remote, "mode": "route" if routed else "policy"}
    return Tunnel.model_validate(document)


@dataclass(frozen=True)
class World:
    """A design, what is down in it, and what its hosts ask for."""

    design: Design
    down: frozenset[str]
    requests: tuple[Request, ...]


def draw_world(random: Random) -> World:
    """Draw a design near to one in which everything works, and requests of its hosts."""
    base = base_objects()
    objects: dict[tuple[str, str], DesignMember] = {(type(member).__name__, member.id): member for member in base}
    drawers: dict[str, tuple[type[Any], Callable[[Random, str], dict[str, Any]], int]] = {
        "r": (Route, _route, 4), "p": (Rule, _rule, 4), "f": (Filter, _filter, 2), "x": (Translation, _translation, 2),
    }  # fmt: skip
    for stem, (model, drawer, most) in drawers.items():
        for k in range(random.choice([0, *range(most + 1)])):
            made = model.model_validate(drawer(random, f"{stem}{k}"))
            objects[model.__name__, made.id] = made
    if random.random() < 0.4:
        gateway = Gateway.model_validate(_gateway(random))
        objects["Gateway", gateway.id] = gateway
    if random.random() < 0.4:
        tunnel = _by_networks(
            random, {id_: candidate for (_, id_), candidate in objects.items() if isinstance(candidate, Tunnel)}
        )
        objects["Tunnel", tunnel.id] = tunnel
        if tunnel.left.mode is Mode.POLICY:  # these machines can't ask a policy for what has been translated
            objects = {key: member for key, member in objects.items() if not isinstance(member, Translation)}
    named = [member if not isinstance(member, Network) else _named(member) for member in objects.values()]
    dropped = {route.id for route in named if isinstance(route, Route) and route.id.startswith("w") and random.random() < 0.12}
    empty = Design(id="world", revision=0, name="world", key_salt="0" * 32)
    design = apply_operations(empty, [put(member) for member in named if member.id not in dropped])
    down = frozenset(random.sample(list(_TUNNELS), random.choice([0, 0, 0, 1, 1, 2])))
    return World(design, down, tuple(_request(random, design, FIRST_NUMBER + k) for k in range(24)))


def _named(network: Network) -> Network:
    places = sorted(_NETWORKS)  # as the design lists them
    return network.changed(interface=f"lan{places.index(network.id)}")


def _request(random: Random, design: Design, number: int) -> Request:
    family = random.choice([32, 32, 32, 128])
    here = [network for network in design.networks if network.prefix.family.bits == family]
    source = random.choice(here)
    target = random.choice([network for network in here if network.id != source.id])
    destination, protocol = host_of(target), random.choice(_PROTOCOLS)
    kind = random.random()
    if kind < 0.12 and target.gateway_address:
        destination, protocol = target.gateway_address, random.choice([ICMP, TCP])
    elif kind < 0.2 and family == 32:
        text = random.choice(["10.95.1.2", "10.95.3.1", "10.95.2.2", "10.95.4.2"])
        destination, protocol = Address(*parse_address(text)), ICMP
    elif kind < 0.35 and family == 32:
        text = random.choice(["10.99.0.10", "10.98.0.10", "10.97.0.10", "10.96.1.10"])
        destination = Address(*parse_address(text))
    dscp = random.choice([0, 0, 46, 26])
    return Request(number, source.id, host_of(source), destination, protocol, random.choice(PORTS), dscp)


# What the trace says, and what the machines do


def told(design: Design, down: frozenset[str], request: Request) -> Trace:
    """Return what the product says of a request."""
    protocol = request.protocol if request.protocol != ICMP or request.source.family.bits == 32 else 58
    ports = (0, 65_535) if request.protocol == ICMP else (request.port, request.port)
    flow = Flow(request.source, request.destination, Service((protocol, protocol), ports), request.dscp)
    return trace(Tables(design), flow, Conditions.of(design, down), design.network_by_id[request.network_id])


def _expected(found: Trace) -> Sent:
    answered = found.back is not None and found.back.end is End.ARRIVES
    return Sent(_places(found.forward), _places(found.back) if found.back else (), answered)


def _places(way: FlowPath) -> tuple[str, ...]:
    """Return what a way goes through, each once: what goes round in circles passes more often."""
    return tuple(dict.fromkeys([*way.tunnels, *(["outside"] if way.end in (End.UNPROTECTED, End.INTERNET) else [])]))


def by_plan(design: Design, down: frozenset[str]) -> dict[str, tuple[str, ...]]:
    """Return the commands of the product's own plan, by gateway."""
    del down  # the plan finds out what is up
    tables = Tables(design)
    found = {}
    for place, gateway in enumerate(design.gateways):
        texts = (f"198.51.100.{4 * place + 2}", f"2001:db8:{place + 1}::2")
        routers = {gateway.id: tuple(Address(*parse_address(text)) for text in texts)}
        plan = linux_plan(tables, gateway.id, {}, routers)
        assert plan.apply, plan.interfaces
        found[gateway.id] = plan.apply
    return found


Commands = Callable[[Design, frozenset[str]], dict[str, tuple[str, ...]]]
WAYS: Final[dict[str, Commands]] = {"by hand": commands, "by the plan": by_plan}


@dataclass(frozen=True)
class Disagreement:
    """A request of which the trace and the machines say different things, or a plan that stops."""

    way: str
    world: World
    request: Request | None
    said: str
    did: str

    def __str__(self) -> str:
        smallest = reduce(self)
        asked = smallest.request
        design = smallest.world.design
        base = {(type(member).__name__, member.id): member for member in base_objects()}
        changed = [
            candidate.model_dump_json(exclude_defaults=True)
            for items in design.by_type.values()
            for candidate in items.values()
            if not isinstance(candidate, Site) and _is_changed(candidate, base)
        ]
        flow = str(asked) if asked else ""
        gone = sorted(id_ for (kind, id_) in base if kind == "Route" and id_ not in {route.id for route in design.routes})
        lines = [
            f"{self.way}: {flow}",
            f"  down: {sorted(smallest.world.down)}; gone: {gone}",
            *(f"  {path}" for path in changed),
        ]
        return "\n".join([*lines, f"  the trace says: {smallest.said}", f"  the machines: {smallest.did}"])


def _is_changed(one: Any, base: dict[tuple[str, str], DesignMember]) -> bool:
    known = base.get((type(one).__name__, getattr(one, "id", "")))
    if isinstance(one, Network) and isinstance(known, Network):
        return one.changed(interface=None) != known
    return hasattr(one, "id") and known != one


def try_out(world: World, way: str) -> list[Disagreement]:
    """Make the machines of a world, and return where they do otherwise than the trace says."""
    with tempfile.TemporaryDirectory() as state, Machines(world.design, world.down, Path(state)) as machines:
        for gateway_id, lines in WAYS[way](world.design, world.down).items():
            machines.state_of(gateway_id).mkdir(exist_ok=True)
            stopped = machines.run(gateway_id, lines)
            if stopped:
                return [Disagreement(way, world, None, "the plan runs through", stopped)]
        sent = machines.send(list(world.requests))
        found = []
        for request in world.requests:
            said = told(world.design, world.down, request)
            if _expected(said) != sent[request.number]:
                again = machines.send([request], 4)[request.number]  # a busy machine may be late
                if _expected(said) != again:
                    found.append(Disagreement(way, world, request, f"{_expected(said)} ({said.verdict})", str(again)))
        return found


def reduce(one: Disagreement) -> Disagreement:
    """Return the smallest world, reached step by step, of which the two still disagree."""
    current = one
    asked = (one.request,) if one.request else ()
    progress = True
    while progress:
        progress = False
        for smaller in _simpler(current.world):
            tried = try_out(replace(smaller, requests=asked), one.way)
            if tried:
                current, progress = tried[0], True
                break
    return current


def _simpler(world: World) -> Iterable[World]:
    base = {(type(member).__name__, member.id): member for member in base_objects()}
    for id_ in sorted(world.down):
        yield replace(world, down=world.down - {id_})
    for items in world.design.by_type.values():
        for item in items.values():
            key = (type(item).__name__, str(getattr(item, "id", "")))
            if key not in base and hasattr(item, "id"):
                gone = Remove(type=ObjectType(type(item).__name__.lower()), id=key[1])
                yield replace(world, design=apply_operations(world.design, [gone]))
            elif isinstance(item, Gateway | Tunnel) and base[key] != item:
                yield replace(world, design=apply_operations(world.design, [put(base[key])]))


def judge(seeds: Iterable[int], ways: Iterable[str] = tuple(WAYS)) -> tuple[Counter[str], list[Disagreement]]:
    """Return how many requests of the worlds of some seeds end how, and all that the two disagree about."""
    counts: Counter[str] = Counter()
    found: list[Disagreement] = []
    for seed in seeds:
        world = draw_world(Random(seed))
        for request in world.requests:
            said = _expected(told(world.design, world.down, request))
            counts["answered" if said.answered else "arrives or leaves" if said.there else "lost at once"] += 1
        for way in ways:
            found += try_out(world, way)
    return counts, found
