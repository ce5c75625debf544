"""What others get while the server works on designs and texts that are made to keep it busy."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import partial
from typing import Any, Final

import httpx

from pontifex.core.design_file import write_design_file
from pontifex.core.model import Design
from tests.bench.adversarial import one_lan, ring, rows_of_one_name_text, translating, wanting
from tests.support.running import RunningProduct

PATIENCE_S: Final = 120.0
Ask = Callable[[httpx.Client], httpx.Response]


@contextmanager
def signed_in(product: RunningProduct) -> Iterator[httpx.Client]:
    """Give a client with a session of its own."""
    with httpx.Client(base_url=product.base, timeout=PATIENCE_S) as client:
        assert client.get(product.address).status_code == 303
        yield client


@dataclass
class Meanwhile:
    """How long others waited, in seconds, by what they asked for; and how the heavy questions ended."""

    waited: dict[str, list[float]] = field(default_factory=dict)
    statuses: list[int] = field(default_factory=list)
    unfinished: int = 0  # heavy questions that were still worked on when the others had been answered

    def worst(self, what: str, share: float = 0.95) -> float:
        """Return how long the slowest of a share of the questions took."""
        times = sorted(self.waited[what])
        return times[min(len(times) - 1, int(len(times) * share))]


def heavy(product: RunningProduct, scale: int) -> Iterator[Ask]:
    """Yield questions that take long, each about a design or a text of its own."""
    designs: dict[str, tuple[Design, str]] = {
        "ring": (ring(scale * 8), "paths/sweep"),
        "one LAN": (one_lan(scale * 4), "analysis"),
        "its way out": (one_lan(scale * 2), "ways-out"),
        "translations": (translating(scale // 2), "analysis"),
        "wanted": (wanting(scale), "analysis"),
    }
    with signed_in(product) as client:
        for design, question in designs.values():
            made = client.post("/api/designs/import", content=write_design_file(design)).json()
            yield partial(_get, f"/api/designs/{made['id']}/{question}")
    rows = {"text": rows_of_one_name_text(scale * 600), "site_id": "ostvik"}
    yield partial(_post, "/api/designs/skerry-line/import-plan", rows)
    yield partial(_post, "/api/designs/skerry-line/import-plan", {"text": "10.0.0.1" + " " * 100_000 + "x"})
    yield partial(_post, "/api/proposals/read", {"text": "group" + " 1," * 6000, "protocol": "ike"})


def _get(path: str, client: httpx.Client) -> httpx.Response:
    return client.get(path)


def _post(path: str, body: dict[str, Any], client: httpx.Client) -> httpx.Response:
    return client.post(path, json=body)


def _asked(product: RunningProduct, ask: Ask) -> int:
    with signed_in(product) as client:
        return ask(client).status_code


def _others(client: httpx.Client, found: Meanwhile, number: int) -> None:
    """Ask what others ask: whether the server is alive, to read and to change a small design."""
    yard = {"op": "put-site", "object": {"id": "yard", "name": f"Yard {number}", "kind": "office"}}
    change = {"base_revision": number, "note": "The yard", "operations": [yard]}
    asks: dict[str, Callable[[], httpx.Response]] = {
        "health": lambda: client.get("/api/health"),
        "read": lambda: client.get("/api/designs/small"),
        "change": lambda: client.post("/api/designs/small/changes", json=change),
        "list": lambda: client.get("/api/designs"),
    }
    for what, ask in asks.items():
        started = time.perf_counter()
        answer = ask()
        found.waited.setdefault(what, []).append(time.perf_counter() - started)
        assert answer.is_success, answer.text


def meanwhile(product: RunningProduct, scale: int, rounds: int) -> Meanwhile:
    """Ask all heavy questions at once, and as others do for some rounds meanwhile."""
    found = Meanwhile()
    asks = list(heavy(product, scale))
    with signed_in(product) as client, ThreadPoolExecutor(len(asks)) as pool:
        assert client.post("/api/designs", json={"name": "Small"}).status_code == 201
        working: list[Future[int]] = [pool.submit(_asked, product, ask) for ask in asks]
        for number in range(rounds):
            _others(client, found, number)
        found.unfinished = sum(not future.done() for future in working)
        found.statuses = [future.result(PATIENCE_S) for future in working]
    return found
