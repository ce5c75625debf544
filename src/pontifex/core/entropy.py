"""Randomness that is handed in, so that a run can be repeated octet by octet."""

from __future__ import annotations

import hashlib
from collections.abc import Callable

Entropy = Callable[[int], bytes]  # how many octets are wanted


class SeededEntropy:
    """Octets that follow from a seed alone. For rehearsals: who knows the seed knows them all."""

    def __init__(self, seed: bytes) -> None:
        self._seed = seed
        self._taken = 0

    def __call__(self, octets: int) -> bytes:
        """Return the next octets."""
        self._taken += 1
        return hashlib.shake_128(self._seed + self._taken.to_bytes(8)).digest(octets)
