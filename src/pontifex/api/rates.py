"""How often somebody may ask: a bucket of requests for each session and each address, filled again as time goes by."""

from __future__ import annotations

import math
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

_MOST_BUCKETS: Final = 10_000


@dataclass(slots=True)
class _Bucket:
    left: float
    at: float


class Rates:
    """Counts requests by who asks."""

    def __init__(self, a_second: float = 100, at_once: float = 1000, clock: Callable[[], float] = time.monotonic) -> None:
        self._a_second, self._at_once, self._clock = a_second, at_once, clock
        self._buckets: OrderedDict[str, _Bucket] = OrderedDict()

    def wait_s(self, who: str) -> int:
        """Count a request of somebody; return 0 where it may pass, else after how many seconds another one may."""
        now = self._clock()
        bucket = self._buckets.setdefault(who, _Bucket(self._at_once, now))
        self._buckets.move_to_end(who)
        if len(self._buckets) > _MOST_BUCKETS:
            self._buckets.popitem(last=False)
        bucket.left = min(self._at_once, bucket.left + (now - bucket.at) * self._a_second)
        bucket.at = now
        if bucket.left < 1:
            return math.ceil((1 - bucket.left) / self._a_second)
        bucket.left -= 1
        return 0
