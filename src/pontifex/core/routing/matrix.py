"""Which networks reach which, exactly for whole prefixes.

Addresses between two neighbouring bounds of whatever a decision looks at (networks, selectors, routes, rules,
translations) are treated alike everywhere; so one address for each such part stands for all of it.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator
from enum import Enum

from pydantic import Field

from pontifex.core.addressing import Address, Family, Prefix
from pontifex.core.model import SIDES, Design, Network
from pontifex.core.routing.flow import Conditions, Flow
from pontifex.core.routing.trace import End, Trace, trace
from pontifex.core.value import Value


class Reach(Enum):
    """What one network gets of another. The order of the members is from best to worst."""

    REACHES = "reaches"
    ASYMMETRIC = "asymmetric"  # the answer comes another way
    ONE_WAY = "one-way"  # it arrives, and the answer doesn't
    BLOCKED = "blocked"
    UNPROTECTED = "unprotected"  # it leaves to the Internet

    @property
    def rank(self) -> int:
        """Place from the best, from 0."""
        return list(Reach).index(self)


class Cell(Value):
    """How one network reaches another."""

    source_id: str
    destination_id: str
    reach: Reach = Field(title="The worst of all its parts")
    whole: bool = Field(title="The same for all addresses of both")
    verdict: str = Field(title="Verdict of the worst part")


def matrix(design: Design, conditions: Conditions) -> tuple[Cell, ...]:
    """Return a cell for each ordered pair of networks of one family in the common zone, nested ones aside."""
    bounds = {family: _bounds(design, family) for family in Family}
    networks = [network for network in design.networks if not network.zone]
    return tuple(
        _cell(design, conditions, source, destination, bounds[source.prefix.family])
        for source in networks
        for destination in networks
        if source.prefix.family is destination.prefix.family and not source.prefix.overlaps(destination.prefix)
    )


def _cell(design: Design, conditions: Conditions, source: Network, destination: Network, bounds: list[int]) -> Cell:
    found: dict[Reach, str] = {}
    for first in _parts(source.prefix, bounds):
        for second in _parts(destination.prefix, bounds):
            flow = Flow(Address(source.prefix.family, first), Address(source.prefix.family, second))
            traced = trace(design, flow, conditions, source, destination)
            found.setdefault(reach_of(traced), traced.verdict)
    worst = max(found, key=lambda one: one.rank)
    return Cell.of(source_id=source.id, destination_id=destination.id, reach=worst, whole=len(found) == 1, verdict=found[worst])


def reach_of(traced: Trace) -> Reach:
    """Return what a trace amounts to."""
    if traced.forward.end in (End.UNPROTECTED, End.INTERNET):
        return Reach.UNPROTECTED
    if traced.forward.end is not End.ARRIVES or traced.back is None:
        return Reach.BLOCKED
    if traced.back.end is not End.ARRIVES:
        return Reach.ONE_WAY
    return Reach.REACHES if traced.forward.tunnels == tuple(reversed(traced.back.tunnels)) else Reach.ASYMMETRIC


def _bounds(design: Design, family: Family) -> list[int]:
    """Return where decisions may change, in order: the first address of each range, and the one behind its last."""
    ranges = [(first, last) for of, first, last in _ranges(design) if of is family]
    return sorted({value for first, last in ranges for value in (first, last + 1)})


def _ranges(design: Design) -> Iterator[tuple[Family, int, int]]:
    prefixes = [network.prefix for network in design.networks] + [route.prefix for route in design.routes]
    prefixes += [one for rule in design.rules for one in rule.sources]
    prefixes += [one for translation in design.translations for one in (translation.inside, translation.outside)]
    prefixes += design.supernets
    for prefix in prefixes:
        yield prefix.family, prefix.network, prefix.last
    selectors = [one for rule in design.rules for one in rule.destinations]
    for tunnel in design.tunnels:
        for side in SIDES:
            selectors += (*tunnel.end(side).local_networks, *tunnel.end(side).remote_networks)
    for selector in selectors:
        yield selector.family, selector.first, selector.last


def _parts(prefix: Prefix, bounds: list[int]) -> list[int]:
    """Return the first address of each part of a prefix in which all are treated alike."""
    inner = bounds[bisect_right(bounds, prefix.network) : bisect_left(bounds, prefix.last + 1)]
    return [prefix.network, *inner]
