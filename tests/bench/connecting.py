"""From lines to forecasts: many branches connected through HTTP, and what partners write."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path
from random import Random

import httpx

from pontifex.core.forms import read_form
from pontifex.core.model import Design
from pontifex.core.starting import StartText, plan_sites
from tests.bench.figures import median_s, row
from tests.support.running import RunningProduct
from tests.truth import filled_in, written

_EMPTY = Design(id="bench", revision=0, name="Bench", key_salt="00" * 16)


def lines(branches: int) -> str:
    """Return a hub with so many branches, as a table."""
    rows = [f"Branch {k}\t10.{65 + k // 256}.{k % 256}.0/24\tbehind NAT" for k in range(branches)]
    return "\n".join(["site\tlan\twan", "Harbour\t10.64.0.0/22\t198.51.100.10", *rows])


def connected_s(client: httpx.Client, branches: int) -> float:
    """Return the seconds from asking for the tunnels of a hub to the forecasts of all of them."""
    design = f"/api/designs/{client.post('/api/designs', json={'name': f'Branches {branches}'}).json()['id']}"
    client.post(f"{design}/sites", json={"base_revision": 0, "start": {"text": lines(branches)}})
    sites = [site["id"] for site in client.get(design).json()["sites"]]
    standard = client.get(f"{design}/connections/offer").json()["standards"][0]["standard"]
    asked = {"site_ids": sites, "pattern": "hub", "hub_ids": ["harbour"], "standard": standard}
    started = time.perf_counter()
    client.post(f"{design}/connections", json={"base_revision": 1, "connect": asked}).raise_for_status()
    forecasts = client.get(f"{design}/analysis").json()["forecasts"]
    taken = time.perf_counter() - started
    assert [forecast["state"] for forecast in forecasts] == ["holds"] * branches
    return taken


def connecting() -> list[bool]:
    """Start the product, connect branches, and read what partners write."""
    with tempfile.TemporaryDirectory(prefix="pontifex-bench-") as state:
        Path(state).chmod(0o711)
        product = RunningProduct(Path(state))
        product.start()
        with httpx.Client(base_url=product.base, timeout=60) as client:
            client.get(product.address)
            few, many = connected_s(client, 100), connected_s(client, 1000)
        product.stop()
    read = median_s(lambda: plan_sites(_EMPTY, StartText(text=lines(9_999))), 3)
    random = Random(0)
    forms = [filled_in.render_form(filled_in.draw_form(random), random) for _ in range(40)]
    form = "\n".join("\n".join(forms).splitlines()[:60])
    taken = statistics.median(median_s(lambda: read_form(form), 5) for _ in range(3)) * 1000
    counts, _ = written.judge(range(2000))
    right, wrong = counts[written.RIGHT] / counts.total(), counts[written.WRONG]
    return [
        row("100 branches, from Apply to all forecasts", f"{few:.1f} s", "<= 5 s", few <= 5),
        row("1,000 branches, from Apply to all forecasts", f"{many:.1f} s", "<= 30 s", many <= 30),
        row("a table of 10,000 sites, read", f"{read:.1f} s", "<= 5 s", read <= 5),
        row("a partner's form of 60 lines, read", f"{taken:.0f} ms", "<= 100 ms", taken <= 100),
        row("texts of proposals that are right without a question", f"{right:.1%}", ">= 95%", right >= 0.95),
        row("texts of proposals that are silently wrong", f"{wrong}", "0", wrong == 0),
    ]
