"""Random pairs of ends: what the product foretells against what the standards say."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, fields
from random import Random

from tests.truth.ends import PairData, describe, draw_pair, reduced
from tests.truth.foretold import product_says
from tests.truth.oracle import Outcome, can_tell, foretell


@dataclass(frozen=True)
class Difference:
    """A pair about which the two disagree, and in what."""

    what: str
    pair: PairData

    def __str__(self) -> str:
        smallest = reduced(self.pair, lambda pair: difference(pair) == self.what)
        return f"{self.what}:\n{describe(smallest)}\n    the standards: {foretell(smallest)}\n    the product: {_said(smallest)}"


def _said(pair: PairData) -> str:
    try:
        return str(product_says(pair))
    except Exception as error:
        return repr(error)


def difference(pair: PairData) -> str:
    """Return in what the two differ; empty where they agree, or where it isn't known."""
    try:
        said = product_says(pair)
    except Exception as error:
        return f"crash: {type(error).__name__}"
    if not can_tell(pair):
        return ""
    if said is None:
        return "not known"
    told = foretell(pair)
    return ", ".join(field.name for field in fields(Outcome) if getattr(told, field.name) != getattr(said, field.name))


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[Difference]]:
    """Return how the pairs of some seeds end by the standards, and one difference of each kind."""
    ends: Counter[str] = Counter()
    found: dict[str, Difference] = {}
    for seed in seeds:
        pair = draw_pair(Random(seed))
        told = foretell(pair)
        ends[told.fails or (f"{told.later} later" if told.later else "up")] += 1
        what = difference(pair)
        if what:
            ends["differ"] += 1
            found.setdefault(what, Difference(what, pair))
    return ends, list(found.values())
