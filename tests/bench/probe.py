"""The figures that are compared with an earlier revision, run by whichever version of the product is on the path.

`python probe.py ROOT` prints them as JSON: what each is called, and its seconds. It finds its way in both versions.
"""

from __future__ import annotations

import importlib
import json
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial
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


def unread(design: Any) -> Any:
    """Return the design as it comes from the database: nothing of it is worked out yet."""
    return type(design).model_validate_json(design.model_dump_json())


def from_scratch(tunnels: int, times: int) -> float:
    """All findings of a design that nothing is known of."""
    copies = [unread(DESIGNS.generated(tunnels)) for _ in range(times)]
    return statistics.median(seconds(partial(ANALYSE, design, DESIGNS.TODAY)) for design in copies)


def after_an_edit(tunnels: int, times: int) -> float:
    """Fresh findings after a change of one tunnel, the ones before it being known."""
    memory, design = MEMORY(), unread(DESIGNS.generated(tunnels))
    ANALYSE(design, DESIGNS.TODAY, memory)
    taken = []
    for k in range(times):
        document = design.tunnel_by_id[DESIGNS.SOUND].model_dump()
        document["left"]["ike_lifetime_s"] = 3600 + k
        changed = type(design.tunnel_by_id[DESIGNS.SOUND]).model_validate(document)
        design = MODEL.apply_operations(design, [MODEL.put(changed)])
        taken.append(seconds(partial(ANALYSE, design, DESIGNS.TODAY, memory)))
    return statistics.median(taken[2:])


def main() -> None:
    """Print all figures."""
    PREPARE()
    hubs = DESIGNS.two_hubs(200)
    cover = [sys.executable, "-m", "pontifex.cli", "cover", "--only", "10.0.0.0/8"]
    environment = {"PYTHONPATH": f"{ROOT}/src", "PATH": "/usr/bin"}

    def command() -> object:
        return subprocess.run(cover, check=True, capture_output=True, env=environment, input=b"10.0.0.0/9\n10.128.0.0/9\n")

    figures = {
        "findings of 200 tunnels from scratch": from_scratch(200, 5),
        "findings of 1,000 tunnels from scratch": from_scratch(1000, 3),
        "findings after an edit, 1,000 tunnels": after_an_edit(1000, 12),
        "matrix of 200 gateways": statistics.median(
            seconds(lambda: ROUTING.matrix(ROUTING.Tables(hubs), ROUTING.Conditions())) for _ in range(3)
        ),
        "sweep of 200 gateways": seconds(lambda: ROUTING.sweep(ROUTING.Tables(hubs), FAILING())),
        "command line, `cover`": statistics.median(seconds(command) for _ in range(5)),
    }
    print(json.dumps(figures))


if __name__ == "__main__":
    main()
