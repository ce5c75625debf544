"""Designs and texts that grow where an attack found a cliff: time by size, and the exponent that fits it."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

from pontifex.collector import collect_seldom
from pontifex.core.addressing import Family, Prefix, parse_prefix
from pontifex.core.as_json import json_octets
from pontifex.core.findings import analyse
from pontifex.core.importing import plan_import, read_text
from pontifex.core.ipsec.reading.reader import read_proposals
from pontifex.core.kinds import Gateway, Host, Intent, Mode, Network, Route, Rule, Site, Translation, Tunnel
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.routing import Conditions, Tables, matrix, sweep
from pontifex.core.routing.trace.flow import Failing
from pontifex.core.space.ways_out import ways_out
from pontifex.demo import demo_design
from pontifex.services.analyses import MOST_SHOWN
from pontifex.services.path_questions import letters
from tests.bench.figures import row
from tests.support.designs import SOUND, TODAY, crowded

DEMO: Final = demo_design()
_SUPERNET: Final = parse_prefix("10.0.0.0/8")


@dataclass(frozen=True)
class GrowingInput:
    """Inputs that grow: what is done with one, the sizes, the most seconds at the last, and the exponent expected."""

    name: str
    work: Callable[[int], Callable[[], object]]
    sizes: tuple[int, ...]
    most_s: float
    exponent: float


def _site(k: int) -> list[Any]:
    return [Site(id=f"s{k}", name=f"Site {k}"), Gateway(id=f"g{k}", site_id=f"s{k}", name=f"gate {k}")]


def _network(site: int, part: int, prefix: str) -> Network:
    return Network(id=f"n{site}-{part}", site_id=f"s{site}", name=f"net {part}", prefix=parse_prefix(prefix))


def _tunnel(id_: str, left: int, right: int) -> Tunnel:
    pattern = DEMO.tunnel_by_id[SOUND]
    bare: dict[str, Any] = {"mode": Mode.ROUTE, "local_networks": (), "remote_networks": (), "uplink_id": None}
    ends = (end.with_valid({**bare, "gateway_id": f"g{at}"}) for end, at in ((pattern.left, left), (pattern.right, right)))
    near, far = ends
    return Tunnel(id=id_, name=id_, left=near, right=far)


def _design(objects: list[Any]) -> Design:
    empty = Design(id="x", revision=0, name="x", key_salt="0" * 32, supernets=(_SUPERNET,))
    return apply_operations(empty, [put(item) for item in objects])


def translating(hops: int) -> Design:
    """Return two tunnels a hop, one of which shows the next lower block as its neighbour: what is seen doubles with each."""
    objects = [item for k in range(hops + 1) for item in _site(k)]
    for k in range(hops):
        objects += [_tunnel(f"a{k}", k, k + 1), _tunnel(f"b{k}", k, k + 1)]
        inside, outside = (Prefix(Family.V4, (10 << 24) + bit, 32 - k) for bit in (0, 1 << k))
        fields = {"id": f"t{k}", "name": f"t{k}", "gateway_id": f"g{k}", "tunnel_id": f"b{k}", "side": "own"}
        objects.append(Translation.model_validate({**fields, "inside": str(inside), "outside": str(outside)}))
    return _design([*objects, _network(0, 0, "10.0.0.0/32"), _network(hops, 0, "10.0.0.0/8")])


def translations_in_a_row(hops: int) -> Callable[[], object]:
    """What is found in such a row."""
    design = translating(hops)
    return lambda: analyse(design, TODAY)


def wanting(networks: int) -> Design:
    """Return six intents between two sites of many networks, with no route."""
    objects = [*_site(0), *_site(1), _tunnel("t", 0, 1)]
    objects += [_network(site, k, f"10.{site + 1}.{k}.0/24") for site in range(2) for k in range(networks)]
    ends = {"sources": [{"type": "site", "id": "s0"}], "destinations": [{"type": "site", "id": "s1"}], "both_ways": True}
    for k in range(6):
        objects.append(Intent.model_validate({"id": f"i{k}", "name": f"want {k}", "services": [f"tcp {440 + k}"], **ends}))
    return _design(objects)


def wanted_pairs(networks: int) -> Callable[[], object]:
    """What is found of what is wanted."""
    design = wanting(networks)
    return lambda: analyse(design, TODAY)


def ring(sites: int) -> Design:
    """Return sites in a ring, each of which sends all to the next one, and to the one before what stands there."""
    blocks = [f"10.{k // 256}.{k % 256}.0/24" for k in range(sites)]
    objects = [
        item for k in range(sites) for item in (*_site(k), _network(k, 0, blocks[k]), _tunnel(f"t{k}", k, (k + 1) % sites))
    ]
    for k in range(sites):
        before = (k - 1) % sites
        for id_, prefix, tunnel in ((f"on{k}", "10.0.0.0/8", k), (f"back{k}", blocks[before], before)):
            objects.append(Route.model_validate({"id": id_, "gateway_id": f"g{k}", "prefix": prefix, "tunnel_id": f"t{tunnel}"}))
    return _design(objects)


def sweep_of_a_ring(sites: int) -> Callable[[], object]:
    """Every single failure of a ring."""
    design = ring(sites)
    return lambda: sweep(Tables(design), Failing())


def matrix_of_networks(networks: int) -> Callable[[], object]:
    """Who reaches whom among branches of many networks."""
    design = crowded(networks, 100)

    def work() -> object:
        return tuple(letters(matrix(Tables(design), Conditions.of(design))))

    return work


def rules_of_a_gateway(rules: int) -> Callable[[], object]:
    """Rules of one gateway that all overlap in part."""
    objects: list[Any] = [*_site(0), *_site(1), _network(0, 0, "10.1.0.0/16"), _network(1, 0, "10.2.0.0/16"), _tunnel("t", 0, 1)]
    for k in range(rules):
        port = 1000 + k * 150
        fields = {"id": f"r{k}", "name": f"r{k}", "gateway_id": "g0", "position": k + 1, "paths": [{"type": "tunnel", "id": "t"}]}
        chosen = {"sources": [f"10.1.{k % 256}.0/24"], "destinations": [f"10.2.0.0/16 tcp {port}-{port + 9000}"]}
        objects.append(Rule.model_validate({**fields, **chosen}))
    design = _design(objects)
    return lambda: analyse(design, TODAY)


def one_lan(branches: int) -> Design:
    """Return branches that all have one LAN, and a site that they are joined to."""
    objects = [*_site(0), _network(0, 0, "10.0.1.0/24")]
    for k in range(1, branches + 1):
        objects += [*_site(k), _network(k, 0, "192.168.1.0/24"), _tunnel(f"t{k}", 0, k)]
        hosts = range(2, 2 + k * 7 % 13)
        objects += [
            Host.model_validate({"id": f"h{k}-{at}", "network_id": f"n{k}-0", "name": f"h{at}", "address": f"192.168.1.{at}"})
            for at in hosts
        ]
    return _design(objects)


def one_lan_everywhere(branches: int) -> Callable[[], object]:
    """What is found where all have one LAN."""
    design = one_lan(branches)
    return lambda: analyse(design, TODAY)


def ways_out_of_one_lan(branches: int) -> Callable[[], object]:
    """The cheapest way out of it, of which all but one move."""
    design = one_lan(branches)
    return lambda: ways_out(design)


def _imported(text: str) -> Callable[[], object]:
    def work() -> object:
        kind, records = read_text(text)
        return plan_import(DEMO, kind, records, "ostvik")

    return work


def rows_of_one_name_text(rows: int) -> str:
    """Return networks that all have one name, a line each."""
    return "\n".join(f"lan 10.{96 + k // 65536}.{k // 256 % 256}.{k % 256}/32" for k in range(rows))


def rows_of_one_name(rows: int) -> Callable[[], object]:
    """Networks that all have one name."""
    return _imported(rows_of_one_name_text(rows))


def hosts_of_one_network(hosts: int) -> Callable[[], object]:
    """Hosts that stand in one large network."""
    return _imported("10.96.0.0/16 big\n" + "\n".join(f"host{k} 10.96.{k // 256}.{k % 256}" for k in range(1, hosts)))


def blanks_behind_an_address(blanks: int) -> Callable[[], object]:
    """A line that is mostly blanks."""
    return _imported("10.0.0.1" + " " * blanks + "x")


def a_long_list_of_groups(characters: int) -> Callable[[], object]:
    """Proposals as long as they may be."""
    return lambda: read_proposals("group" + " 1," * (characters // 3))


def blanks_in_proposals(characters: int) -> Callable[[], object]:
    """Proposals of a few words and many blanks."""
    return lambda: read_proposals(("prf hmac aes gcm" + " " * (characters // 4 - 16)) * 4)


FAMILIES: Final = (
    GrowingInput("translations in a row", translations_in_a_row, (10, 14, 20, 26), 5, 3.5),
    GrowingInput("six intents between two sites, networks of each", wanted_pairs, (10, 15, 25), 0.3, 2.2),
    GrowingInput("branches with one LAN", one_lan_everywhere, (50, 100, 200), 5, 1.8),
    GrowingInput("the way out of it", ways_out_of_one_lan, (25, 50, 100), 1, 2.4),
    GrowingInput("sweep of a ring", sweep_of_a_ring, (100, 200, 400), 5, 2.2),
    GrowingInput("matrix and its letters, networks", matrix_of_networks, (700, 1500, 2990), 5, 2.2),
    GrowingInput("rules of one gateway", rules_of_a_gateway, (80, 160, 320), 5, 2.2),
    GrowingInput("800 sites with one prefix, and fewer", one_lan_everywhere, (200, 400, 800), 1, 1.8),
    GrowingInput("import: rows of one name", rows_of_one_name, (2000, 4000, 16_000), 10, 1.3),
    GrowingInput("import: hosts of one network", hosts_of_one_network, (2000, 4000, 8000), 10, 1.3),
    GrowingInput("import: blanks behind an address", blanks_behind_an_address, (25_000, 50_000, 100_000), 1, 1.2),
    GrowingInput("proposals: a long list of groups", a_long_list_of_groups, (4500, 9000, 18_000), 2, 1.2),
    GrowingInput("proposals: blanks", blanks_in_proposals, (5000, 10_000, 20_000), 1, 1.2),
)


def adversarial() -> list[bool]:
    """Time each family by size, with the exponent that fits, in a process that is set up as the product's own are."""
    collect_seldom()
    held = []
    for growing_input in FAMILIES:
        times = []
        for size in growing_input.sizes:
            work = growing_input.work(size)
            started = time.perf_counter()
            work()
            times.append(time.perf_counter() - started)
        exponent = fitted(growing_input.sizes, times)
        measured = f"{times[-1]:.2f} s at {growing_input.sizes[-1]}, n^{exponent:.1f}"
        held.append(
            row(
                growing_input.name,
                measured,
                f"<= {growing_input.most_s} s, n^{growing_input.exponent}",
                times[-1] <= growing_input.most_s and exponent <= growing_input.exponent,
            )
        )
    answer = analyse(one_lan(800), TODAY).first(MOST_SHOWN)
    octets = len(json_octets(answer.overlaps)) + len(json_octets(answer.findings))
    name = "answer of 800 sites with one prefix: collisions and findings"
    held.append(row(name, f"{octets / 1e6:.2f} MB", "<= 1 MB", octets <= 1_000_000))
    return held


def fitted(sizes: tuple[int, ...], times: list[float]) -> float:
    """Return the exponent of the power of the size that fits times best, by least squares of logarithms."""
    xs, ys = [math.log(size) for size in sizes], [math.log(max(taken, 1e-5)) for taken in times]
    mean_x, mean_y = sum(xs) / len(xs), sum(ys) / len(ys)
    return sum((x - mean_x) * (y - mean_y) for x, y in zip(xs, ys, strict=True)) / sum((x - mean_x) ** 2 for x in xs)


if __name__ == "__main__":
    adversarial()
