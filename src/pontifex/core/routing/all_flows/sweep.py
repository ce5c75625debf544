"""Every single failure: what each one breaks, and which break nothing.

A failure only takes ways out of the choice. So a pair whose walk doesn't use what fails goes as before; only the pairs that
do are walked again, and judged again with their answers.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, Final

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from pontifex.core.addressing import Family
from pontifex.core.kinds import SIDES, ObjectType
from pontifex.core.model import Design
from pontifex.core.routing.all_flows.codes import Numbers, StoredNumbers
from pontifex.core.routing.all_flows.matrix import NO_CELL, REACHES, FamilyWalks, Ranks, Reach
from pontifex.core.routing.all_flows.walk_outcomes import Pairs, WalkOutcomes
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.dependents import Dependents, Fallen
from pontifex.core.routing.trace.flow import Conditions, Failing
from pontifex.core.routing.trace.flow_path import uses

MOST_LISTED = 200  # of the pairs that a failure costs


@dataclass(frozen=True, slots=True, kw_only=True)
class LostPair:
    """A pair of networks that is worse off during a failure."""

    source_id: str
    destination_id: str
    before: Reach
    during: Reach


@dataclass(frozen=True, slots=True, kw_only=True)
class Failure:
    """One thing that fails, and the pairs of networks that lose by it."""

    type: ObjectType
    id: str
    name: str
    lost: Annotated[int, Field(title="Pairs that are worse off")]
    unprotected: Annotated[int, Field(title="Of them those that leave unprotected then")]
    pairs: Annotated[tuple[LostPair, ...], Field(title="The pairs", description=f"The first {MOST_LISTED} of them.")]


@dataclass(frozen=True, slots=True)
class FailureCandidate:
    """Something that may fail."""

    type: ObjectType
    id: str
    name: str
    gone: frozenset[str] = frozenset()  # networks that are gone with it, and don't count


def suspects(design: Design) -> Iterator[FailureCandidate]:
    """Yield everything that may fail by itself."""
    for uplink in design.uplinks:
        yield FailureCandidate(ObjectType.UPLINK, uplink.id, uplink.name)
    for tunnel in design.tunnels:
        yield FailureCandidate(ObjectType.TUNNEL, tunnel.id, tunnel.name)
    for gateway in design.gateways:
        yield FailureCandidate(ObjectType.GATEWAY, gateway.id, gateway.name)
    for site in design.sites:
        gone = frozenset(network.id for network in design.networks_of_site(site.id))
        yield FailureCandidate(ObjectType.SITE, site.id, site.name, gone)


def sweep(tables: Tables, failing: Failing, only: Iterable[FailureCandidate] | None = None) -> tuple[Failure, ...]:
    """Return every single failure of an uplink, tunnel, gateway or site, the one that costs most pairs first.

    Pairs that begin or end at a site that fails are not counted: that they lose it goes without saying. Raise TooLarge.
    """
    design = tables.design
    before = Conditions.of(design, failing=failing)
    swept = [SweepBaseline(fabric) for family in Family if (fabric := FamilyWalks.of(tables, family, before))]
    dependents = Dependents(design)
    alike: dict[Fallen, list[FailureCandidate]] = defaultdict(list)  # a gateway, and a site that has no other
    for suspect in suspects(design) if only is None else only:
        alike[dependents.of([suspect.id])].append(suspect)
    place = {network.id: place for place, network in enumerate(design.networks)}
    found = []
    for fallen, some in alike.items():
        losses = [baseline.losses(before.with_fallen(fallen)) for baseline in swept]
        for suspect in some:
            gone = [place[id_] for id_ in suspect.gone]
            found.append(_failure(design, suspect, [loss.apart_from(gone) for loss in losses]))
    return tuple(sorted(found, key=lambda failure: (-failure.lost, failure.type.value, failure.id)))


def _failure(design: Design, suspect: FailureCandidate, losses: list[Losses]) -> Failure:
    pairs = tuple(pair for loss in losses for pair in loss.listed(design))
    return Failure(
        type=suspect.type,
        id=suspect.id,
        name=suspect.name,
        lost=sum(len(loss.rows) for loss in losses),
        unprotected=sum(int(np.count_nonzero(loss.now == Reach.UNPROTECTED.rank)) for loss in losses),
        pairs=pairs[:MOST_LISTED],
    )


@dataclass(frozen=True)
class Losses:
    """Pairs of networks that are worse off: places of their networks in the design, and ranks before and now."""

    rows: Numbers
    columns: Numbers
    was: Ranks
    now: Ranks

    def apart_from(self, networks: Sequence[int]) -> Losses:
        """Return those that are not of some networks, by their places."""
        if not networks:
            return self
        kept = ~(np.isin(self.rows, networks) | np.isin(self.columns, networks))
        return Losses(self.rows[kept], self.columns[kept], self.was[kept], self.now[kept])

    def listed(self, design: Design) -> Iterator[LostPair]:
        """Yield the first of them, in the order of the networks."""
        columns = (self.rows, self.columns, self.was, self.now)
        order = np.lexsort((self.columns, self.rows))[:MOST_LISTED]
        for row, column, was, now in zip(*(part[order].tolist() for part in columns), strict=True):
            source, destination = design.networks[row].id, design.networks[column].id
            yield LostPair(source_id=source, destination_id=destination, before=REACHES[was], during=REACHES[now])


_NO_PLACES: Final[Numbers] = np.empty(0, dtype=np.int64)
_NO_RANKS: Final[Ranks] = np.empty(0, dtype=np.uint8)
_NOTHING: Final = Losses(_NO_PLACES, _NO_PLACES, _NO_RANKS, _NO_RANKS)


class _Users:
    """Which pairs use each code, from the layers of what walks note. What is refused counts as used.

    Without it another way would be chosen.
    """

    def __init__(self, walked: WalkOutcomes) -> None:
        size = len(walked.codes.next)
        self._sorted: list[tuple[int, StoredNumbers, Pairs]] = []  # step, the pairs by code, and where each code begins
        for step, layer in ((0, walked.refused), *reversed(list(enumerate(walked.steps)))):
            used = np.flatnonzero(layer >= walked.codes.first_gateway).astype(np.int32)
            order = used[np.argsort(layer[used], kind="stable")]
            self._sorted.append((step, order, np.searchsorted(layer[order], np.arange(size + 1))))

    def of_any(self, codes: NDArray[np.bool_]) -> tuple[Pairs, Numbers]:
        """Return the pairs that use one of some codes, and at which step, the first step of each pair last.

        What is only refused is walked anew from the first step on.
        """
        used = codes.nonzero()[0].tolist()
        some = [(step, order[starts[code] : starts[code + 1]]) for step, order, starts in self._sorted for code in used]
        pairs = np.concatenate([_NO_PLACES, *(pairs for _, pairs in some)])
        return pairs, np.repeat(np.array([0, *(step for step, _ in some)]), [0, *(len(pairs) for _, pairs in some)])


class SweepBaseline:
    """The walks of one family before anything fails, ready to be asked what a failure changes."""

    def __init__(self, fabric: FamilyWalks) -> None:
        self._fabric = fabric
        self._design = fabric.plane.tables.design
        ways = [fabric.forward] if fabric.back is fabric.forward else [fabric.forward, fabric.back]
        self._users = [_Users(walked) for walked in ways]
        self._buffer = np.zeros(len(fabric.ranks), dtype=np.int32)
        design = self._design
        by_id = (design.gateway_by_id, design.tunnel_by_id, design.uplink_by_id)  # in the order of the design's lists
        self._places = [dict(zip(ids, range(len(ids)), strict=True)) for ids in by_id]
        size = len(self._design.networks)
        self._worst, best = (np.full((size, size), NO_CELL, dtype=np.uint8) for _ in range(2))
        fabric.fill(self._worst, best)
        self._used_by_hand = {pair: uses(traced) for pair, traced in fabric.by_hand.items()}
        self._one_part_each = len(np.unique(fabric.plane.parts.network)) == len(fabric.plane.parts)

    def _last(self, pairs: Pairs) -> Numbers:
        """Return the places at which each pair stands last: it is what the buffer holds after all are written into it."""
        places = np.arange(len(pairs), dtype=np.int32)
        self._buffer[pairs] = places
        found: Numbers = (self._buffer[pairs] == places).nonzero()[0]
        return found

    def _distinct(self, *pairs: Pairs) -> Pairs:
        """Return each pair once."""
        together = np.concatenate(pairs)
        return together[self._last(together)]

    def losses(self, during: Conditions) -> Losses:
        """Return the pairs of networks that are worse off during a failure."""
        ids, codes = self._new(during)
        fabric, plane = self._fabric, self._fabric.plane
        (pairs, steps), *of_answers = (users.of_any(codes) for users in self._users)
        last = self._last(pairs)
        there, steps = pairs[last], steps[last]  # up to these steps they go as they went
        answers = self._distinct(of_answers[0][0], plane.turned(there)) if of_answers else there
        by_hand = np.array([pair for pair, used in self._used_by_hand.items() if used is None or used & ids], dtype=np.int64)
        judged = self._distinct(there, plane.turned(answers), by_hand)
        if not len(judged):
            return _NOTHING
        forgotten = [fabric.forward.forget(there, steps)]
        if of_answers:
            forgotten.append(fabric.back.forget(answers, np.zeros_like(answers)))
        ranks, hand = fabric.ranks[judged], dict(fabric.by_hand)
        with fabric.changed(during, frozenset(ids), self._concerned(ids)):
            plane.walk_on(fabric.forward, there, steps)
            if of_answers:
                fabric.answer(plane.turned(answers))
            fabric.judge(judged)
            found = self._worse(judged, ranks)
        fabric.ranks[judged], fabric.by_hand = ranks, hand
        for forgotten_row in forgotten:
            forgotten_row.restore()
        return found

    def _new(self, during: Conditions) -> tuple[set[str], NDArray[np.bool_]]:
        """Return what is down now and wasn't before: all ids, and the codes that lead there."""
        before = self._fabric.plane.conditions
        down = [
            during.gateways.keys() - before.gateways.keys(),
            during.tunnels.keys() - before.tunnels.keys(),
            during.uplinks.keys() - before.uplinks.keys(),
        ]
        places = ([of_id[id_] for id_ in ids] for of_id, ids in zip(self._places, down, strict=True))
        return set().union(*down), self._fabric.plane.codes.using(*places)

    def _concerned(self, ids: set[str]) -> set[str]:
        """Return the gateways whose decisions may change: those that fail, and those that what fails leads to or from."""
        concerned = ids & self._design.gateway_by_id.keys()
        concerned |= {self._design.uplink_by_id[id_].gateway_id for id_ in ids if id_ in self._design.uplink_by_id}
        for id_ in ids:
            if id_ in self._design.tunnel_by_id:
                concerned |= {self._design.tunnel_by_id[id_].end(side).gateway_id for side in SIDES}
        return concerned

    def _worse(self, judged: Pairs, before: Ranks) -> Losses:
        fabric = self._fabric
        parts = fabric.plane.parts
        if self._one_part_each:
            worse = judged[fabric.ranks[judged] > before]
            rows, columns = parts.network[worse // len(parts)], parts.network[worse % len(parts)]
            now = fabric.ranks[worse]
        else:
            worst, best = (np.full_like(self._worst, NO_CELL) for _ in range(2))
            fabric.fill(worst, best)
            rows, columns = np.nonzero(worst > self._worst)
            now = worst[rows, columns]
        return Losses(rows, columns, self._worst[rows, columns], now)
