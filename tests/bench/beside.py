"""The same figures of this revision and of an earlier one, in turns on one machine, each with an environment of its own."""

from __future__ import annotations

import json
import statistics
import subprocess
import sys
import venv
from collections import defaultdict
from pathlib import Path
from typing import Final

from tests.bench.figures import row

ROOT: Final = Path(__file__).parents[2]
BASELINE: Final = ROOT / ".state" / "baseline"
REVISION: Final = "98f6e52"
_ROUNDS: Final = 3
# at least so many times faster than the earlier revision; where nothing was promised, at most a tenth slower
_FASTER: Final = {
    "findings of 200 tunnels from scratch": 3.0,
    "findings of 1,000 tunnels from scratch": 3.0,
    "findings after an edit, 1,000 tunnels": 2.0,
    "command line, `cover`": 4.0,
}
_NO_SLOWER: Final = 0.9


def beside() -> list[bool]:
    """Compare with the earlier revision, in turns."""
    python = _prepared()
    found: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for _ in range(_ROUNDS):
        for version, interpreter, root in (("before", python, BASELINE), ("now", Path(sys.executable), ROOT)):
            probe = [str(interpreter), str(ROOT / "tests" / "bench" / "probe.py"), str(root)]
            for name, taken in json.loads(subprocess.run(probe, check=True, capture_output=True).stdout).items():
                found[name][version].append(taken)
    held = []
    for name, taken in found.items():
        before, now = (statistics.median(taken[version]) * 1000 for version in ("before", "now"))
        wanted = _FASTER.get(name, _NO_SLOWER)
        measured = f"{before / now:.2f} x ({before:.0f} -> {now:.0f} ms)"
        held.append(row(f"{name}, times faster than {REVISION}", measured, f">= {wanted} x", before / now >= wanted))
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
