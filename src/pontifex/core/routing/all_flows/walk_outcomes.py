"""How the walks of all pairs of parts end, and what they use on their way, as arrays."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pontifex.core.routing.trace.flow_path import End

Pairs = NDArray[np.int64]  # place of the source times the number of parts, plus place of the destination
ENDS: Final = tuple(End)
END_PLACE: Final = {end: np.uint8(place) for place, end in enumerate(ENDS)}
BY_HAND_END: Final = np.uint8(len(ENDS))  # left to be traced one by one
NOTHING: Final = -1  # of a pair in a layer


@dataclass
class WalkOutcomes:
    """How the walks of all pairs end, and what they use on their way."""

    parts: int
    ends: NDArray[np.uint8] = field(init=False)  # places in ENDS, or BY_HAND_END
    uplinks: NDArray[np.int32] = field(init=False)  # that they leave by
    refused: NDArray[np.int32] = field(init=False)  # code of what they were sent into last, and not let through
    counts: NDArray[np.int8] = field(init=False)  # of tunnels
    tunnels: list[NDArray[np.int16]] = field(default_factory=list)  # the first of each walk, the second of each …
    gateways: list[NDArray[np.int16]] = field(default_factory=list)  # that act, step by step
    networks: list[NDArray[np.int16]] = field(default_factory=list)  # that a cloud's rules don't let it out of, or into

    def __post_init__(self) -> None:
        size = self.parts * self.parts
        self.ends = np.full(size, END_PLACE[End.LOST], dtype=np.uint8)
        self.uplinks = np.full(size, NOTHING, dtype=np.int32)
        self.refused = np.full(size, NOTHING, dtype=np.int32)
        self.counts = np.zeros(size, dtype=np.int8)

    def layer(self, layers: list[NDArray[np.int16]], place: int) -> NDArray[np.int16]:
        """Return the array of a place in a list of layers, made when it is first asked for."""
        while len(layers) <= place:
            layers.append(np.full(self.parts * self.parts, NOTHING, dtype=np.int16))
        return layers[place]

    def arrays(self) -> list[NDArray[Any]]:
        """Return all arrays, each with a value for every pair."""
        return [self.ends, self.uplinks, self.refused, self.counts, *self.tunnels, *self.gateways, *self.networks]

    def course(self, pairs: Pairs) -> list[NDArray[np.int64]]:
        """Return how the walks of pairs go and end: those for which all of it is equal have the same cause at the same place.

        What no gateway has seen ends at its own network, which is then part of the course.
        """
        seen = np.zeros(len(pairs), dtype=np.bool_)
        for layer in self.gateways:
            seen |= layer[pairs] != NOTHING
        return [*(array[pairs].astype(np.int64) for array in self.arrays()), np.where(seen, NOTHING, pairs // self.parts)]

    def held(self, pairs: Pairs) -> NDArray[np.bool_]:
        """Whether a rule holds pairs: the walk doesn't tell which one."""
        found: NDArray[np.bool_] = self.ends[pairs] == END_PLACE[End.HELD]
        return found

    def forget(self, pairs: Pairs) -> None:
        """Make some pairs as if they had not been walked yet."""
        self.ends[pairs] = END_PLACE[End.LOST]
        self.counts[pairs] = 0
        self.uplinks[pairs] = NOTHING
        self.refused[pairs] = NOTHING
        for layer in (*self.tunnels, *self.gateways, *self.networks):
            layer[pairs] = NOTHING
