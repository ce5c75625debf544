"""The tunnels that lead from one site to another, and the addresses under which one site sees another's networks."""

from __future__ import annotations

from collections import defaultdict, deque
from functools import cached_property
from typing import NamedTuple

from pontifex.core.addressing import Address
from pontifex.core.kinds import Network, Side, TranslatedSide, Translation, Tunnel, TunnelEnd
from pontifex.core.model import Design


class Crossing(NamedTuple):
    """A tunnel, taken from one of its sides."""

    tunnel: Tunnel
    side: Side  # where it is entered

    @property
    def near(self) -> TunnelEnd:
        """The end where it is entered."""
        return self.tunnel.end(self.side)

    @property
    def far(self) -> TunnelEnd:
        """The end where it is left."""
        return self.tunnel.end(self.side.other)


class Chains:
    """Shortest chains of tunnels between sites. A peering leads only from one of its sides to the other."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self._translations: dict[str, list[Translation]] = defaultdict(list)
        for translation in design.translations:
            self._translations[translation.gateway_id].append(translation)
        # of each site: what was reached from it until now, and from where to go on
        self._searches: dict[str, tuple[dict[str, Crossing | None], deque[str]]] = {}

    @cached_property
    def _from(self) -> dict[str, list[tuple[str, Crossing, bool]]]:
        """Where the tunnels of each site lead, and whether what they lead to leads on."""
        found: dict[str, list[tuple[str, Crossing, bool]]] = {site.id: [] for site in self._design.sites}
        site_of = {gateway.id: gateway.site_id for gateway in self._design.gateways}
        for tunnel in self._design.tunnels:
            here, there = site_of[tunnel.left.gateway_id], site_of[tunnel.right.gateway_id]
            if here != there:
                transitive = tunnel.left.technology.traits.transitive
                found[here].append((there, Crossing(tunnel, Side.LEFT), transitive))
                found[there].append((here, Crossing(tunnel, Side.RIGHT), transitive))
        return found

    def chain(self, from_site: str, to_site: str) -> tuple[Crossing, ...]:
        """Return the crossings from one site to another, the fewest; empty where no tunnels lead there."""
        reached = self._search(from_site, to_site)
        found: list[Crossing] = []
        at = to_site
        while at != from_site:
            crossing = reached.get(at)
            if crossing is None:
                return ()
            found.append(crossing)
            at = self._design.site_of(crossing.near).id
        return tuple(reversed(found))

    def _search(self, root: str, wanted: str) -> dict[str, Crossing | None]:
        """Return by which crossing each site is reached first, as far as it takes to come to the one that is wanted."""
        found, waiting = self._searches.setdefault(root, ({root: None}, deque([root])))
        while waiting and wanted not in found:
            for site_id, crossing, transitive in self._from[waiting.popleft()]:
                if transitive and site_id not in found:
                    found[site_id] = crossing
                    waiting.append(site_id)
        if wanted not in found:
            for site_id, crossing, _ in self._from[root]:
                found.setdefault(site_id, crossing)  # by a peering, where nothing else leads there
        return found

    def seen_from(self, site_id: str, network: Network, address: Address) -> Address:
        """Return the address under which a site sees an address of another site's network."""
        if not any(translation.inside.holds(address) for translation in self._design.translations):
            return address
        for crossing in self.chain(network.site_id, site_id):
            address = self._shown(crossing.near.gateway_id, crossing, TranslatedSide.OWN, address)
            address = self._shown(crossing.far.gateway_id, crossing, TranslatedSide.FAR, address)
        return address

    def _shown(self, gateway_id: str, crossing: Crossing, side: TranslatedSide, address: Address) -> Address:
        for translation in self._translations.get(gateway_id, ()):
            if (
                translation.side is side
                and translation.tunnel_id in (None, crossing.tunnel.id)
                and translation.inside.holds(address)
            ):
                return Address(address.family, translation.seen(address.value))
        return address
