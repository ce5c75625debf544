"""What goes down with what: a site's gateways, their uplinks, and the tunnels over those."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from pontifex.core.kinds import SIDES
from pontifex.core.model import Design


@dataclass(frozen=True, slots=True)
class Fallen:
    """Ids of what is down."""

    gateways: frozenset[str]
    uplinks: frozenset[str]
    tunnels: frozenset[str]


class Dependents:
    """What stands on each site, gateway, uplink and tunnel of a design."""

    def __init__(self, design: Design) -> None:
        self._gateways: dict[str, set[str]] = defaultdict(set)  # by themselves and by their sites
        self._uplinks: dict[str, set[str]] = defaultdict(set)  # by themselves and by their gateways
        self._tunnels: dict[str, set[str]] = defaultdict(set)  # by themselves, their gateways and their uplinks
        for gateway in design.gateways:
            for id_ in (gateway.id, gateway.site_id):
                self._gateways[id_].add(gateway.id)
        for uplink in design.uplinks:
            for id_ in (uplink.id, uplink.gateway_id):
                self._uplinks[id_].add(uplink.id)
        for tunnel in design.tunnels:
            ends = [tunnel.end(side) for side in SIDES]
            for under in (tunnel.id, *(id_ for end in ends for id_ in (end.gateway_id, end.uplink_id) if id_)):
                self._tunnels[under].add(tunnel.id)

    def of(self, ids: Iterable[str]) -> Fallen:
        """Return what is down when some things fail, these among it."""
        failed = frozenset(ids)
        gateways = self._on(self._gateways, failed)
        uplinks = self._on(self._uplinks, failed | gateways)
        return Fallen(gateways, uplinks, self._on(self._tunnels, failed | gateways | uplinks))

    @staticmethod
    def _on(dependents: dict[str, set[str]], ids: frozenset[str]) -> frozenset[str]:
        return frozenset().union(*(dependents[id_] for id_ in ids if id_ in dependents))
