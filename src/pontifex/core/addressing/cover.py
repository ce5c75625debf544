"""The smallest list of prefixes that covers the same addresses."""

from __future__ import annotations

from collections.abc import Iterable

from pontifex.core.addressing.prefix import Prefix


def minimal_cover(prefixes: Iterable[Prefix]) -> tuple[Prefix, ...]:
    """Return the fewest prefixes that hold exactly the addresses of the given ones, in canonical order.

    A block is covered by a set of prefixes exactly when one prefix of the set's minimal cover contains it.
    """
    kept: list[Prefix] = []
    for prefix in sorted(prefixes, key=lambda p: p.order):
        if kept and kept[-1].contains(prefix):
            continue
        kept.append(prefix)
        while len(kept) > 1 and (joined := _joined(kept[-2], kept[-1])):
            kept[-2:] = [joined]
    return tuple(kept)


def _joined(low: Prefix, high: Prefix) -> Prefix | None:
    """Return the block that two halves make together, or None when they are not its halves."""
    if low.family is not high.family or low.length != high.length or low.length == 0:
        return None
    half = 1 << (low.family.bits - low.length)
    if high.network - low.network != half or low.network & half:
        return None
    return Prefix(low.family, low.network, low.length - 1)
