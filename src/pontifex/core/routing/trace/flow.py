"""What is asked of a trace: one flow, and what is down or slow meanwhile."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Final

from pontifex.core.addressing import Address, Selector, Service
from pontifex.core.addressing.selector import ANY_PORT, WITH_PORTS
from pontifex.core.matching import Forecast, GatewayTunnels, StageState, TunnelEnds, alike, forecast, telling_rows
from pontifex.core.model import Design
from pontifex.core.routing.links.quality import Quality
from pontifex.core.routing.trace.dependents import Dependents, Fallen

ANY_SERVICE: Final = Service()
_KNOWN_AS_ANSWERS: Final = frozenset({1, 6, 33, 58, 132})  # ICMP, TCP, DCCP, ICMPv6, SCTP
HIGH_PORTS: Final = (1024, 65_535)  # what a client's side of a connection is given (RFC 6056 section 3.2)


def has_ports(service: Service) -> bool:
    """Whether a service is of one protocol that has ports."""
    low, high = service.protocols
    return low == high and low in WITH_PORTS


def client_ports(service: Service) -> tuple[int, int]:
    """Return the ports at the side that asks for a service."""
    return HIGH_PORTS if has_ports(service) else ANY_PORT


def answer_service(service: Service) -> Service:
    """Return the service of answers: to the port that the request came from."""
    return Service(service.protocols, client_ports(service))


@dataclass(frozen=True, slots=True)
class Flow:
    """Packets of one kind from one address to another."""

    source: Address
    destination: Address
    service: Service = ANY_SERVICE  # protocol, and port at the destination
    dscp: int = 0  # RFC 2474
    source_ports: tuple[int, int] = ANY_PORT

    @property
    def answered_newly(self) -> bool:
        """Whether an answer can pass for the beginning of a connection: not in TCP, SCTP and ICMP, which tell them apart."""
        low, high = self.service.protocols
        return low == high and low not in _KNOWN_AS_ANSWERS

    @property
    def selector(self) -> Selector:
        """The destination with protocol and port, as rules and tunnels name it."""
        value = self.destination.value
        return Selector(self.destination.family, value, value, self.service.protocols, self.service.ports)

    @property
    def from_selector(self) -> Selector:
        """The source with protocol and port, as rules and tunnels name it."""
        value = self.source.value
        return Selector(self.source.family, value, value, self.service.protocols, self.source_ports)


@dataclass(frozen=True, slots=True)
class Failing:
    """Tunnels that don't come up as designed, and those of which that isn't known yet, each by its id with the reason."""

    down: dict[str, str] = field(default_factory=dict)
    unknown: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Conditions:
    """What can't be used, each by its id, and why: tunnels that don't come up, and whatever is taken down to see.

    `unknown` are tunnels of which it isn't known yet whether they come up: nothing else is taken in their place, and what
    goes into them is not known further. `quality` is what is supposed of uplinks and tunnels, by id, beside what the design
    says.
    """

    tunnels: dict[str, str] = field(default_factory=dict)
    uplinks: dict[str, str] = field(default_factory=dict)
    gateways: dict[str, str] = field(default_factory=dict)
    quality: dict[str, Quality] = field(default_factory=dict)
    unknown: dict[str, str] = field(default_factory=dict)

    @classmethod
    def of(
        cls,
        design: Design,
        down: frozenset[str] = frozenset(),
        failing: Failing | None = None,
        slow: dict[str, Quality] | None = None,
    ) -> Conditions:
        """Return the conditions with some ids of tunnels, uplinks, gateways or sites down.

        What stands on it goes down with it: a site's gateways, their uplinks, and the tunnels over those.
        """
        failing = failing or Failing()
        unknown = {id_: why for id_, why in failing.unknown.items() if id_ not in failing.down}
        before = cls(tunnels=dict(failing.down), quality=slow or {}, unknown=unknown)
        return before.with_fallen(Dependents(design).of(down)) if down else before

    @property
    def down(self) -> set[str]:
        """Ids of all that can't be used."""
        return self.tunnels.keys() | self.uplinks.keys() | self.gateways.keys()

    def with_fallen(self, fallen: Fallen) -> Conditions:
        """Return the same conditions with more things down."""
        gateways, uplinks, tunnels = (
            before | dict.fromkeys(more, "taken down")
            for before, more in (
                (self.gateways, fallen.gateways),
                (self.uplinks, fallen.uplinks),
                (self.tunnels, fallen.tunnels),
            )
        )
        unknown = {id_: why for id_, why in self.unknown.items() if id_ not in fallen.tunnels}
        return replace(self, tunnels=tunnels, uplinks=uplinks, gateways=gateways, unknown=unknown)


def failing_tunnels(design: Design, today: date) -> Failing:
    """Return the tunnels that don't come up as designed, or aren't known to, each with what its forecast says."""
    together = GatewayTunnels.of(design)
    compared = (
        (ends.tunnel, telling_rows(ends, together.neighbours(ends.tunnel), alike(ends)))
        for ends in (TunnelEnds(design, tunnel, today) for tunnel in design.tunnels)
    )
    return failing_of(forecast(tunnel, rows) for tunnel, rows in compared)


def failing_of(forecasts: Iterable[Forecast]) -> Failing:
    """Return the same of forecasts that are there already."""
    found = Failing()
    for foretold in forecasts:
        if foretold.state in (StageState.FAILS, StageState.UNKNOWN):
            why = foretold.sentence.reason.clause(foretold.sentence.names)
            (found.down if foretold.state is StageState.FAILS else found.unknown)[foretold.tunnel_id] = why
    return found
