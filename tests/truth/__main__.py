"""Hold the product against its judges on a large scale, and print what agrees; a difference comes with its smallest case.

`make truth`, or `python -m tests.truth --pairs 20000 --flows 2000 --designs 5000 --first-seed 0`.
"""

from __future__ import annotations

import argparse
import os
import sys
import time
import traceback
from collections import Counter
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from random import Random

from pontifex.demo import demo_design
from pontifex.kernel.namespaces import why_not
from tests.support.designs import TODAY
from tests.truth import dialled, filled_in, host_ways, hubs, mutated, pairs, rehearsed, worlds, written
from tests.truth.any_design import ask_everything, draw_design

_MOST_SHOWN = 8  # of the differences
_FLOWS_A_WORLD = 24
_CHUNK = 250

Judged = tuple[Counter[str], list[str]]  # how they ended, and the differences


def _pairs(seeds: Iterable[int]) -> Judged:
    ends, differing = pairs.judge(seeds)
    return ends, [str(difference) for difference in differing]


def _worlds(seeds: Iterable[int], way: str) -> Judged:
    counts, differing = worlds.judge(seeds, [way])
    if differing:
        counts["differ"] = len(differing)
    shown = {id(disagreement.world): disagreement for disagreement in differing}.values()  # one of each world
    return counts, [str(disagreement) for disagreement in shown]


def _designs(seeds: Iterable[int]) -> Judged:
    counts, found = Counter[str](), []
    base = demo_design()
    for seed in seeds:
        random = Random(seed)
        design = draw_design(random, base)
        try:
            ask_everything(design, TODAY, random)
        except Exception:
            counts["differ"] += 1
            found.append(f"the design of seed {seed}:\n{traceback.format_exc()}")
        else:
            counts["answered"] += 1
    return counts, found


def _texts(seeds: Iterable[int]) -> Judged:
    counts, wrong = written.judge(seeds)
    counts["differ"] = counts.pop(written.WRONG, 0)
    return counts, wrong


def _forms(seeds: Iterable[int]) -> Judged:
    counts, wrong = filled_in.judge(seeds)
    counts["differ"] = counts.pop(written.WRONG, 0)
    return counts, wrong


def _judge(title: str, what: str, total: int, judged: Iterable[Judged]) -> int:
    """Print what came of one kind of judging; return how many differ."""
    started = time.monotonic()
    counts: Counter[str] = Counter()
    differing: list[str] = []
    for some, found in judged:
        counts += some
        differing += found
    differ = counts.pop("differ", 0)
    ended = ", ".join(f"{name} {number}" for name, number in counts.most_common())
    print(f"{title}: {total - differ} of {total} {what} agree ({time.monotonic() - started:.0f} s; {ended})", flush=True)
    for text in differing[:_MOST_SHOWN]:
        print(f"  {text}", flush=True)
    return differ


def main() -> int:
    """Judge, print, and tell by the exit code whether everything agreed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pairs", type=int, default=20_000)
    parser.add_argument("--rehearsals", type=int, default=10_000)
    parser.add_argument("--tls", type=int, default=1000, help="pairs of ends of tunnels over TLS, dialled")
    parser.add_argument("--peer-keys", type=int, default=1000, help="pairs of ends with static peer keys, dialled")
    parser.add_argument("--eap", type=int, default=1000, help="pairs of ends of which the caller proves itself by EAP, dialled")
    parser.add_argument("--hosts", type=int, default=1000, help="tunnels whose gateways forward by drawn tables, in virtual time")
    parser.add_argument("--messages", type=int, default=1_000_000)
    parser.add_argument("--hubs", type=int, default=2000)
    parser.add_argument("--flows", type=int, default=2000, help="by each of the two ways of making commands")
    parser.add_argument("--designs", type=int, default=5000)
    parser.add_argument("--texts", type=int, default=10_000)
    parser.add_argument("--forms", type=int, default=2000)
    parser.add_argument("--first-seed", type=int, default=0)
    asked = parser.parse_args()
    first, differ = asked.first_seed, 0
    with ProcessPoolExecutor(os.cpu_count()) as pool:

        def chunks(total: int, size: int) -> list[range]:
            return [range(first + at, first + min(at + size, total)) for at in range(0, total, size)]

        judged = pool.map(_pairs, chunks(asked.pairs, _CHUNK))
        differ += _judge("two ends against the standards", "pairs", asked.pairs, judged)
        over_ike = pool.map(rehearsed.judge, chunks(asked.rehearsals, 50))
        differ += _judge("the forecast against a rehearsal", "pairs", asked.rehearsals, over_ike)
        over_tls = pool.map(dialled.over_tls, chunks(asked.tls, 50))
        differ += _judge("the forecast against a rehearsal over TLS", "pairs", asked.tls, over_tls)
        with_keys = pool.map(dialled.with_peer_keys, chunks(asked.peer_keys, 50))
        differ += _judge("the forecast against a rehearsal with peer keys", "pairs", asked.peer_keys, with_keys)
        by_eap = pool.map(dialled.by_eap, chunks(asked.eap, 50))
        differ += _judge("the forecast against a rehearsal with EAP", "pairs", asked.eap, by_eap)
        ways = pool.map(host_ways.judge, chunks(asked.hosts, 50))
        differ += _judge("the trace against what hosts try in a rehearsal", "tunnels", asked.hosts, ways)
        hostile = pool.map(mutated.judge, chunks(asked.messages // 100, 100))
        differ += _judge("changed messages of IKEv2", "messages", asked.messages // 100 * 100, hostile)
        found = pool.map(hubs.judge, chunks(asked.hubs, _CHUNK))
        differ += _judge("tunnels of one gateway against the standards", "hubs", asked.hubs, found)
        read = pool.map(_texts, chunks(asked.texts, _CHUNK))
        differ += _judge("what partners write, read back", "texts", asked.texts, read)
        forms = pool.map(_forms, chunks(asked.forms, _CHUNK))
        differ += _judge("forms that partners fill in, read back", "forms", asked.forms, forms)
        reason = why_not()
        count = -(-asked.flows // _FLOWS_A_WORLD)
        for way in worlds.WAYS if not reason else ():
            parts = chunks(count, 4)
            found = pool.map(_worlds, parts, [way] * len(parts))
            differ += _judge(f"the trace against the kernel, {way}", "flows", count * _FLOWS_A_WORLD, found)
        if reason:
            print(f"the trace against the kernel: not tried, {reason}")
        judged = pool.map(_designs, chunks(asked.designs, 50))
        differ += _judge("every analysis of any design", "designs", asked.designs, judged)
    return 1 if differ else 0


if __name__ == "__main__":
    sys.exit(main())
