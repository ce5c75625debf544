"""Free space: where the next block of a wanted size fits."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from heapq import heapify, heappop, heappush

from pontifex.core.addressing.address_set import AddressSet
from pontifex.core.addressing.prefix import Prefix


def next_free(supernets: Sequence[Prefix], used: Iterable[Prefix], length: int, near: Prefix) -> Prefix | None:
    """Return the first aligned free block of `length` bits, seeking from `near` upwards and then from the start.

    Blocks come from the supernets of the family of `near` and touch nothing in `used`.
    Return None when there is no room.
    """
    family = near.family
    taken = sorted((p for p in used if p.family is family), key=lambda p: p.order)
    rooms = sorted((s for s in supernets if s.family is family and s.length <= length), key=lambda s: s.order)
    for floor in (near.network, 0):
        for room in rooms:
            found = _first_gap(room, taken, length, max(room.network, floor))
            if found:
                return found
    return None


def _first_gap(room: Prefix, taken: Sequence[Prefix], length: int, start: int) -> Prefix | None:
    size = 1 << (room.family.bits - length)
    at = -(-start // size) * size  # aligned upwards
    for block in taken:
        if block.last < at:
            continue
        if block.network >= at + size:
            break
        at = -(-(block.last + 1) // size) * size
    return Prefix(room.family, at, length) if at + size - 1 <= room.last else None


def free_blocks(space: AddressSet, length: int, count: int) -> tuple[Prefix, ...]:
    """Return so many free blocks of a length out of a space, fewer where there is no room.

    Each is taken from the smallest block that holds it, the lowest of those, so that large blocks stay whole.
    """
    heap = [(-block.length, block.network) for block in space.prefixes() if block.length <= length]
    heapify(heap)
    found: list[Prefix] = []
    while heap and len(found) < count:
        negative, network = heappop(heap)
        found.append(Prefix(space.family, network, length))
        for left in range(-negative + 1, length + 1):  # the halves that are left over
            heappush(heap, (-left, network | 1 << (space.family.bits - left)))
    return tuple(found)
