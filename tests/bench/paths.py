"""Figures of paths: one flow, all flows, every failure, look-ups, and the preview of a moved rule."""

from __future__ import annotations

import json
import random
import resource
import subprocess
import sys
import time

import numpy as np
import pytricia

from pontifex.core.addressing import Address, Family, Prefix
from pontifex.core.addressing.address import format_address
from pontifex.core.addressing.longest_prefix import LongestPrefixes
from pontifex.core.kinds import Rule
from pontifex.core.model import apply_operations, put
from pontifex.core.routing import Conditions, Flow, Tables, matrix, sweep, trace
from pontifex.core.routing.all_flows.sweep import suspects
from pontifex.core.routing.rules.rules import RuleList
from pontifex.core.routing.trace.flow import Failing
from tests.bench.figures import median_s, row
from tests.support.designs import bare_demo, two_hubs

_SCRATCH = 6  # failures that are also worked out from scratch, to compare


def paths() -> list[bool]:
    """All figures of paths."""
    return [*_one_flow(), *_all_flows(), *_look_ups(), *_moved_rule()]


def _one_flow() -> list[bool]:
    design = two_hubs(1000)
    tables, conditions = Tables(design), Conditions()
    networks = random.Random(5).sample(design.networks, 400)
    ends = [Address(Family.V4, network.prefix.network + 9) for network in networks]
    flows = [Flow(begin, end) for begin, end in zip(ends[::2], ends[1::2], strict=True)]
    trace(tables, flows[0], conditions)
    taken = median_s(lambda: [trace(tables, flow, conditions) for flow in flows], 3) * 1000 / len(flows)
    return [row("one trace at 1,000 gateways", f"{taken:.2f} ms", "<= 2 ms", taken <= 2)]


def _all_flows() -> list[bool]:
    """The matrix in a process of its own, so that its memory can be told; then the sweep."""
    measured = json.loads(subprocess.run([sys.executable, "-m", "tests.bench.paths"], check=True, capture_output=True).stdout)
    design = two_hubs(500)
    tables = Tables(design)
    everything = list(suspects(design))
    started = time.perf_counter()
    sweep(tables, Failing())
    swept = time.perf_counter() - started
    some = random.Random(7).sample(everything, _SCRATCH)
    anew = median_s(lambda: matrix(Tables(design), Conditions.of(design, frozenset({some.pop().id}))), _SCRATCH) * len(everything)
    seconds, peak = measured["seconds"], measured["peak_mb"]
    ratio = anew / swept
    return [
        row("matrix of 2,000 networks behind 500 gateways", f"{seconds:.2f} s", "<= 3 s", seconds <= 3),
        row("its peak memory, with the design", f"{peak:.0f} MB", "<= 1000 MB", peak <= 1000),
        row(f"sweep over {len(everything)} single failures of it", f"{swept:.0f} s", "<= 60 s", swept <= 60),
        row("the same, times faster than from scratch (extrapolated)", f"{ratio:.0f}", ">= 10", ratio >= 10),
    ]


def _look_ups() -> list[bool]:
    draw = random.Random(11)
    lengths = [draw.choice((8, 12, 16, 20, 22, 24, 24, 24, 28, 32)) for _ in range(100_000)]
    prefixes = [Prefix(Family.V4, draw.getrandbits(32) & ~Family.V4.host_mask(length), length) for length in lengths]
    addresses = np.array([draw.getrandbits(32) for _ in range(1_000_000)], dtype=np.int64)
    table = LongestPrefixes(Family.V4, prefixes)
    taken = median_s(lambda: table.look_up(addresses), 5)
    tree = pytricia.PyTricia(32)
    for place, prefix in enumerate(prefixes):
        if not tree.has_key(str(prefix)):  # `in` would ask for any prefix around it
            tree[str(prefix)] = place
    texts = [format_address(Family.V4, value) for value in addresses.tolist()]
    found = [tree.get(text, -1) for text in texts]
    assert found == table.look_up(addresses).tolist()
    looped = median_s(lambda: [tree.get(text, -1) for text in texts], 3)
    shown = f"{taken * 1000:.0f} ms, {looped / taken:.1f} times"
    return [row("a million look-ups in 100,000 routes, against a radix tree", shown, ">= 5 times faster", looped / taken >= 5)]


def _moved_rule() -> list[bool]:
    paths_ = [{"type": "tunnel", "id": "harbour-ostvik"}]
    fields = {"gateway_id": "harbour-gateway", "paths": paths_, "on_failure": "hold"}
    rules = [
        Rule.model_validate(
            {
                "id": f"r{k}",
                "name": f"r{k}",
                "position": k + 1,
                "sources": [f"10.64.{k % 4}.0/24"],
                "destinations": [f"10.{k % 250}.0.0/16 tcp {k + 1}-{k + 900}"],
                **fields,
            }
        )
        for k in range(499)
    ]
    rules.append(Rule.model_validate({"id": "all", "name": "all", "position": 500, **fields, "paths": []}))
    design = apply_operations(bare_demo(), [put(rule) for rule in rules])
    gateway = design.gateway_by_id["harbour-gateway"]
    taken = median_s(lambda: RuleList.of(Tables(design), gateway).moved("all", 0), 5) * 1000
    return [row("what a move among 500 rules changes", f"{taken:.0f} ms", "<= 100 ms", taken <= 100)]


def main() -> None:
    """Work the matrix out, alone, and print its time and the peak of memory."""
    design = two_hubs(500)
    started = time.perf_counter()
    matrix(Tables(design), Conditions.of(design))
    seconds = time.perf_counter() - started
    print(json.dumps({"seconds": seconds, "peak_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024}))


if __name__ == "__main__":
    main()
