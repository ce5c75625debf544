"""Measure what the product promises, each figure beside its bound and, where there is one, beside a baseline (`make bench`)."""

from __future__ import annotations

import gzip
import ipaddress
import platform
import random
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from itertools import combinations
from pathlib import Path

import httpx
import numpy as np
import pytricia

from pontifex.core.addressing import Family, Prefix, overlapping_pairs
from pontifex.core.design_file import write_design_file
from pontifex.core.findings import analyse
from pontifex.core.matching import match
from pontifex.core.model import Design
from tests.designs import SOUND, TODAY, generated
from tests.running import RunningProduct

WEB = Path(__file__).parents[2] / "web" / "dist" / "assets"


def row(what: str, measured: str, bound: str, holds: bool) -> bool:
    """Print one figure and say whether it holds."""
    print(f"{'holds ' if holds else 'MISSED'}  {what:<58} {measured:>22}   {bound}", flush=True)
    return holds


def median_s(work: Callable[[], object], times: int) -> float:
    """Return the median time of a piece of work, in seconds."""
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        taken.append(time.perf_counter() - started)
    return statistics.median(taken)


def unread(design: Design) -> Design:
    """Return the design as it comes from the database: nothing of it is worked out yet."""
    return Design.model_validate_json(design.model_dump_json())


def matching() -> list[bool]:
    """Comparing two ends, and all findings of a design."""
    design = generated(200)
    tunnel = design.tunnel_by_id[SOUND]
    one = median_s(lambda: match(design, tunnel, TODAY), 200) * 1000
    copies = [unread(design) for _ in range(9)]
    many = median_s(lambda: analyse(copies.pop(), TODAY), 9) * 1000
    return [
        row("match of one tunnel", f"{one:.2f} ms", "<= 1 ms", one <= 1),
        row(f"findings of a design with {len(design.tunnels)} tunnels", f"{many:.0f} ms", "<= 100 ms", many <= 100),
    ]


def random_prefixes(count: int) -> list[Prefix]:
    """Return random IPv4 prefixes of 16 to 32 bits."""
    draw = random.Random(11)
    lengths = [draw.randint(16, 32) for _ in range(count)]
    return [Prefix(Family.V4, draw.getrandbits(32) & ~Family.V4.host_mask(length), length) for length in lengths]


def radix_pairs(texts: list[str]) -> int:
    """Count overlapping pairs with a radix tree: for each prefix, walk up through those that contain it."""
    tree = pytricia.PyTricia(32)
    for text in texts:
        tree[text] = tree[text] + 1 if tree.has_key(text) else 1
    pairs = 0
    for text in tree:
        same, above = tree[text], tree.parent(text)
        pairs += same * (same - 1) // 2
        while above is not None:
            pairs += same * tree[above]
            above = tree.parent(above)
    return pairs


def overlap() -> list[bool]:
    """The overlap sweep beside the pairwise loop and beside a radix tree, all from the same prefixes."""
    prefixes = random_prefixes(100_000)
    texts = [str(prefix) for prefix in prefixes]
    ours = median_s(lambda: overlapping_pairs(prefixes), 5)
    radix = median_s(lambda: radix_pairs(texts), 3)
    assert radix_pairs(texts) == len(overlapping_pairs(prefixes))
    networks = [ipaddress.ip_network(text) for text in texts[:2000]]
    pairwise_2000 = median_s(lambda: sum(a.overlaps(b) for a, b in combinations(networks, 2)), 1)
    pairwise = pairwise_2000 * (100_000 / 2000) ** 2
    return [
        row("overlap sweep of 100,000 prefixes", f"{ours * 1000:.0f} ms", "", True),
        row(
            "  pairwise loop, extrapolated from 2,000, over ours",
            f"{pairwise / ours:,.0f} times",
            ">= 20 times",
            pairwise / ours >= 20,
        ),
        row("  radix tree library, over ours", f"{radix / ours:.1f} times", ">= 1 time", radix >= ours),
    ]


def through_the_door() -> list[bool]:
    """One change through the door to its answer on loopback, on 200 tunnels; and how soon a second start answers."""
    with tempfile.TemporaryDirectory(prefix="pontifex-bench-") as state:
        Path(state).chmod(0o711)
        product = RunningProduct(Path(state))
        product.start()
        try:
            p95 = _change_p95_ms(product)
        finally:
            product.stop()
        started = time.perf_counter()
        product.start()
        try:
            httpx.get(product.address, follow_redirects=True).raise_for_status()
            first_page = time.perf_counter() - started
        finally:
            product.stop()
    return [
        row("one change through the door to its answer, p95", f"{p95:.0f} ms", "<= 50 ms", p95 <= 50),
        row("second start to its first page", f"{first_page:.1f} s", "<= 5 s", first_page <= 5),
    ]


def _change_p95_ms(product: RunningProduct) -> float:
    taken = []
    with httpx.Client(base_url=product.base, timeout=30) as client:
        client.get(product.address)
        made = client.post("/api/designs/import", content=write_design_file(generated(200))).json()
        path = f"/api/designs/{made['id']}"
        tunnel = next(one for one in client.get(path).json()["tunnels"] if one["id"] == SOUND)
        for revision in range(120):
            tunnel["left"]["ike_lifetime_s"] = 3600 + revision
            operations = [{"op": "put-tunnel", "object": tunnel}]
            started = time.perf_counter()
            body = {"base_revision": revision, "note": "bench", "operations": operations}
            client.post(f"{path}/changes", json=body).raise_for_status()
            taken.append((time.perf_counter() - started) * 1000)
    return float(np.percentile(taken[20:], 95))


def first_page_script() -> list[bool]:
    """All script of the front end, gzipped: more than any first page loads."""
    total = sum(len(gzip.compress(file.read_bytes())) for file in WEB.glob("*.js")) / 1000
    return [row("script of all views together, gzipped", f"{total:.0f} kB", "<= 400 kB", total <= 400)]


def main() -> None:
    """Run all measurements; exit with 1 when a figure is missed."""
    print(f"{platform.machine()}, Python {platform.python_version()}, NumPy {np.__version__}\n")
    results = [*matching(), *overlap(), *through_the_door(), *first_page_script()]
    sys.exit(0 if all(results) else 1)


if __name__ == "__main__":
    main()
