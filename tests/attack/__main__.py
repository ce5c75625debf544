"""`make attack`: kills, heavy questions, drawn requests and canaries, counted; status 1 when any isn't as it should be."""

from __future__ import annotations

import argparse
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import cycle, islice
from pathlib import Path

from tests.attack.canaries import found, plant
from tests.attack.drawn import drawn_requests
from tests.attack.kills import WAYS, running, under_fire
from tests.attack.meanwhile import meanwhile
from tests.bench.figures import row


def main() -> int:
    """Attack with the numbers given; return 1 when anything was lost, told wrongly or answered with 5xx."""
    parser = argparse.ArgumentParser(prog="python -m tests.attack", description=__doc__)
    parser.add_argument("--kills", type=int, default=100)
    parser.add_argument("--rounds", type=int, default=100, help="of what others ask while heavy questions are worked on")
    parser.add_argument("--scale", type=int, default=50, help="of the heavy questions")
    parser.add_argument("--requests", type=int, default=10_000)
    options = parser.parse_args()
    held = [*_meanwhile(options.scale, options.rounds), *_kills(options.kills), *_drawn(options.requests), *_canaries()]
    return 0 if all(held) else 1


@contextmanager
def _state() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="pontifex-attack-") as directory:
        Path(directory).chmod(0o711)
        yield Path(directory)


def _meanwhile(scale: int, rounds: int) -> Iterator[bool]:
    with _state() as state, running(state) as product:
        result = meanwhile(product, scale, rounds)
    for what in result.waited:
        most = 0.1 if what == "health" else 0.3
        taken = result.worst(what)
        yield row(f"others meanwhile: {what}, p95", f"{taken * 1000:.0f} ms", f"<= {most * 1000:.0f} ms", taken <= most)
    answered = sum(status in (200, 422) for status in result.statuses)
    yield row("heavy questions that were answered", str(answered), str(len(result.statuses)), answered == len(result.statuses))


def _kills(count: int) -> Iterator[bool]:
    with _state() as state, running(state) as product:
        outcome = under_fire(product, state / "postgresql", list(islice(cycle(WAYS), count)), between_s=0.5)
    changes = f"of {outcome.written} changes told as written"
    yield row(f"{count} kills: lost", f"{len(outcome.lost)} {changes}", "0", not outcome.lost)
    yield row(
        f"{count} kills: told wrongly", f"{len(outcome.untrue)} of {outcome.unknown} that broke off", "0", not outcome.untrue
    )
    yield row(f"{count} kills: answers of 500 and more but 503", str(sum(outcome.errors.values())), "0", not outcome.errors)


def _drawn(count: int) -> Iterator[bool]:
    with _state() as state, running(state) as product:
        statuses = drawn_requests(product, count)
    # 503 is the answer about a device or cloud at a drawn address, where nothing is
    wrong = sum(times for status, times in statuses.items() if status >= 500 and status != 503)
    yield row("drawn requests: answers of 500 and more but 503", f"{wrong} of {sum(statuses.values())}", "0", not wrong)


def _canaries() -> Iterator[bool]:
    with _state() as state, running(state) as product:
        places = found(product, state, plant(product))
    yield row("places where a secret can be read", ", ".join(places) or "0", "0", not places)


if __name__ == "__main__":
    sys.exit(main())
