"""What the trace says of what hosts try."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.addressing.special import is_others
from pontifex.core.kinds import SIDES, Side, Tunnel
from pontifex.core.rehearsal.hosts.choice import AskingHost
from pontifex.core.rehearsal.hosts.packet import DNS_PORT, HTTPS_PORT
from pontifex.core.rehearsal.packets import ICMP, TCP, UDP
from pontifex.core.rehearsal.probes import ProbeKind
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.trace.flow_path import End, Trace


@dataclass(frozen=True, slots=True)
class Foreseen:
    """Whether a trial passes, and who answers it where that is foreseen."""

    passes: bool
    answers: tuple[Address, ...] = ()


def foresee(
    tables: Tables, tunnel: Tunnel, host: AskingHost, kind: ProbeKind, outside: dict[Side, Address], *, is_up: bool
) -> Foreseen:
    """Return what the trace says of a trial of a host, with the tunnel up or down."""
    conditions = Conditions() if is_up else Conditions(tunnels={tunnel.id: "not up"})
    tracing = _Tracing(tables, tunnel, host, outside, conditions)
    if kind is ProbeKind.OUTSIDE:
        assert host.outside
        return tracing.out_to(host.outside)
    if kind is ProbeKind.RESOLVER:
        return next((Foreseen(True, (resolver,)) for resolver in host.resolvers if tracing.answers(resolver)), Foreseen(False))
    if kind is ProbeKind.TCP:
        return Foreseen(tracing.reaches(Service((TCP, TCP), (host.port, host.port))))
    echo = ICMP[host.address.family]
    return Foreseen(tracing.reaches(Service((echo, echo))))


@dataclass(frozen=True, slots=True)
class _Tracing:
    tables: Tables
    tunnel: Tunnel
    host: AskingHost
    outside: dict[Side, Address]
    conditions: Conditions

    def reaches(self, service: Service) -> bool:
        """Whether the host at the other side is reached, and its answer arrives."""
        flow = Flow(self.host.address, self.host.destination, service)
        found = trace(self.tables, flow, self.conditions, self.host.network, self.host.target_network)
        return found.back is not None and found.back.end is End.ARRIVES

    def out_to(self, address: Address) -> Foreseen:
        """Return by which address the outside sees the host."""
        found = self._traced(address, Service((TCP, TCP), (HTTPS_PORT, HTTPS_PORT)))
        side = self._left_at(found)
        return Foreseen(False) if side is None else Foreseen(True, (self.outside[side],))

    def answers(self, resolver: Address) -> bool:
        """Whether a resolver answers, inside or outside."""
        found = self._traced(resolver, Service((UDP, UDP), (DNS_PORT, DNS_PORT)))
        if found.back is not None:
            return found.back.end is End.ARRIVES
        side = self._left_at(found)
        uplink = self.tables.design.uplink_of(self.tunnel.end(side)) if side else None
        public = is_others(Prefix.of_address(resolver)) and side is not None and self.outside[side].family is resolver.family
        return public and uplink is not None and not uplink.only_tcp_out

    def _traced(self, address: Address, service: Service) -> Trace:
        return trace(self.tables, Flow(self.host.address, address, service), self.conditions, self.host.network)

    def _left_at(self, found: Trace) -> Side | None:
        """Return the side by whose uplink a flow leaves; None where it doesn't."""
        if found.forward.end not in (End.INTERNET, End.UNPROTECTED):
            return None
        gateway_id = found.forward.hops[-1].gateway_id
        return next((side for side in SIDES if self.tunnel.end(side).gateway_id == gateway_id), None)
