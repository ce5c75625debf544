"""Random gateways with rules, routes, filters and translations at one tunnel: what hosts try through it, against the trace."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from random import Random
from typing import Any, Final

from pontifex.core.kinds import DesignMember, Filter, Gateway, Network, Route, Rule, Translation, TunnelEnd
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.rehearsal import NotRehearsed, RehearsalConditions, rehearse
from pontifex.core.rehearsal.probes import PACKETS
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, SIDE_NAMES, design_of

_LANS: Final = {
    "left": ("10.64.0.0/24", "10.64.1.0/24"),
    "right": ("10.65.0.0/24", "10.65.1.0/24"),
}
_SEEN: Final = {"left": "10.98.0.0/24", "right": "10.99.0.0/24"}  # of the first network of a side, where it is translated
_OTHER: Final = {"left": "right", "right": "left"}
_MOSTLY: Final = 0.9
_UNTIL_S: Final = 5.0
_ALL: Final = ("10.64.0.0/23", "10.65.0.0/23", "10.98.0.0/24", "10.99.0.0/24", "0.0.0.0/0")
_BOXES: Final = (
    "10.64.0.0/24", "10.65.0.0/24", "10.65.0.10/32", "10.64.0.0/23", "10.65.0.0/23", "10.99.0.0/24", "10.98.0.0/24", "0.0.0.0/0",
)  # fmt: skip
_SERVICES: Final = ("", "", "", " tcp", " tcp 443", " tcp 80", " udp 53", " icmp")


def draw_design(random: Random) -> Design:
    """Return a tunnel that comes up, between two gateways that forward by whatever has been drawn."""
    design = design_of(AGREED)
    objects: list[DesignMember] = [*_networks(random)]
    for side in SIDE_NAMES:
        objects += _ways(side) if random.random() < _MOSTLY else ()
        objects += [_route(random, side, place) for place in range(random.choice([0, 0, 1, 3]))]
        objects += [_rule(random, side, place) for place in range(random.choice([0, 0, 1, 3]))]
        objects += [_filter(random, side, place) for place in range(random.choice([0, 0, 0, 1, 2]))]
        objects += [_translation(random, side, place) for place in range(random.choice([0, 0, 0, 1, 2]))]
    gateways = tuple(
        Gateway.model_validate({**gateway.model_dump(mode="json"), **_gateway(random, gateway.id)}) for gateway in design.gateways
    )
    tunnel = design.tunnels[0]
    by_routes = random.random() < 0.6
    ends = [_end(random, side, end, by_routes) for side, end in zip(SIDE_NAMES, (tunnel.left, tunnel.right), strict=True)]
    design = design.changed(gateways=gateways, tunnels=(tunnel.changed(left=ends[0], right=ends[1]),))
    return apply_operations(design, [put(member) for member in objects])


def _end(random: Random, side: str, end: TunnelEnd, by_routes: bool) -> TunnelEnd:
    """Both ends name each other's networks as these are seen, or everything."""
    if by_routes:
        fields: dict[str, Any] = {"mode": "route", "local_networks": ["0.0.0.0/0"], "remote_networks": ["0.0.0.0/0"]}
        if random.random() < 0.7:
            fields["inner_address"] = {"left": "10.95.0.1/30", "right": "10.95.0.2/30"}[side]
    else:
        named = {side: [*_LANS[side], _SEEN[side]] for side in SIDE_NAMES}
        fields = {"mode": "policy", "local_networks": named[side], "remote_networks": named[_OTHER[side]]}
    return TunnelEnd.model_validate({**end.model_dump(mode="json"), **fields})


def _networks(random: Random) -> Iterable[Network]:
    for side, prefixes in _LANS.items():
        for place, prefix in enumerate(random.sample(prefixes, random.choice([1, 2, 2]))):
            router = prefix.replace("0/24", "1")
            vias = [f"{random.choice(_ALL)} via {prefix.replace('0/24', random.choice(['1', '77', '2']))}"]
            resolvers = [router, "10.64.0.53", "10.65.0.53", "203.0.113.53", "10.44.0.1"]
            fields = {
                "id": f"{side}-{place}", "site_id": side, "name": f"{side}-{place}", "prefix": prefix, "gateway_address": router,
                "dhcp_routes": vias if random.random() < 0.2 else [], "zone": random.choice(["", "", "", "", "", "guests"]),
                "resolvers": random.sample(resolvers, random.choice([0, 1, 2])),
            }  # fmt: skip
            yield Network.model_validate(fields)


