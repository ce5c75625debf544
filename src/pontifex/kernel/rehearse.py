"""Rehearsing a tunnel in the machine's own kernel: real sockets, real hosts, and forwarding by the Linux plan of each gateway."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Final

from pontifex.core.addressing import Address, Family, Region, Selector, common_region, parse_address
from pontifex.core.addressing.service import Service
from pontifex.core.ike.effects import IkeEnded, LogLevel
from pontifex.core.kinds import SIDES, Role, Side, Tunnel, Uplink
from pontifex.core.matching.row import Row, Stage
from pontifex.core.model import Design
from pontifex.core.rehearsal.hosts.alone import alone
from pontifex.core.rehearsal.ike_course import stage_reached
from pontifex.core.rehearsal.internet import Access, access
from pontifex.core.rehearsal.outcome import Outcome, ProbePair, Rehearsal, forecast_stage
from pontifex.core.rehearsal.own_end import NotRehearsed, OwnEnd, own_ends
from pontifex.core.rehearsal.packets import ICMP, TCP, InnerHeader, packet_between
from pontifex.core.rehearsal.probes import ProbeKind, ProbeResult
from pontifex.core.rehearsal.rehearse import DayOf, compared, why_not
from pontifex.core.routing import Conditions, Flow, Tables, trace
from pontifex.core.routing.trace.flow_path import End
from pontifex.kernel.forwarding import forwarding
from pontifex.kernel.gateways import KernelGateways
from pontifex.kernel.machines import HostBehind, TunnelMachines
from pontifex.kernel.probes import KernelProbes

_PATIENCE_S: Final = 15.0  # for which a call may come to something
_REGRET_S: Final = 2.0  # after a call has ended: the other end may have called as well
_PAUSE_S: Final = 0.02
_USUAL_PORT: Final = 443
_INSIDE: Final = {Family.V4: "169.254.9.1", Family.V6: "fe80::9:1"}  # of a gateway whose address inside nobody has said
_ECHOES: Final = (ProbeKind.ACROSS, ProbeKind.LARGEST, ProbeKind.TOO_LARGE, ProbeKind.HOPS)
_LATER: Final = (Stage.REKEY, Stage.RESTART)  # not tried: real time doesn't wait for them


@dataclass(frozen=True, slots=True)
class _KernelCourse:
    """A tunnel that is dialled in the kernel, with all that is known before."""

    tunnel: Tunnel
    rows: Sequence[Row]
    ends: dict[Side, OwnEnd]
    uplinks: dict[Side, Uplink]
    ways: dict[Side, Access]
    hosts: dict[Side, HostBehind]
    header: InnerHeader
    tables: Tables  # of what the design has of this tunnel alone
    seed: int

    def run(self) -> Rehearsal:
        """Build the machines, try, dial, and try again."""
        with TunnelMachines(self.ways, self.hosts) as machines, TemporaryDirectory(prefix="pontifex-") as state:
            names = {side: machines.name("gateway", side) for side in SIDES}
            for side in SIDES:
                machines.shell(names[side], forwarding(self.tables, self.tunnel, side, self.hosts[side].gateway, Path(state)))
            kinds, silent = self._kinds(), KernelProbes(machines, self.hosts, self._port)
            before = silent.all(kinds)
            inside = {side: self.ways[side].inside for side in SIDES}
            octets = f"{self.seed}/{self.tunnel.id}".encode()
            with KernelGateways(self.ends, inside, names, machines.tuns, self._resolve, octets) as gateways:
                is_up = self._wait(gateways, silent)
                mtu = self._size(machines, gateways) if is_up else None
                after = replace(silent, mtu=mtu).all(kinds)
                return self._told(gateways, is_up, before, after)

    def _kinds(self) -> tuple[ProbeKind, ...]:
        """Return what the tunnel's networks let hosts try: all of it, TCP alone, or nothing that is tried here."""
        if self.header.protocol == self._echo:
            return (*_ECHOES, ProbeKind.TCP)
        return (ProbeKind.TCP,) if self.header.protocol == TCP else ()

    @property
    def _echo(self) -> int:
        """The protocol of echoes in the family of the hosts."""
        return ICMP[self.header.source.family]

    @property
    def _port(self) -> int:
        """The port of TCP that the networks name, or a usual one."""
        return self.header.ports[1] if self.header.ports and self.header.protocol == TCP else _USUAL_PORT

    def _resolve(self, name: str) -> Address | None:
        return next((self.ways[side].outside for side in SIDES if self.uplinks[side].dns_name == name), None)

    def _wait(self, gateways: KernelGateways, probes: KernelProbes) -> bool:
        """Wait until both ends have a Child SA, or until a call has come to nothing for a while; return whether they have.

        For an end that calls on traffic, hosts speak meanwhile.
        """
        until = time.monotonic() + _PATIENCE_S
        ended = False
        spoken = self._kinds()[:1] if any(end.role is Role.ON_TRAFFIC for end in self.ends.values()) else ()
        while time.monotonic() < until:
            if all(gateways.stand_in(side).is_up for side in SIDES):
                return True
            if not ended and any(isinstance(effect, IkeEnded) for _, effect in list(gateways.record.effects)):
                ended, until = True, min(until, time.monotonic() + _REGRET_S)
            probes.all(spoken)
            time.sleep(_PAUSE_S)
        return False

    def _size(self, machines: TunnelMachines, gateways: KernelGateways) -> int | None:
        """Let the tunnel's devices take what ESP leaves of the path; return how much that is."""
        path = min(self.ways[side].mtu for side in SIDES)
        found = [gateways.stand_in(side).inner_mtu(self.ways[side].outside.family, path) for side in SIDES]
        mtu = min((number for number in found if number is not None), default=None)
        if mtu is not None:
            for side in SIDES:
                machines.set_tunnel_mtu(side, mtu)
        return mtu

    def _told(
        self, gateways: KernelGateways, is_up: bool, before: Sequence[ProbeResult], after: Sequence[ProbeResult]
    ) -> Rehearsal:
        expected = forecast_stage(self.rows)
        passes = expected is None or expected in _LATER
        arrive = [self._arrives(tried) for tried in after]
        pairs = tuple(
            ProbePair(before=first, after=second, expected=passes and arrives)
            for first, second, arrives in zip(before, after, arrive, strict=True)
        )
        lost = next((tried for tried, arrives in zip(after, arrive, strict=True) if arrives and not tried.passes), None)
        stopped = Stage.TRAFFIC if lost else None
        if not is_up:
            stopped = stage_reached(gateways.record, was_answered=gateways.was_answered)
        why = "The tunnel came up and carried what it should."
        if stopped:
            words = (
                f"{lost.kind.value} from behind {self.ends[lost.sender].name}: {lost.text}"
                if lost and is_up
                else _fault(gateways)
            )
            why = f"Stopped at {stopped.value.capitalize()}: {words}."
        return Rehearsal(
            tunnel_id=self.tunnel.id,
            seed=self.seed,
            outcome=Outcome(
                up=stopped is None, stopped_at=stopped, why=why, forecast_stage=None if expected in _LATER else expected
            ),
            lasted_s=round(gateways.now, 3),
            sent=tuple(gateways.record.sent),
            effects=tuple(gateways.record.effects),
            logs=tuple(gateways.record.logs),
            marks=(),
            probes=pairs,
        )

    def _arrives(self, tried: ProbeResult) -> bool:
        """Whether by the trace what was tried arrives and is answered."""
        if tried.kind is ProbeKind.TOO_LARGE:
            return False
        ends = self.hosts[tried.sender].address, self.hosts[tried.sender.other].address
        echo = Service((self._echo, self._echo))
        service = Service((TCP, TCP), (self._port, self._port)) if tried.kind is ProbeKind.TCP else echo
        found = trace(self.tables, Flow(*ends, service), Conditions())
        return found.back is not None and found.back.end is End.ARRIVES


