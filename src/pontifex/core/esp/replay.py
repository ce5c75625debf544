"""The window by which a receiver refuses packets that come twice (RFC 4303 section 3.4.3 and appendix A2)."""

from __future__ import annotations

from typing import Final

_SIZE: Final = 64  # the default of section 3.4.3
_HALF: Final = 1 << 32


class ReplayWindow:
    """Which numbers have come: the highest, and one bit for each of those below it."""

    def __init__(self, size: int = _SIZE) -> None:
        self._size = size
        self._highest = 0
        self._seen = 0

    def whole(self, low: int, extended: bool) -> int:
        """Return the whole sequence number of a packet, of which 32 bits are sent (appendix A2.2)."""
        if not extended:
            return low
        bottom = self._highest - self._size + 1
        high = max(bottom, 0) >> 32
        if low < max(bottom, 0) % _HALF:
            high += 1
        return high * _HALF + low

    def is_new(self, number: int) -> bool:
        """Whether a packet hasn't come before, and isn't too old to tell."""
        if number == 0:
            return False
        behind = self._highest - number
        return behind < 0 or (behind < self._size and not self._seen >> behind & 1)

    def note(self, number: int) -> None:
        """Note a packet whose integrity value fits."""
        ahead = number - self._highest
        if ahead > 0:
            self._seen = (self._seen << ahead | 1) & (1 << self._size) - 1 if ahead < self._size else 1
            self._highest = number
        else:
            self._seen |= 1 << -ahead
