"""What is asked of a trace: one flow, and what is down or slow meanwhile."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Final

from pontifex.core.addressing import Address, Selector, Service
from pontifex.core.matching import Forecast, Pair, StageState, compare, forecast
from pontifex.core.model import Design
from pontifex.core.routing.quality import Quality

ANY_SERVICE: Final = Service()


@dataclass(frozen=True, slots=True)
class Flow:
    """Packets of one kind from one address to another."""

    source: Address
    destination: Address
    service: Service = ANY_SERVICE  # protocol, and port at the destination
    dscp: int = 0  # RFC 2474

    @property
    def selector(self) -> Selector:
        """The destination with protocol and port, as rules and tunnels name it."""
        value = self.destination.value
        return Selector(self.destination.family, value, value, self.service.protocols, self.service.ports)

    @property
    def from_selector(self) -> Selector:
        """The source alone, as rules and tunnels name it."""
        return Selector(self.source.family, self.source.value, self.source.value)


@dataclass(frozen=True, slots=True)
class Conditions:
    """What can't be used, each by its id, and why: tunnels that don't come up, and whatever is taken down to see.

    `quality` is what is supposed of uplinks and tunnels, by id, beside what the design says.
    """

    tunnels: dict[str, str] = field(default_factory=dict)
    uplinks: dict[str, str] = field(default_factory=dict)
    gateways: dict[str, str] = field(default_factory=dict)
    quality: dict[str, Quality] = field(default_factory=dict)

    @classmethod
    def of(
        cls,
        design: Design,
        down: frozenset[str] = frozenset(),
        failing: dict[str, str] | None = None,
        slow: dict[str, Quality] | None = None,
    ) -> Conditions:
        """Return the conditions with some ids of tunnels, uplinks, gateways or sites down.

        What stands on it goes down with it: a site's gateways, their uplinks, and the tunnels over those. `failing` are
        tunnels that don't come up as designed, with the reason.
        """
        gateways = {g.id: "taken down" for g in design.gateways if g.id in down or g.site_id in down}
        uplinks = {u.id: "taken down" for u in design.uplinks if u.id in down or u.gateway_id in gateways}
        tunnels = dict(failing or {})
        for tunnel in design.tunnels:
            left, right = tunnel.left, tunnel.right
            under = (tunnel.id in down, left.gateway_id in gateways, right.gateway_id in gateways)
            if any(under) or left.uplink_id in uplinks or right.uplink_id in uplinks:
                tunnels[tunnel.id] = "taken down"
        return cls(tunnels, uplinks, gateways, slow or {})

    @property
    def down(self) -> set[str]:
        """Ids of all that can't be used."""
        return self.tunnels.keys() | self.uplinks.keys() | self.gateways.keys()

    def also_down(self, design: Design, id_: str) -> Conditions:
        """Return the same conditions with one more thing down."""
        more = Conditions.of(design, frozenset({id_}), self.tunnels, self.quality)
        return replace(more, uplinks=self.uplinks | more.uplinks, gateways=self.gateways | more.gateways)


def failing_tunnels(design: Design, today: date) -> dict[str, str]:
    """Return the tunnels that don't come up as designed, each with what its forecast says."""
    return failing_of(forecast(tunnel, compare(Pair(design, tunnel, today))) for tunnel in design.tunnels)


def failing_of(forecasts: Iterable[Forecast]) -> dict[str, str]:
    """Return the same of forecasts that are there already."""
    return {
        one.tunnel_id: one.sentence[:1].lower() + one.sentence[1:].rstrip(".")
        for one in forecasts
        if one.state in (StageState.FAILS, StageState.UNKNOWN)
    }
