"""Networks of the design that collide, and the free space to move one of them to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import OverlapClass
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, network_of, remark
from pontifex.core.kinds import SIDES, Network, ObjectType
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, RenumberNetwork, put
from pontifex.core.reasons import Reason, addresses, all_named
from pontifex.core.space import PARTNER, JoinedSites, MoveCost, Room, meetings, move_costs, translate_both
from pontifex.core.space.meeting import Crossings


@dataclass(frozen=True, slots=True, kw_only=True)
class Overlap:
    """Two networks that share addresses and can meet. The outer one contains the inner one, or is identical to it."""

    outer_id: Annotated[str, Field(title="Outer network")]
    inner_id: Annotated[str, Field(title="Inner network")]
    overlap: Annotated[OverlapClass, Field(title="Class")]
    joined: Annotated[bool, Field(title="They meet", description="False where they would only meet once their sites are joined.")]
    chain: Annotated[tuple[str, ...], Field(title="Tunnels by which they meet", description="Their ids; none at one site.")]


def overlaps(design: Design, crossings: Crossings | None = None) -> tuple[Overlap, ...]:
    """Return the pairs of networks that collide, or would once their sites are joined, in canonical order."""
    return tuple(
        Overlap(
            outer_id=meeting.outer.id,
            inner_id=meeting.inner.id,
            overlap=OverlapClass.IDENTICAL if meeting.identical else OverlapClass.CONTAINS,
            joined=meeting.joined,
            chain=meeting.chain,
        )
        for meeting in meetings(design, crossings)
    )


def overlap_findings(design: Design, found: Sequence[Overlap]) -> list[Remark]:
    """Return a remark for each collision, with the renumbering of either network as remedies, the cheaper one first."""
    if not found:
        return []
    costs = move_costs(design, {id_ for pair in found for id_ in (pair.outer_id, pair.inner_id)})
    ways = _WaysApart(design, costs)
    return [_overlap_finding(design, pair, costs, ways) for pair in found]


def _overlap_finding(design: Design, pair: Overlap, costs: Mapping[str, MoveCost], ways: _WaysApart) -> Remark:
    outer, inner = design.network_by_id[pair.outer_id], design.network_by_id[pair.inner_id]
    names = [network_of(design, network) for network in (outer, inner)]
    meet = addresses.MeetBy(all_named(design.tunnel_by_id[id_] for id_ in pair.chain)) if pair.chain else None
    apart = meet if pair.joined else addresses.NotJoinedYet()
    if pair.overlap is OverlapClass.IDENTICAL:
        why: Reason = addresses.SamePrefix(names[0], names[1], outer.prefix, apart)
    else:
        why = addresses.PrefixContains(names[0], outer.prefix, names[1], inner.prefix, apart)
    cheap, dear = sorted((inner, outer), key=lambda network: (costs[network.id].total, network is outer))
    where = tuple(Place(type=ObjectType.NETWORK, id=n.id, name=n.name, field="prefix") for n in (cheap, dear))
    apart_again = partial(ways.of, cheap, dear, pair.chain)
    return remark(Code.ADDRESS_OVERLAP if pair.joined else Code.ADDRESS_OVERLAP_UNJOINED, where, why, apart_again)


class _WaysApart:
    """The ways out of collisions. What all of them need is worked out when the first is asked for."""

    def __init__(self, design: Design, costs: Mapping[str, MoveCost]) -> None:
        self._design, self._costs = design, costs

    @cached_property
    def _room(self) -> Room:
        return Room(self._design)

    @cached_property
    def _joined(self) -> JoinedSites:
        return JoinedSites(self._design)

    def of(self, cheap: Network, dear: Network, chain: tuple[str, ...]) -> Iterator[Remedy]:
        """Yield the moves of both networks and the translation of both; a partner's network moves last of all."""
        translation = translate_both(self._joined, self._room, dear, cheap, _from(self._design, dear, chain))
        moves = [renumber(self._design, network, self._room) for network in (cheap, dear)]
        moves_last = self._costs[dear.id].total > PARTNER
        yield from filter(None, (moves[0], translation, moves[1]) if moves_last else (*moves, translation))


def _from(design: Design, network: Network, chain: tuple[str, ...]) -> tuple[str, ...]:
    """Return a chain of tunnels in the direction that begins at a network's site."""
    if not chain:
        return chain
    first = design.tunnel_by_id[chain[0]]
    begins = any(design.site_of(first.end(side)).id == network.site_id for side in SIDES)
    return chain if begins else tuple(reversed(chain))


def renumber(design: Design, network: Network, room: Room) -> Remedy | None:
    """Return the move of a network to the best free block of its size, with all that names it; None without room."""
    best = room.offers(network.site_id, network.prefix.family, network.prefix.length, most=1)
    if not best:
        return None
    target = best[0].prefix
    site = design.site_by_id[network.site_id].name
    move = RenumberNetwork(id=network.id, prefix=target)
    space = design.settings_with_space
    if space is None:
        return Remedy(title=f"Renumber {site}'s {network.name} to {target}", operations=(move,))
    taken = next(supernet for supernet in space.supernets if supernet.contains(target))
    only = space.changed(supernets=(taken,))
    title = f"Take {taken} as supernet, and renumber {site}'s {network.name} to {target}"
    return Remedy(title=title, operations=(put(only), move))
