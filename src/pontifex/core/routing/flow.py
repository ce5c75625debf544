"""What is asked of a trace: one flow, and what is down meanwhile."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from pontifex.core.addressing import Address
from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, Selector
from pontifex.core.matching import Pair, StageState, compare, forecast
from pontifex.core.model import Design


@dataclass(frozen=True, slots=True)
class Flow:
    """Packets of one kind from one address to another."""

    source: Address
    destination: Address
    protocol: int | None = None  # IANA's number; None for any
    port: int | None = None  # at the destination

    @property
    def selector(self) -> Selector:
        """The destination with protocol and port, as rules and tunnels name it."""
        protocols = ANY_PROTOCOL if self.protocol is None else (self.protocol, self.protocol)
        ports = ANY_PORT if self.port is None else (self.port, self.port)
        value = self.destination.value
        return Selector(self.destination.family, value, value, protocols, ports)


@dataclass(frozen=True, slots=True)
class Conditions:
    """What can't be used, each by its id, and why: tunnels that don't come up, and whatever is taken down to see."""

    tunnels: dict[str, str] = field(default_factory=dict)
    uplinks: dict[str, str] = field(default_factory=dict)
    gateways: dict[str, str] = field(default_factory=dict)

    @classmethod
    def of(cls, design: Design, down: frozenset[str] = frozenset(), failing: dict[str, str] | None = None) -> Conditions:
        """Return the conditions with some ids of tunnels, uplinks, gateways or sites down.

        What stands on it goes down with it: a site's gateways, their uplinks, and the tunnels over those. `failing` are
        tunnels that don't come up as designed, with the reason.
        """
        gateways = {g.id: "taken down" for g in design.gateways if g.id in down or g.site_id in down}
        uplinks = {u.id: "taken down" for u in design.uplinks if u.id in down or u.gateway_id in gateways}
        tunnels = dict(failing or {})
        for tunnel in design.tunnels:
            for end in (tunnel.left, tunnel.right):
                if tunnel.id in down or end.gateway_id in gateways or end.uplink_id in uplinks:
                    tunnels[tunnel.id] = "taken down"
        return cls(tunnels, uplinks, gateways)


def failing_tunnels(design: Design, today: date) -> dict[str, str]:
    """Return the tunnels that don't come up as designed, each with what its forecast says."""
    found = {}
    for tunnel in design.tunnels:
        foretold = forecast(tunnel, compare(Pair(design, tunnel, today)))
        if foretold.state in (StageState.FAILS, StageState.UNKNOWN):
            found[tunnel.id] = foretold.sentence[:1].lower() + foretold.sentence[1:].rstrip(".")
    return found
