"""Which networks that share addresses can meet, and by which tunnels.

All networks of a site meet each other, and those of all sites that tunnels join, since one site's routers can lead to one
of them only. Networks of different isolated zones never meet. A translation on the way keeps two networks apart where no
site sees both at the same addresses.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass
from functools import cached_property
from typing import Final, NamedTuple

import numpy as np

from pontifex.core.addressing import Prefix, Selector, overlapping_pairs
from pontifex.core.addressing.overlap import OverlapPairs
from pontifex.core.errors import TooLarge
from pontifex.core.kinds import Network, Side, TranslatedSide, Translation, Tunnel
from pontifex.core.model import Design, Translate, apply_operations, crossed

_MOST_MEETINGS: Final = 20_000
_MOST_VIEWS: Final = 64  # of one network at one site that are told apart exactly


@dataclass(frozen=True, slots=True)
class Meeting:
    """Two networks that share addresses. The outer one contains the inner one, or is identical to it."""

    outer: Network
    inner: Network
    identical: bool
    joined: bool  # tunnels join their sites; otherwise they would meet once somebody joins them
    chain: tuple[str, ...]  # ids of the tunnels from the outer network's site to the inner one's; empty at one site


class View(NamedTuple):
    """A network as a site sees it."""

    prefix: Prefix
    chain: tuple[str, ...]  # ids of the tunnels it came by


class _Crossing(NamedTuple):
    """A way from one site to another through a tunnel."""

    tunnel: Tunnel
    side: Side  # where the way begins
    site_id: str  # where it ends
    selectors: tuple[Selector, ...]  # of what it lets through; none while they aren't known
    is_translated: bool  # whether a gateway at either end translates anything on it


Crossings = Mapping[str, Mapping[str, _Crossing]]  # by the site where they begin, and by the tunnel


def _by_gateway(translations: Iterable[Translation]) -> dict[str, list[Translation]]:
    found: dict[str, list[Translation]] = defaultdict(list)
    for translation in translations:
        found[translation.gateway_id].append(translation)
    return found


def crossings_of(design: Design, tunnels: Iterable[Tunnel]) -> Crossings:
    """Return the ways from each site to others by some tunnels."""
    translating = _by_gateway(design.translations)

    def translates(gateway_id: str, tunnel_id: str) -> bool:
        known = translating.get(gateway_id)
        return known is not None and any(translation.tunnel_id in (None, tunnel_id) for translation in known)

    site_of = {gateway.id: gateway.site_id for gateway in design.gateways}
    found: dict[str, dict[str, _Crossing]] = {site.id: {} for site in design.sites}
    for tunnel in tunnels:
        here, there, id_ = tunnel.left, tunnel.right, tunnel.id
        left, right = site_of[here.gateway_id], site_of[there.gateway_id]
        if left != right:
            shown = translates(here.gateway_id, id_) or translates(there.gateway_id, id_)
            found[left][id_] = _Crossing(tunnel, Side.LEFT, right, here.local_networks, shown)
            found[right][id_] = _Crossing(tunnel, Side.RIGHT, left, there.local_networks, shown)
    return found


class JoinedSites:
    """The sites of a design as its tunnels join them; by `crossings` where these are known already."""

    def __init__(self, design: Design, crossings: Crossings | None = None) -> None:
        self.design = design
        self._views: dict[tuple[str, str], dict[str, tuple[View, ...]]] = {}
        self._trees: dict[str, dict[str, tuple[str, str]]] = {}
        self._translations = _by_gateway(design.translations)
        self._crossings = crossings_of(design, design.tunnels) if crossings is None else crossings

    def after(self, operations: Sequence[Translate]) -> JoinedSites:
        """Return the sites after some translations: the tunnels join the same ones as before."""
        design = apply_operations(self.design, operations)
        after = copy(self)
        after.design, after._views = design, {}
        after._translations = _by_gateway(design.translations)
        others = crossings_of(design, [tunnel for change in operations for tunnel, _ in crossed(design, change.object)])
        after._crossings = {site_id: {**known, **others[site_id]} for site_id, known in self._crossings.items()}
        return after

    @cached_property
    def component(self) -> dict[str, int]:
        """A number for each site; sites with the same number are joined by tunnels."""
        found: dict[str, int] = {}
        for number, site in enumerate(self.design.sites):
            waiting = [] if site.id in found else [site.id]
            while waiting:
                at = waiting.pop()
                if at not in found:
                    found[at] = number
                    waiting += [crossing.site_id for crossing in self._crossings[at].values()]
        return found

    def chain(self, from_site: str, to_site: str) -> tuple[str, ...]:
        """Return the ids of the fewest tunnels that lead from one site to another; empty when none do."""
        before = self._tree(from_site)
        chain: list[str] = []
        at = to_site if to_site in before else from_site
        while at != from_site:
            at, tunnel_id = before[at]
            chain.append(tunnel_id)
        return tuple(reversed(chain))

    def _tree(self, from_site: str) -> dict[str, tuple[str, str]]:
        """Return, for each site that tunnels lead to, the site before it and the tunnel between."""
        before = self._trees.get(from_site)
        if before is None:
            before = self._trees[from_site] = {from_site: ("", "")}
            waiting = deque([from_site])
            while waiting:
                at = waiting.popleft()
                for crossing in self._crossings[at].values():
                    if crossing.site_id not in before:
                        before[crossing.site_id] = at, crossing.tunnel.id
                        waiting.append(crossing.site_id)
        return before

    def translated(self, network: Network) -> bool:
        """Whether a translation somewhere is about a network, or a part of it."""
        return any(translation.inside.overlaps(network.prefix) for translation in self.design.translations)

    def views(self, network: Network, beside: str) -> dict[str, tuple[View, ...]]:
        """Return how the sites that a network's traffic can come to see it, as far as it may meet one at the site `beside`.

        A tunnel lets a network through when the selectors of the end where it enters name some of it, or none are known yet.
        A site where a single tunnel ends, without a translation, sees nothing that the site before it doesn't see alike: of
        those the one beside alone is looked at. Translations in a row may show a network as exponentially many prefixes:
        beyond a number of them at one site, what is translated further is taken for all that the translation shows, so that a
        meeting may be told where there is none.
        """
        known = self._views.get((network.id, beside))
        if known is not None:
            return known
        first = View(network.prefix, ())
        seen: dict[str, dict[Prefix, View]] = defaultdict(dict, {network.site_id: {network.prefix: first}})
        waiting = deque([(network.site_id, first)])
        while waiting:
            site_id, view = waiting.popleft()
            for crossing in self._crossings[site_id].values():
                if crossing.site_id != beside and not crossing.is_translated and len(self._crossings[crossing.site_id]) == 1:
                    continue
                there = seen[crossing.site_id]
                for prefix in self._crossed(crossing, view.prefix, there):
                    there[prefix] = further = View(prefix, (*view.chain, crossing.tunnel.id))
                    waiting.append((crossing.site_id, further))
        found = self._views[network.id, beside] = {site_id: tuple(views.values()) for site_id, views in seen.items() if views}
        return found

    def _crossed(self, crossing: _Crossing, prefix: Prefix, seen: Mapping[Prefix, View]) -> Iterable[Prefix]:
        """Return what the far side newly sees of a prefix; without a translation at either end it is the prefix or nothing."""
        if crossing.is_translated:
            shown = self.across(crossing.tunnel, crossing.side, prefix, len(seen) >= _MOST_VIEWS)
            return [other for other in dict.fromkeys(shown) if other not in seen]
        return (prefix,) if prefix not in seen and _lets_through(crossing.selectors, prefix) else ()

    def across(self, tunnel: Tunnel, side: Side, prefix: Prefix, whole: bool = False) -> Iterator[Prefix]:
        """Yield what the far side of a tunnel sees of a prefix at this side: nothing when the tunnel doesn't carry it.

        With `whole`, what is translated is taken for all that the translation shows.
        """
        near, far = tunnel.end(side), tunnel.end(side.other)
        for shown in self._translate(near.gateway_id, tunnel.id, TranslatedSide.OWN, prefix, whole):
            if _lets_through(near.local_networks, shown):
                yield from self._translate(far.gateway_id, tunnel.id, TranslatedSide.FAR, shown, whole)

    def _translate(self, gateway_id: str, tunnel_id: str, side: TranslatedSide, prefix: Prefix, whole: bool) -> list[Prefix]:
        """Return a prefix as a gateway shows it: itself when no translation is about it."""
        if gateway_id not in self._translations:
            return [prefix]
        found = []
        for translation in self._translations[gateway_id]:
            if translation.side is side and translation.tunnel_id in (None, tunnel_id) and translation.inside.overlaps(prefix):
                found.append(translation.outside if whole else translated_prefix(translation, prefix))
                if not translation.inside.contains(prefix):
                    found.append(prefix)  # the rest of it passes as it is
        return found or [prefix]


def _lets_through(selectors: tuple[Selector, ...], prefix: Prefix) -> bool:
    """Whether selectors name some of a prefix, or none are known yet."""
    first, last = prefix.network, prefix.last
    for selector in selectors:
        if selector.first <= last and first <= selector.last and selector.family is prefix.family:
            return True
    return not selectors


def translated_prefix(translation: Translation, prefix: Prefix) -> Prefix:
    """Return what a prefix within, or around, a translation's real addresses is seen as."""
    if not translation.inside.contains(prefix) or translation.outside.length > translation.inside.length:
        return translation.outside
    return Prefix(prefix.family, translation.seen(prefix.network), prefix.length)


