"""Many people on one design: how long a change takes to its answer, and whether all of them are there in the end."""

from __future__ import annotations

import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Final

import httpx
import numpy as np

from tests.bench.figures import row
from tests.support.running import RunningProduct

_EDITORS: Final = 50
_CHANGES: Final = 6  # of each
_THINKS_S: Final = 1.0  # between two changes of one person, at most: nobody writes faster
_DESIGN: Final = "/api/designs/skerry-line"


def editors() -> list[bool]:
    """Let one person and then fifty change one design."""
    with tempfile.TemporaryDirectory(prefix="pontifex-editors-") as directory:
        Path(directory).chmod(0o711)
        product = RunningProduct(Path(directory) / "state")
        product.start()
        try:
            alone, _ = _edited(product, 1)
            together, lost = _edited(product, _EDITORS)
        finally:
            product.stop()
    one, all_ = (float(np.percentile(taken, 95)) for taken in (alone, together))
    return [
        row("a change, p95, one editor", f"{one * 1000:.0f} ms", "", True),
        row(f"a change, p95, {_EDITORS} editors of one design", f"{all_ * 1000:.0f} ms", "<= 500 ms", all_ <= 0.5),
        row("  of their changes lost", str(lost), "0", not lost),
    ]


def _edited(product: RunningProduct, people: int) -> tuple[list[float], int]:
    with ThreadPoolExecutor(people) as pool:
        taken = [pool.submit(_person, product, f"p{people}-{number}") for number in range(people)]
        times = [seconds for person in taken for seconds in person.result()]
    with httpx.Client(base_url=product.base, timeout=60) as client:
        client.get(product.address)
        there = {site["id"] for site in client.get(_DESIGN).json()["sites"]}
    wanted = {f"p{people}-{person}-{number}" for person in range(people) for number in range(_CHANGES)}
    return times, len(wanted - there)


def _person(product: RunningProduct, who: str) -> list[float]:
    """Make changes, with a while to think between them, each on what this person has seen last."""
    taken = []
    thinks = np.random.default_rng(abs(hash(who)) % 2**32)
    with httpx.Client(base_url=product.base, timeout=60) as client:
        client.get(product.address)
        revision = client.get(f"{_DESIGN}/changes").json()["revision"]
        for number in range(_CHANGES):
            time.sleep(float(thinks.uniform(0, _THINKS_S)))
            site = {"id": f"{who}-{number}", "name": f"{who}-{number}", "kind": "office"}
            change = {"base_revision": revision, "note": "bench", "operations": [{"op": "put-site", "object": site}]}
            started = time.perf_counter()
            answer = client.post(f"{_DESIGN}/changes", json=change).raise_for_status()
            taken.append(time.perf_counter() - started)
            revision = answer.json()["revision"]
    return taken