def _gateway(random: Random, side: str) -> dict[str, Any]:
    return {
        "forwarding": random.random() < _MOSTLY,
        "keeps_state": random.random() < 0.7,
        "default_router": random.random() < _MOSTLY,
        "outranking": random.choice(["nothing", "nothing", "connected", "specific"]),
        "inside_address": random.choice([None, None, _LANS[side][0].replace("0/24", "2")]),
    }


def _ways(side: str) -> list[Route]:
    """Routes to all of the far side, as it is there and as it may be seen."""
    wanted = (*_LANS[_OTHER[side]], _SEEN[_OTHER[side]])
    fields = [
        {"id": f"{side}-to-{place}", "gateway_id": side, "prefix": text, "tunnel_id": "tunnel"}
        for place, text in enumerate(wanted)
    ]
    return [Route.model_validate(field) for field in fields]


def _route(random: Random, side: str, place: int) -> Route:
    prefix = random.choice([*_LANS[_OTHER[side]], *_BOXES, "10.64.0.0/15", "10.65.0.0/16", _SEEN[_OTHER[side]], "10.65.0.0/25"])
    fields = {"id": f"{side}-way-{place}", "gateway_id": side, "prefix": prefix, "tunnel_id": "tunnel"}
    origin = random.choice(["static", "static", "learnt"])
    return Route.model_validate({**fields, "origin": origin, "metric": random.choice([0, 5])})


def _box(random: Random) -> str:
    return f"{random.choice(_BOXES)}{random.choice(_SERVICES)}"


def _rule(random: Random, side: str, place: int) -> Rule:
    fields = {
        "id": f"{side}-rule-{place}", "name": f"rule {place}", "gateway_id": side, "position": random.randint(1, 9),
        "sources": random.sample(_BOXES, random.choice([0, 1])),
        "destinations": [_box(random) for _ in range(random.choice([0, 1, 2]))],
        "paths": random.choice([[], [{"type": "tunnel", "id": "tunnel", "most_delay_ms": random.choice([None, 5, 500])}]]),
        "dscp": random.choice([[], [], ["EF"], ["DF"]]), "marks": random.choice([None, None, "EF"]),
        "on_failure": random.choice(["hold", "fall-through", "fall-through"]),
    }  # fmt: skip
    return Rule.model_validate(fields)


def _filter(random: Random, side: str, place: int) -> Filter:
    fields = {
        "id": f"{side}-filter-{place}", "name": f"filter {place}", "gateway_id": side,
        "direction": random.choice(["in", "out", "through"]), "sources": random.sample(_BOXES, random.choice([0, 0, 1])),
        "destinations": [_box(random) for _ in range(random.choice([0, 1, 2]))],
    }  # fmt: skip
    return Filter.model_validate(fields)


def _translation(random: Random, side: str, place: int) -> Translation:
    whose = random.choice(["own", "own", "far"])
    network = _LANS[side if whose == "own" else _OTHER[side]][0]
    kind = random.choice(["one-to-one", "one-to-one", "behind-one"])
    seen = _SEEN[side if whose == "own" else _OTHER[side]]
    fields = {"id": f"{side}-seen-{place}", "name": f"seen {place}", "gateway_id": side, "side": whose, "kind": kind}
    outside = seen if kind == "one-to-one" else seen.replace("0/24", "7/32")
    return Translation.model_validate({**fields, "inside": network, "outside": outside})


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Return what became of the trials of some seeds, and where they went another way than the trace says."""
    ends: Counter[str] = Counter()
    differing: list[str] = []
    for seed in seeds:
        design = draw_design(Random(seed))
        found = rehearse(design, design.tunnels[0], TODAY, RehearsalConditions(until_s=_UNTIL_S, with_hosts=True))
        if isinstance(found, NotRehearsed):
            differing.append(f"seed {seed}: not rehearsed: {found.reasons}")
            continue
        for pair in found.probes:
            tried = pair.after
            if tried.kind in PACKETS:
                continue
            ends[f"{tried.kind.value} {'passes' if tried.passes else 'lost'}"] += 1
            if not pair.agrees:
                ends["differ"] += 1
                differing.append(
                    f"seed {seed}: {tried.kind.value} from the {tried.sender.value}: {tried.text}; "
                    f"foreseen {'to pass' if pair.expected else 'to be lost'} {list(map(str, pair.foreseen))}"
                )
    return ends, differing
