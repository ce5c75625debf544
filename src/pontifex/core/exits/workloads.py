"""What hangs on an exit: how, which address the outside sees for it, and what it does when tunnels or the exit are down."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address, Prefix, Service
from pontifex.core.choice import Choice
from pontifex.core.exits.outside import Outside, OutsideFate, outside_of
from pontifex.core.kinds import Exit, Host, HostClass, Network, NetworkRole
from pontifex.core.model import Design
from pontifex.core.reasons import Sentence
from pontifex.core.routing import Conditions, Flow, Tables, Trace, trace
from pontifex.core.routing.all_flows.equivalence_classes import parts_of
from pontifex.core.routing.all_flows.matrix import Reach, reach_of

_MOST_FALLBACKS: Final = 8
_TCP: Final = 6
_MOST_TRIED: Final = 16
_HANGING: Final = frozenset({HostClass.CONTAINER, HostClass.WORKLOAD})


class Hanging(Choice):
    """How a workload hangs on an exit."""

    SHARES = "shares"  # the network of the exit is its own: it starts after the exit, and stops with it
    ROUTED = "routed"  # its traffic is led there
    ASIDE = "aside"  # it leaves elsewhere


class SeenVerdict(Choice):
    """What the address by which the outside has seen a workload says."""

    AS_FORESEEN = "as foreseen"
    OTHERWISE = "otherwise"
    NOT_SEEN = "not seen yet"
    NOT_COMPARABLE = "not comparable"  # nobody knows which address it should be


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitWorkload:
    """A host, or a whole network without hosts that are known, that leaves by an exit."""

    host_id: str | None
    network_id: str
    name: str
    how: Hanging
    outside: Annotated[Outside, Field(title="With everything up")]
    fallbacks: Annotated[
        tuple[Outside, ...], Field(title="When its tunnels fail", description="One after the other; the last with all down.")
    ]
    restarting: Annotated[OutsideFate, Field(title="While the exit restarts")]
    ports: tuple[int, ...]
    seen: Annotated[Address | None, Field(title="By which the outside has seen it")]
    verdict: SeenVerdict

    @property
    def when_down(self) -> Outside:
        """What becomes of it with all its tunnels down."""
        return self.fallbacks[-1] if self.fallbacks else self.outside


@dataclass(frozen=True, slots=True, kw_only=True)
class PortAccess:
    """A published port, as it is reached from where it must be."""

    host_id: str
    port: int
    at: Annotated[Address, Field(title="Where it is reached", description="At the exit for whoever shares its network.")]
    source: str
    reach: Reach
    why: Sentence


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitTable:
    """An exit with all that hangs on it."""

    exit_id: str
    name: str
    gateway_id: str
    host_id: str | None
    workloads: tuple[ExitWorkload, ...]
    access: tuple[PortAccess, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitTables:
    """All exits of a design."""

    exits: tuple[ExitTable, ...]


def exit_table(tables: Tables, exit_: Exit) -> ExitTable:
    """Return what hangs on an exit."""
    asked = _Traced(tables)
    workloads = tuple(_workloads(asked, exit_))
    return ExitTable(
        exit_id=exit_.id,
        name=exit_.name,
        gateway_id=exit_.gateway_id,
        host_id=exit_.host_id,
        workloads=workloads,
        access=tuple(_access(asked, exit_, workloads)),
    )


@dataclass
class _Traced:
    """What was traced already. Addresses that all gateways treat alike are traced once."""

    tables: Tables
    ways: dict[tuple[str, int], tuple[Outside, tuple[Outside, ...]]] = field(default_factory=dict)
    reached: dict[tuple[str, int, int, Prefix], Trace] = field(default_factory=dict)

    def ways_out(self, address: Address, network: Network) -> tuple[Outside, tuple[Outside, ...]]:
        """Return how an address of a network leaves with everything up, and then with one tunnel after the other down."""
        key = network.id, self._part(address, network)
        if key not in self.ways:
            self.ways[key] = _by_conditions(self.tables, address, network)
        return self.ways[key]

    def reaches(self, source: Prefix, destination: Address, network: Network, port: int) -> Trace:
        """Return how a port at an address of a network is reached from a prefix."""
        key = network.id, self._part(destination, network), port, source
        if key not in self.reached:
            begin = _somebody(self.tables, source)
            flow = Flow(begin, destination, Service((_TCP, _TCP), (port, port)))
            self.reached[key] = trace(self.tables, flow, Conditions(), _narrowest(self.tables, begin), network)
        return self.reached[key]

    def _part(self, address: Address, network: Network) -> int:
        """Return the first address of those that are treated alike; a gateway's own address stands for itself."""
        if self.tables.owner(address, network.site_id) or not network.prefix.holds(address):
            return address.value
        parts = parts_of(self.tables, network.prefix)
        return parts[bisect_right(parts, address.value) - 1]


def _workloads(asked: _Traced, exit_: Exit) -> Iterator[ExitWorkload]:
    """Yield those that share its network, then the other workloads of the site, then networks of containers without any."""
    design = asked.tables.design
    sharing = {member.id for member in exit_.shared_by}
    for id_ in (member.id for member in exit_.shared_by):
        yield _of_host(asked, exit_, design.host_by_id[id_], Hanging.SHARES)
    for network in design.networks_of_site(design.gateway_by_id[exit_.gateway_id].site_id):
        hosts = [candidate for candidate in design.hosts_of_network(network.id) if candidate.host_class in _HANGING]
        for host in hosts:
            if host.id not in sharing and host.id != exit_.host_id:
                yield _of_host(asked, exit_, host, Hanging.ROUTED)
        if not hosts and network.role is NetworkRole.CONTAINER and not network.zone:
            yield _of_network(asked, network)


