"""The figures that are compared with an earlier revision, measured by whichever version of the product is on the path.

`python probe.py ROOT` reads what a figure is called, line by line, and prints its seconds. It finds its way in both versions.
"""

from __future__ import annotations

import importlib
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from functools import partial
from itertools import count
from typing import Any

ROOT = sys.argv[1]
sys.path[:0] = [f"{ROOT}/src", ROOT]


def first(*names: str) -> Any:
    """Return the first of some modules, or of their members after a colon, that this version has."""
    for name in names:
        module, _, member = name.partition(":")
        try:
            found = importlib.import_module(module)
            return getattr(found, member) if member else found
        except (ImportError, AttributeError):
            continue
    raise ImportError(names)


def seconds(work: Callable[[], object]) -> float:
    """Return how long a piece of work takes."""
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


DESIGNS = first("tests.support.designs", "tests.designs")
MODEL = first("pontifex.core.model")
ANALYSE = first("pontifex.core.findings:analyse")
MEMORY = first("pontifex.core.findings:AnalysisCache", "pontifex.core.findings:Memory")
ROUTING = first("pontifex.core.routing")
FAILING = first("pontifex.core.routing.trace.flow:Failing", "builtins:dict")
PREPARE = first("pontifex.collector:collect_seldom", "builtins:bool")  # a process as the server of each version prepares its own


def from_scratch(tunnels: int) -> Iterator[float]:
    """All findings of a design that nothing is known of."""
    document = DESIGNS.generated(tunnels).model_dump_json()
    while True:
        design = MODEL.Design.model_validate_json(document)  # as it comes from the database
        yield seconds(partial(ANALYSE, design, DESIGNS.TODAY))


def after_an_edit(tunnels: int) -> Iterator[float]:
    """Fresh findings after a change of one tunnel, the ones before it being known."""
    memory, design = MEMORY(), DESIGNS.generated(tunnels)
    ANALYSE(design, DESIGNS.TODAY, memory)
    for k in count():
        document = design.tunnel_by_id[DESIGNS.SOUND].model_dump()
        document["left"]["ike_lifetime_s"] = 3600 + k
        changed = type(design.tunnel_by_id[DESIGNS.SOUND]).model_validate(document)
        design = MODEL.apply_operations(design, [MODEL.put(changed)])
        yield seconds(partial(ANALYSE, design, DESIGNS.TODAY, memory))


def matrices(gateways: int) -> Iterator[float]:
    """What every network reaches of every other one."""
    hubs = DESIGNS.two_hubs(gateways)
    while True:
        yield seconds(lambda: ROUTING.matrix(ROUTING.Tables(hubs), ROUTING.Conditions()))


def sweeps(gateways: int) -> Iterator[float]:
    """The same with each part down in turn."""
    hubs = DESIGNS.two_hubs(gateways)
    while True:
        yield seconds(lambda: ROUTING.sweep(ROUTING.Tables(hubs), FAILING()))


def commands() -> Iterator[float]:
    """A command that asks for a few prefixes."""
    cover = [sys.executable, "-m", "pontifex.cli", "cover", "--only", "10.0.0.0/8"]
    environment = {"PYTHONPATH": f"{ROOT}/src", "PATH": "/usr/bin"}

    def command() -> object:
        return subprocess.run(cover, check=True, capture_output=True, env=environment, input=b"10.0.0.0/9\n10.128.0.0/9\n")

    while True:
        yield seconds(command)


FIGURES = {
    "findings of 200 tunnels from scratch": from_scratch(200),
    "findings of 1,000 tunnels from scratch": from_scratch(1000),
    "findings after an edit, 1,000 tunnels": after_an_edit(1000),
    "matrix of 200 gateways": matrices(200),
    "sweep of 200 gateways": sweeps(200),
    "command line, `cover`": commands(),
}


def main() -> None:
    """Measure each figure that is asked for once more, and print its seconds."""
    PREPARE()
    for line in sys.stdin:
        print(next(FIGURES[line.strip()]), flush=True)


if __name__ == "__main__":
    main()