def meetings(design: Design, crossings: Crossings | None = None) -> tuple[Meeting, ...]:
    """Return the networks that share addresses and meet, or would once their sites are joined, each told once a prefix.

    Where many have one prefix, each is told with the first of them that it meets: once that is mended the next one is told.
    Pairs come zone by zone in canonical order.
    """
    joined = JoinedSites(design, crossings)
    return tuple(meeting for networks, pairs in _sharing(design) for meeting in _told_once(joined, networks, pairs))


def _told_once(joined: JoinedSites, networks: list[Network], pairs: OverlapPairs) -> Iterator[Meeting]:
    """Yield, for each network and each prefix that it shares with others, the first that it meets, and one before it would."""
    outer, place_of = np.unique(pairs.outer, return_inverse=True)
    number: dict[Prefix, int] = {}
    prefixes = np.array([number.setdefault(networks[place].prefix, len(number)) for place in outer.tolist()], dtype=np.int64)
    shared = pairs.inner * len(networks) + prefixes[place_of]
    order = np.argsort(shared, kind="stable")
    starts = np.flatnonzero(np.diff(shared[order], prepend=-1))
    found: list[tuple[int, Meeting]] = []
    for places in np.split(order, starts[1:]):
        told: set[bool] = set()  # whether they meet already
        for place in places.tolist():
            outer, inner = networks[pairs.outer[place]], networks[pairs.inner[place]]
            meeting = _meeting(joined, outer, inner, bool(pairs.identical[place]))
            if meeting and meeting.joined not in told:
                told.add(meeting.joined)
                found.append((place, meeting))
            if True in told:
                break
    return (meeting for _, meeting in sorted(found, key=lambda entry: entry[0]))


