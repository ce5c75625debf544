"""How the walks of all pairs of parts end, and what is done with them on their way, as arrays."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pontifex.core.routing.all_flows.codes import END_PLACE, NONE, Codes, Numbers
from pontifex.core.routing.trace.flow_path import End

Pairs = NDArray[np.int64]  # place of the source times the number of parts, plus place of the destination
_Layer = NDArray[np.int16] | NDArray[np.int32]


@dataclass
class WalkOutcomes:
    """How the walks of all pairs end, and what is done with them on their way."""

    codes: Codes
    parts: int
    ends: NDArray[np.uint8] = field(init=False)  # places in ENDS, or BY_HAND_END
    refused: NDArray[np.int32] = field(init=False)  # code of what they were sent into last, and not let through
    steps: list[_Layer] = field(default_factory=list)  # code of what is done with each at its first step, its second …
    networks: list[_Layer] = field(default_factory=list)  # one at most: that a cloud's rules don't let it out of, or into

    def __post_init__(self) -> None:
        size = self.parts * self.parts
        self.ends = np.full(size, END_PLACE[End.LOST], dtype=np.uint8)
        self.refused = np.full(size, NONE, dtype=np.int32)

    def note_step(self, step: int, pairs: Pairs, code: Numbers) -> None:
        """Note what is done with pairs at a step, from 0."""
        if len(self.steps) == step:
            self.steps.append(self._layer())
        self.steps[step][pairs] = code

    def note_network(self, pairs: Pairs, network: Numbers) -> None:
        """Note the network that pairs are not let out of, or into."""
        if not self.networks:
            self.networks.append(self._layer())
        self.networks[0][pairs] = network

    def _layer(self) -> _Layer:
        size = self.parts * self.parts
        if len(self.codes.next) <= np.iinfo(np.int16).max:
            return np.full(size, NONE, dtype=np.int16)
        return np.full(size, NONE, dtype=np.int32)

    def arrays(self) -> list[NDArray[Any]]:
        """Return all arrays, each with a value for every pair."""
        return [self.ends, self.refused, *self.steps, *self.networks]

    def code_at(self, step: int, pairs: Pairs) -> Numbers:
        """Return what is done with pairs at a step, NONE where they have ended before."""
        if step >= len(self.steps):
            return np.full(len(pairs), NONE, dtype=np.int64)
        return self.steps[step][pairs].astype(np.int64)

    def gateway_at(self, step: int, pairs: Pairs) -> Numbers:
        """Return the gateways that act on pairs at a step, NONE where a host does by itself, or they have ended before."""
        acting: Numbers = (
            self.codes.acting[self.code_at(0, pairs)] if step == 0 else self.codes.next[self.code_at(step - 1, pairs)]
        )
        return acting

    def tunnels(self, pairs: Pairs) -> tuple[NDArray[np.int8], list[Numbers]]:
        """Return how many tunnels pairs go through, and which, the first of each pair first."""
        count = np.zeros(len(pairs), dtype=np.int8)
        found: list[Numbers] = []
        for step in range(len(self.steps)):
            code = self.code_at(step, pairs)
            if not (code >= 0).any():
                break
            tunnel = self.codes.tunnel[code]
            through = np.flatnonzero(tunnel >= 0)
            for place in np.flatnonzero(np.bincount(count[through])).tolist():
                if place == len(found):
                    found.append(np.full(len(pairs), NONE, dtype=np.int64))
                using = through[count[through] == place]
                found[place][using] = tunnel[using]
            count[through] += 1
        return count, found

    def course(self, pairs: Pairs) -> list[Numbers]:
        """Return how the walks of pairs go and end: those for which all of it is equal have the same cause at the same place.

        What no gateway has seen ends at its own network, which is then part of the course.
        """
        seen = (self.gateway_at(0, pairs) >= 0) | (self.gateway_at(1, pairs) >= 0)
        return [*(array[pairs].astype(np.int64) for array in self.arrays()), np.where(seen, NONE, pairs // self.parts)]

    def held(self, pairs: Pairs) -> NDArray[np.bool_]:
        """Whether a rule holds pairs: the walk doesn't tell which one."""
        found: NDArray[np.bool_] = self.ends[pairs] == END_PLACE[End.HELD]
        return found

    def forget(self, pairs: Pairs, step: Numbers) -> _Forgotten:
        """Make some pairs as if they had gone no further than to a step of each."""
        order = np.argsort(step, kind="stable")
        places, counts = pairs[order], np.searchsorted(step[order], np.arange(len(self.steps)), side="right")
        kept: list[tuple[NDArray[Any], Pairs]] = [(array, pairs) for array in (self.ends, self.refused, *self.networks)]
        kept += [(layer, places[:count]) for layer, count in zip(self.steps, counts.tolist(), strict=True)]
        forgotten = _Forgotten(self, pairs, [(array, some, array[some]) for array, some in kept])
        for array, some in kept:
            array[some] = END_PLACE[End.LOST] if array is self.ends else NONE
        return forgotten


@dataclass(frozen=True, slots=True)
class _Forgotten:
    """What was known of pairs, to be put back."""

    walked: WalkOutcomes
    pairs: Pairs
    kept: list[tuple[NDArray[Any], Pairs, NDArray[Any]]]

    def restore(self) -> None:
        """Put everything back as it was; in layers that were added meanwhile there was nothing."""
        for array, pairs, values in self.kept:
            array[pairs] = values
        before = {id(array) for array, _, _ in self.kept}
        for layer in self.walked.arrays():
            if id(layer) not in before:
                layer[self.pairs] = NONE
