"""The same figures of this revision and of an earlier one, in turns on one machine, each with an environment of its own."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import venv
from pathlib import Path
from typing import Final

from tests.bench.figures import row

ROOT: Final = Path(__file__).parents[2]
BASELINE: Final = ROOT / ".state" / "baseline"
REVISION: Final = "98f6e52"
_NO_SLOWER: Final = 0.9  # where nothing was promised: at most a tenth slower
_WARMING: Final = 1  # turns that don't count: what is made when it is first needed
# how many times faster than the earlier revision each is to be at least, and in how many turns that is measured
_FIGURES: Final = {
    "findings of 200 tunnels from scratch": (3.0, 25),
    "findings of 1,000 tunnels from scratch": (3.0, 7),
    "findings after an edit, 1,000 tunnels": (2.0, 25),
    "matrix of 200 gateways": (_NO_SLOWER, 5),
    "sweep of 200 gateways": (_NO_SLOWER, 3),
    "command line, `cover`": (4.0, 9),
}


class _Probe:
    """A process of a version that measures what it is asked for."""

    def __init__(self, interpreter: Path, root: Path) -> None:
        command = [str(interpreter), str(ROOT / "tests" / "bench" / "probe.py"), str(root)]
        pipe = subprocess.PIPE
        self._process = subprocess.Popen(command, stdin=pipe, stdout=pipe, stderr=subprocess.DEVNULL, text=True)
        os.sched_setaffinity(self._process.pid, {max(os.sched_getaffinity(0))})  # both on one core: each has a speed of its own

    def __enter__(self) -> _Probe:
        return self

    def __exit__(self, *_: object) -> None:
        self._process.communicate()

    def seconds(self, figure: str) -> float:
        """Measure a figure once more."""
        assert self._process.stdin
        assert self._process.stdout
        print(figure, file=self._process.stdin, flush=True)
        return float(self._process.stdout.readline())


def beside() -> list[bool]:
    """Compare with the earlier revision: both take turns at each figure, since a machine's speed changes within seconds."""
    held = []
    with _Probe(_prepared(), BASELINE) as earlier, _Probe(Path(sys.executable), ROOT) as present:
        for figure, (wanted, turns) in _FIGURES.items():
            pairs = [(earlier.seconds(figure), present.seconds(figure)) for _ in range(turns + _WARMING)][_WARMING:]
            times = statistics.median(before / now for before, now in pairs)
            before, now = (statistics.median(taken) * 1000 for taken in zip(*pairs, strict=True))
            measured = f"{times:.2f} x ({before:.0f} -> {now:.0f} ms)"
            held.append(row(f"{figure}, times faster than {REVISION}", measured, f">= {wanted} x", times >= wanted))
    return held


def _prepared() -> Path:
    """Check out the earlier revision once, with its own packages; return its interpreter."""
    python = BASELINE / ".venv" / "bin" / "python"
    if not python.exists():
        subprocess.run(["git", "-C", str(ROOT), "worktree", "prune"], check=True)
        subprocess.run(["git", "-C", str(ROOT), "worktree", "add", "--detach", str(BASELINE), REVISION], check=True)
        venv.create(BASELINE / ".venv", with_pip=True)
        lock = BASELINE / "requirements" / "test.lock"
        subprocess.run([str(python), "-m", "pip", "install", "--quiet", "--require-hashes", "-r", str(lock)], check=True)
    return python
