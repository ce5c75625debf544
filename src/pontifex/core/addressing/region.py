"""Sets of traffic: selectors as boxes of addresses, protocols and ports, with exact set algebra on them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import reduce

from pontifex.core.addressing.cover import minimal_cover
from pontifex.core.addressing.prefix import Prefix
from pontifex.core.addressing.selector import Selector

Region = tuple[Selector, ...]


def common_region(some: Iterable[Selector], others: Sequence[Selector]) -> Region:
    """Return what both sets hold: what a responder narrows an offer to (RFC 7296 section 2.9), in canonical order."""
    return _tidy([common for a in some for b in others if a.first <= b.last and b.first <= a.last and (common := _common(a, b))])


def region_without(some: Iterable[Selector], taken: Iterable[Selector]) -> Region:
    """Return what the first set holds and the second doesn't, in canonical order."""
    return _tidy(reduce(lambda left, hole: [part for box in left for part in _without(box, hole)], taken, list(some)))


def same_region(some: Sequence[Selector], others: Sequence[Selector]) -> bool:
    """Whether two lists select the same traffic, however they are cut up."""
    if some == others or set(some) == set(others):
        return True
    return not region_without(some, others) and not region_without(others, some)


def _common(a: Selector, b: Selector) -> Selector | None:
    first, last = max(a.first, b.first), min(a.last, b.last)
    if first > last or a.family is not b.family:
        return None
    protocols = max(a.protocols[0], b.protocols[0]), min(a.protocols[1], b.protocols[1])
    ports = max(a.ports[0], b.ports[0]), min(a.ports[1], b.ports[1])
    if protocols[0] > protocols[1] or ports[0] > ports[1]:
        return None
    return Selector(a.family, first, last, protocols, ports)


def _without(box: Selector, hole: Selector) -> list[Selector]:
    """Cut a hole out of a box: at most two slabs along each of the three axes remain."""
    inner = _common(box, hole)
    if inner is None:
        return [box]
    family = box.family
    rest = [
        Selector(family, low, high, box.protocols, box.ports)
        for low, high in ((box.first, inner.first - 1), (inner.last + 1, box.last))
        if low <= high
    ]
    rest += [
        Selector(family, inner.first, inner.last, (low, high), box.ports)
        for low, high in ((box.protocols[0], inner.protocols[0] - 1), (inner.protocols[1] + 1, box.protocols[1]))
        if low <= high
    ]
    rest += [
        Selector(family, inner.first, inner.last, inner.protocols, (low, high))
        for low, high in ((box.ports[0], inner.ports[0] - 1), (inner.ports[1] + 1, box.ports[1]))
        if low <= high
    ]
    return rest


def _tidy(boxes: Sequence[Selector]) -> Region:
    """Join what lies side by side, so that a set is told in few words; whole prefixes become their minimal cover."""
    if len(boxes) < 2:
        return tuple(boxes)
    limited = {box for box in boxes if not box.is_every_protocol}
    whole = [box for box in boxes if box.is_every_protocol]
    covers = minimal_cover(piece for box in whole for piece in _prefixes(box))
    kept = [Selector.of(prefix) for prefix in covers] if all(box.prefix for box in whole) else _joined(whole)
    return tuple(sorted((*kept, *limited)))


def _joined(boxes: Iterable[Selector]) -> list[Selector]:
    """Join ranges of addresses that touch or overlap."""
    found: list[Selector] = []
    for box in sorted(boxes):
        if found and found[-1].family is box.family and box.first <= found[-1].last + 1:
            found[-1] = Selector(box.family, found[-1].first, max(found[-1].last, box.last))
        else:
            found.append(box)
    return found


def _prefixes(box: Selector) -> list[Prefix]:
    return [box.prefix] if box.prefix else []