def _fault(gateways: KernelGateways) -> str:
    errors = (line.text.rstrip(".") for line in gateways.record.logs if line.level is LogLevel.ERROR)
    return next(errors, "nobody answers")


def rehearse_in_kernel(design: Design, tunnel: Tunnel, today: date, seed: int = 0) -> Rehearsal | NotRehearsed:
    """Let both ends of a tunnel dial each other in network namespaces of this machine, and try what hosts behind them do.

    Raise NotPermittedError where the kernel refuses what that takes. How the tunnel lasts isn't tried.
    """
    rows = compared(design, tunnel, today)
    reasons = (*why_not(tunnel, rows), *_not_in_kernel(design, tunnel))
    if reasons:
        return NotRehearsed(reasons)
    ends = own_ends(design, tunnel, DayOf(today), f"{seed}/{tunnel.id}".encode())
    header = _between(design, tunnel, ends)
    if header is None:
        return NotRehearsed(("no two hosts could speak through it",))
    uplinks = {side: uplink for side in SIDES if (uplink := design.uplink_of(tunnel.end(side)))}
    ways = {side: access(uplinks[side], uplinks[side.other], ends[side.other].peer) for side in SIDES}
    hosts = {side: _host(design, tunnel, side, header) for side in SIDES}
    return _KernelCourse(tunnel, rows, ends, uplinks, ways, hosts, header, Tables(alone(design, tunnel)), seed).run()


def _not_in_kernel(design: Design, tunnel: Tunnel) -> Iterator[str]:
    """Yield what isn't rehearsed in the kernel, though it is in virtual time."""
    technology = tunnel.left.technology
    if technology.traits.ike_version != 2:
        yield f"{technology.label} isn't rehearsed in the kernel"
    if not all(design.uplink_of(tunnel.end(side)) for side in SIDES):
        yield "an uplink isn't known"


def _between(design: Design, tunnel: Tunnel, ends: dict[Side, OwnEnd]) -> InnerHeader | None:
    """Return what two hosts say to each other that both ends' networks name: hosts of the sites' own networks where these do."""
    left, right = ends[Side.LEFT].settings, ends[Side.RIGHT].settings
    near = common_region(left.local_networks, right.remote_networks)
    far = common_region(left.remote_networks, right.local_networks)
    at_home = (common_region(region, _at_site(design, tunnel, side)) for region, side in ((near, Side.LEFT), (far, Side.RIGHT)))
    return packet_between(*at_home) or packet_between(near, far)


def _at_site(design: Design, tunnel: Tunnel, side: Side) -> Region:
    site = design.gateway_by_id[tunnel.end(side).gateway_id].site_id
    return tuple(Selector.of(network.prefix) for network in design.networks_of_site(site) if not network.zone)


def _host(design: Design, tunnel: Tunnel, side: Side, header: InnerHeader) -> HostBehind:
    """Return the host that is tried behind a gateway, and where it finds that gateway."""
    address = header.source if side is Side.LEFT else header.destination
    site = design.gateway_by_id[tunnel.end(side).gateway_id].site_id
    inside = (network.gateway_address for network in design.networks_of_site(site) if network.prefix.holds(address))
    usual = Address(*parse_address(_INSIDE[address.family]))
    return HostBehind(address, next((candidate for candidate in inside if candidate and candidate != address), usual))
