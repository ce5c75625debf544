"""Killing the server, its database or all of it while changes are written, and holding what was told against what is there."""

from __future__ import annotations

import os
import signal
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from threading import Event, Lock, Timer
from time import sleep
from typing import Any, Final
from uuid import uuid4

import httpx

from tests.attack.meanwhile import signed_in
from tests.support.running import RunningProduct

WAYS: Final = ("server", "backend", "postmaster", "all", "server at its start")
_WRITERS: Final = 4
_DESIGN: Final = "/api/designs/skerry-line"
_TRIES: Final = 400  # of what answers again after a while


@dataclass
class Told:
    """What writers were told of each change, by the id of the site that it makes."""

    written: dict[str, str] = field(default_factory=dict)  # the id of the change
    refused: dict[str, str] = field(default_factory=dict)  # "nothing was written"
    unknown: dict[str, str] = field(default_factory=dict)
    errors: Counter[int] = field(default_factory=Counter)  # answers of 500 and more that aren't 503
    _lock: Lock = field(default_factory=Lock)

    def note(self, site: str, change: str, answer: httpx.Response | None) -> None:
        """Note an answer; none where the connection broke."""
        with self._lock:
            if answer is None:
                self.unknown[site] = change
            elif answer.is_success:
                self.written[site] = change
            elif answer.status_code == 503 and "Nothing was written" in answer.json()["detail"]:
                self.refused[site] = change
            elif answer.status_code == 503:
                self.unknown[site] = change
            else:
                self.errors[answer.status_code] += 1


@dataclass(frozen=True)
class Outcome:
    """What became of changes."""

    written: int
    unknown: int
    lost: frozenset[str]  # told as written, and not there
    untrue: frozenset[str]  # told as not written, by answer or by lookup, and there, or the other way round
    errors: Counter[int]


def kill(product: RunningProduct, cluster: Path, way: str) -> None:
    """Kill a part of a running product without warning."""
    postmaster = int((cluster / "data" / "postmaster.pid").read_text().split()[0])
    if way == "backend":
        for child in Path(f"/proc/{postmaster}/task/{postmaster}/children").read_text().split():
            if b"pontifex_application" in Path(f"/proc/{child}/cmdline").read_bytes():
                os.kill(int(child), signal.SIGKILL)
                return
        return
    if way in ("postmaster", "all"):
        os.kill(postmaster, signal.SIGKILL)
    if way != "postmaster":
        product.stop(signal.SIGKILL)
        if way == "server at its start":
            _start_and_kill(product)
        product.start()


def _start_and_kill(product: RunningProduct) -> None:
    timer = Timer(0.8, lambda: product.stop(signal.SIGKILL))
    timer.start()
    try:
        product.start()
    except (AssertionError, AttributeError):  # it was killed before it was ready
        pass
    finally:
        timer.join()
        product.stop(signal.SIGKILL)


def _site(id_: str) -> dict[str, Any]:
    return {"op": "put-site", "object": {"id": id_, "name": id_, "kind": "office"}}


def _write(product: RunningProduct, told: Told, ended: Event, writer: int) -> None:
    for number in range(100_000):
        if ended.is_set():
            return
        site, change = f"w{writer}-{number}-{uuid4().hex[:6]}", str(uuid4())
        body = {"base_revision": 0, "change_id": change, "note": "written", "operations": [_site(site)]}
        try:
            with signed_in(product) as client:
                told.note(site, change, client.post(f"{_DESIGN}/changes", json=body))
        except (httpx.HTTPError, AssertionError):
            told.note(site, change, None)
            sleep(0.05)


def under_fire(product: RunningProduct, cluster: Path, ways: list[str], between_s: float) -> Outcome:
    """Write changes from several sides, kill again and again, and look at what is there in the end."""
    told, ended = Told(), Event()
    with ThreadPoolExecutor(_WRITERS) as pool:
        writing = [pool.submit(_write, product, told, ended, writer) for writer in range(_WRITERS)]
        for way in ways:
            sleep(between_s)
            kill(product, cluster, way)
            _wait_until_it_answers(product)
        sleep(between_s)
        ended.set()
        for future in writing:
            future.result()
    return _held_against(product, told)


def _wait_until_it_answers(product: RunningProduct) -> None:
    for _ in range(_TRIES):
        try:
            with signed_in(product) as client:
                if client.get(f"{_DESIGN}/changes").is_success:
                    return
        except (httpx.HTTPError, AssertionError):
            pass
        sleep(0.1)
    raise AssertionError("it stays dead")


def _held_against(product: RunningProduct, told: Told) -> Outcome:
    with signed_in(product) as client:
        there = {site["id"] for site in client.get(_DESIGN).json()["sites"]}
        looked_up = {site: client.get(f"{_DESIGN}/changes/{change}").status_code for site, change in told.unknown.items()}
    untrue = {site for site in told.refused if site in there}
    untrue |= {site for site, status in looked_up.items() if (status == 200) != (site in there) or status not in (200, 404)}
    return Outcome(
        written=len(told.written),
        unknown=len(told.unknown),
        lost=frozenset(told.written.keys() - there),
        untrue=frozenset(untrue),
        errors=told.errors,
    )


@contextmanager
def running(state: Path) -> Iterator[RunningProduct]:
    """Give a product on a state directory of its own, stopped in the end."""
    product = RunningProduct(state)
    product.start()
    try:
        yield product
    finally:
        product.stop()