def all_meetings(design: Design, network_id: str | None = None) -> tuple[Meeting, ...]:
    """Return every pair of networks that share addresses and meet, or would; those of one network alone where it is given.

    Raise TooLarge.
    """
    joined = JoinedSites(design)
    found: list[Meeting] = []
    for networks, pairs in _sharing(design):
        for places in zip(pairs.outer.tolist(), pairs.inner.tolist(), pairs.identical.tolist(), strict=True):
            outer, inner, identical = networks[places[0]], networks[places[1]], places[2]
            if network_id is None or network_id in (outer.id, inner.id):
                meeting = _meeting(joined, outer, inner, identical)
                found += [meeting] if meeting else []
            if len(found) > _MOST_MEETINGS:
                raise TooLarge(f"more than {_MOST_MEETINGS} pairs of networks collide")
    return tuple(found)


def _meeting(joined: JoinedSites, outer: Network, inner: Network, identical: bool) -> Meeting | None:
    """Return how two networks that share addresses meet, or would once their sites are joined; None where they don't.

    Containment within one site is a plan and not a collision; the same prefix twice at a site is one.
    """
    if outer.site_id == inner.site_id:
        return Meeting(outer, inner, identical, joined=True, chain=()) if identical else None
    if joined.component[outer.site_id] != joined.component[inner.site_id]:
        return Meeting(outer, inner, identical, joined=False, chain=())
    if not meet(joined, outer, inner):
        return None
    return Meeting(outer, inner, identical, joined=True, chain=joined.chain(outer.site_id, inner.site_id))


def meet(joined: JoinedSites, one: Network, other: Network) -> bool:
    """Whether two networks of joined sites meet: some site sees both alike. Without translations all sites do."""
    if not joined.translated(one) and not joined.translated(other):
        return True
    mine, theirs = joined.views(one, other.site_id), joined.views(other, one.site_id)
    return any(a.prefix.overlaps(b.prefix) for at in mine.keys() & theirs.keys() for a in mine[at] for b in theirs[at])


def _sharing(design: Design) -> Iterator[tuple[list[Network], OverlapPairs]]:
    """Yield the networks of each zone, with the pairs of them that share addresses, the outer one first."""
    zones: dict[str, list[Network]] = defaultdict(list)
    for network in design.networks:
        zones[network.zone].append(network)
    for _, networks in sorted(zones.items()):
        yield networks, overlapping_pairs([network.prefix for network in networks])