def _of_host(asked: _Traced, exit_: Exit, host: Host, how: Hanging) -> ExitWorkload:
    design = asked.tables.design
    owner = _owner(design, exit_, host, how)
    outside, fallbacks = asked.ways_out(owner.address, design.network_by_id[owner.network_id])
    leaves = outside.fate is OutsideFate.LEAVES_BY_EXIT
    return ExitWorkload(
        host_id=host.id,
        network_id=host.network_id,
        name=host.name,
        how=how if how is Hanging.SHARES or leaves else Hanging.ASIDE,
        outside=outside,
        fallbacks=fallbacks,
        # whoever shares a network has none while its owner is away
        restarting=OutsideFate.LOST if how is Hanging.SHARES else (fallbacks[-1] if fallbacks else outside).fate,
        ports=host.ports,
        seen=host.seen_outside,
        verdict=_verdict(host.seen_outside, outside),
    )


def _owner(design: Design, exit_: Exit, host: Host, how: Hanging) -> Host:
    """Return whose addresses a host has: those of the exit where it shares its network."""
    return design.host_by_id[exit_.host_id] if how is Hanging.SHARES and exit_.host_id else host


def source_of(design: Design, exit_: Exit, workload: ExitWorkload) -> tuple[Address, Network]:
    """Return the address by which a workload asks for the outside, and its network; the first host's of a whole network."""
    if workload.host_id is None:
        network = design.network_by_id[workload.network_id]
        return network.prefix.first_host, network
    owner = _owner(design, exit_, design.host_by_id[workload.host_id], workload.how)
    return owner.address, design.network_by_id[owner.network_id]


def _of_network(asked: _Traced, network: Network) -> ExitWorkload:
    outside, fallbacks = asked.ways_out(network.prefix.first_host, network)
    return ExitWorkload(
        host_id=None,
        network_id=network.id,
        name=network.name,
        how=Hanging.ROUTED if outside.fate is OutsideFate.LEAVES_BY_EXIT else Hanging.ASIDE,
        outside=outside,
        fallbacks=fallbacks,
        restarting=(fallbacks[-1] if fallbacks else outside).fate,
        ports=(),
        seen=None,
        verdict=SeenVerdict.NOT_SEEN,
    )


def _by_conditions(tables: Tables, address: Address, network: Network) -> tuple[Outside, tuple[Outside, ...]]:
    """Return how it leaves with everything up, and then with each tunnel down that it has left by until then."""
    down: dict[str, str] = {}
    found = [outside_of(tables, Conditions(), address, network)]
    while found[-1].tunnels and len(found) <= _MOST_FALLBACKS:
        down = down | dict.fromkeys(found[-1].tunnels, "taken down")
        found.append(outside_of(tables, Conditions(tunnels=down), address, network))
    return found[0], tuple(found[1:])


def _verdict(seen: Address | None, outside: Outside) -> SeenVerdict:
    if seen is None:
        return SeenVerdict.NOT_SEEN
    if outside.address is None:
        return SeenVerdict.NOT_COMPARABLE
    return SeenVerdict.AS_FORESEEN if seen == outside.address else SeenVerdict.OTHERWISE


def _access(asked: _Traced, exit_: Exit, workloads: tuple[ExitWorkload, ...]) -> Iterator[PortAccess]:
    """Yield each published port from each prefix that must reach it: answers must go back there, and not into the tunnel."""
    design = asked.tables.design
    for workload in workloads:
        if workload.host_id is None:
            continue
        shares = workload.how is Hanging.SHARES and exit_.host_id
        reached = design.host_by_id[exit_.host_id if shares and exit_.host_id else workload.host_id]
        for port in workload.ports:
            for prefix in exit_.reached_from:
                if prefix.family is not reached.address.family:
                    continue
                traced = asked.reaches(prefix, reached.address, design.network_by_id[reached.network_id], port)
                yield PortAccess(
                    host_id=workload.host_id,
                    port=port,
                    at=reached.address,
                    source=str(prefix),
                    reach=reach_of(traced),
                    why=traced.verdict,
                )


def _somebody(tables: Tables, prefix: Prefix) -> Address:
    """Return the first address of a prefix that is no gateway's own: answers to those need no route."""
    some = range(min(prefix.network + 1, prefix.last), min(prefix.network + _MOST_TRIED, prefix.last) + 1)
    addresses = (Address(prefix.family, value) for value in some)
    return next((address for address in addresses if tables.owner(address, None) is None), prefix.first_host)


def _narrowest(tables: Tables, address: Address) -> Network | None:
    return max(tables.design.network_map.holding(address), key=lambda network: (network.prefix.length, network.id), default=None)


def clashing_ports(design: Design, exit_: Exit) -> Iterator[tuple[Host, Host, int]]:
    """Yield hosts whose ports meet at the exit: those that share its network publish theirs there."""
    owner = [design.host_by_id[exit_.host_id]] if exit_.host_id else []
    taken: dict[int, Host] = {}
    for host in [*owner, *(design.host_by_id[member.id] for member in exit_.shared_by)]:
        for port in host.ports:
            if port in taken:
                yield taken[port], host, port
            else:
                taken[port] = host
