"""Findings within one network: its hosts, its DHCP ranges, and what the platform keeps of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Container, Iterable, Iterator
from functools import partial
from typing import Final

from pontifex.core.addressing import Address, AddressRange, Prefix
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import MOST_NAMED, Place, Remark, more_than_named, remark
from pontifex.core.kinds import Assignment, Host, HostClass, Network, ObjectType, Site
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, put
from pontifex.core.reasons import addresses, named
from pontifex.core.reasons.addresses import NetworkOf
from pontifex.core.space import capacity, host_range, spoken_for
from pontifex.core.space.meeting import JoinedSites
from pontifex.core.space.widen import widened, wider

_MOST_PLACES: Final = 20  # of hosts that share an address
_MOST_MOVED: Final = 20  # more than these are no slip: their networks collide, and that is mended instead


def host_findings(design: Design, network: Network, name: NetworkOf) -> Iterator[Remark]:
    """Yield what is to be said of the hosts and ranges of a network."""
    hosts = design.hosts_of_network(network.id)
    if network.dhcp_ranges:
        yield from _dhcp_ranges(network, name, hosts)
    if hosts:
        for host in hosts:
            yield from _host(design, network, name, host, hosts)
        yield from _ports_twice(network, hosts)
    if network.gateway_address and network.reserved_ranges:
        yield from _gateway_kept(network, name, network.gateway_address)
    if network.hosts_expected is not None:
        yield from _too_small(design, network, name, network.hosts_expected)


def _ports_twice(network: Network, hosts: tuple[Host, ...]) -> Iterator[Remark]:
    """Containers of a network publish their ports at one machine, so that each port can be had once."""
    containers = [host for host in hosts if host.host_class is HostClass.CONTAINER]
    taken = {port: host for host in reversed(containers) for port in host.ports}
    for host in containers:
        for port in host.ports:
            if taken[port] is host:
                continue
            places = (_host_place(host, "ports"), _host_place(taken[port], "ports"))
            why = addresses.PortTwice(named(taken[port]), named(host), named(network), port)
            yield remark(Code.PORT_TWICE, places, why, partial(published_elsewhere, host, port, taken))


def published_elsewhere(host: Host, port: int, used: Container[int]) -> Iterator[Remedy]:
    """Yield the change that publishes a host's port on the next number that isn't in use."""
    others = (number % 65_536 for number in range(port + 1, port + 65_536))
    free = next(number for number in others if number and number not in used)
    moved = host.changed(ports=tuple(free if number == port else number for number in host.ports))
    yield Remedy(title=f"Publish {host.name} on {free}", operations=(put(moved),))


def _dhcp_ranges(network: Network, name: NetworkOf, hosts: tuple[Host, ...]) -> Iterator[Remark]:
    place = (_network_place(network, "dhcp_ranges"),)
    usable = host_range(network.prefix)
    for at, address_range in enumerate(network.dhcp_ranges):
        if not usable.contains(address_range):
            outside = addresses.RangeOutside(name, network.prefix, address_range)
            yield remark(Code.ADDRESS_DHCP_OUTSIDE, place, outside, partial(_clipped, network, address_range))
        for other in network.dhcp_ranges[at + 1 :]:
            if address_range.overlaps(other):
                overlap = addresses.RangesOverlap(name, address_range, other)
                yield remark(Code.ADDRESS_DHCP_TWICE, place, overlap, partial(_joined_to_one, network))
        for kept in network.reserved_ranges:
            if address_range.overlaps(kept):
                why = addresses.RangeKept(name, address_range, kept)
                yield remark(Code.ADDRESS_KEPT, place, why, partial(_left_out, f"Leave {kept} out", network, (kept,)))
    if hosts or network.gateway_address:
        yield from _static_in_ranges(network, name, hosts)


def _static_in_ranges(network: Network, name: NetworkOf, hosts: tuple[Host, ...]) -> Iterator[Remark]:
    """Find addresses that the ranges hand out, and that somebody has for good."""
    fixed: list[_Taken] = [
        addresses.HostAddress(named(host), host.address) for host in hosts if host.assignment is Assignment.STATIC
    ]
    if network.gateway_address:
        fixed.append(addresses.TheGatewayAddress(network.gateway_address))
    covered = tuple(candidate for candidate in fixed if any(handed.holds(candidate.address) for handed in network.dhcp_ranges))
    if covered:
        singles = [AddressRange(single.address.family, single.address.value, single.address.value) for single in covered]
        left_out = partial(_left_out, "Leave these addresses out of the ranges", network, singles)
        place = (_network_place(network, "dhcp_ranges"),)
        yield remark(Code.ADDRESS_DHCP_STATIC, place, addresses.RangeTaken(name, covered), left_out)


def _clipped(network: Network, address_range: AddressRange) -> Iterator[Remedy]:
    holes = _outside(host_range(network.prefix), address_range)
    yield from _left_out(f"Keep to what hosts of {network.prefix} may have", network, holes)


def _joined_to_one(network: Network) -> Iterator[Remedy]:
    yield _ranges_remedy("Join them to one", network, _joined(network.dhcp_ranges))


def _left_out(title: str, network: Network, holes: Iterable[AddressRange]) -> Iterator[Remedy]:
    yield _ranges_remedy(title, network, _without(network.dhcp_ranges, holes))


_Taken = addresses.HostAddress | addresses.TheGatewayAddress


def _host(design: Design, network: Network, name: NetworkOf, host: Host, hosts: tuple[Host, ...]) -> Iterator[Remark]:
    place = (_host_place(host),)
    usable = host_range(network.prefix)
    moved = partial(_next_address, network, host, hosts)
    if not network.prefix.holds(host.address):
        outside = addresses.HostOutside(named(host), host.address, name, network.prefix)
        yield remark(Code.ADDRESS_HOST_OUTSIDE, place, outside, partial(_counted_or_moved, design, network, host, hosts))
    elif not usable.holds(host.address):
        first = host.address.value == network.prefix.network
        edge = addresses.PrefixEdge.FIRST if first else addresses.PrefixEdge.LAST
        unusable = addresses.HostUnusable(named(host), host.address, network.prefix, edge)
        yield remark(Code.ADDRESS_HOST_UNUSABLE, place, unusable, moved)
    for kept in network.reserved_ranges:
        if kept.holds(host.address):
            in_kept = addresses.HostKept(named(host), host.address, kept, name)
            yield remark(Code.ADDRESS_KEPT, place, in_kept, moved)
    if network.gateway_address == host.address:
        why = addresses.HostIsGateway(named(host), host.address, name)
        yield remark(Code.ADDRESS_HOST_TWICE, place, why, moved)


def _counted_or_moved(design: Design, network: Network, host: Host, hosts: tuple[Host, ...]) -> Iterator[Remedy]:
    """Yield the ways to have a host within its network: by counting it to the one that holds it, or by another address."""
    beside = design.networks_of_site(network.site_id)
    holding = [other for other in beside if other.prefix.holds(host.address) and other.zone == network.zone]
    for other in holding[:1]:
        yield _host_remedy(f"Count it to {other.name}", host.changed(network_id=other.id))
    yield from _next_address(network, host, hosts)


def _gateway_kept(network: Network, name: NetworkOf, address: Address) -> Iterator[Remark]:
    for kept in network.reserved_ranges:
        if kept.holds(address) and kept.size > 1:
            why = addresses.GatewayAddressKept(address, name, kept)
            yield remark(Code.ADDRESS_KEPT, (_network_place(network, "gateway_address"),), why)


def _too_small(design: Design, network: Network, name: NetworkOf, expected: int) -> Iterator[Remark]:
    room = capacity(network.prefix)
    if expected <= room:
        return
    spoken = spoken_for(design, network)
    why = addresses.TooSmall(name, expected, network.prefix, room, spoken)
    grown = wider(design, network, expected)
    remedies = partial(_widened, design, network, grown) if grown else None
    yield remark(Code.ADDRESS_TOO_SMALL, (_network_place(network, "hosts_expected"),), why, remedies)


def _widened(design: Design, network: Network, grown: Prefix) -> Iterator[Remedy]:
    yield Remedy(title=f"Widen it to {grown} where it stands", operations=tuple(widened(design, network, grown)))


def shared_addresses(design: Design, joined: JoinedSites) -> Iterator[Remark]:
    """Yield the hosts that share an address and can meet, at one site or at sites that tunnels join, once an address."""
    component = joined.component
    found: dict[tuple[str, int, Address], list[Host]] = defaultdict(list)
    for host in design.hosts:
        network = design.network_by_id[host.network_id]
        found[network.zone, component[network.site_id], host.address].append(host)
    for (_, _, address), hosts in found.items():
        if len(hosts) > 1:
            some = tuple(addresses.HostAt(named(held), named(_site_of(design, held))) for held in hosts[:MOST_NAMED])
            places = (*map(_host_place, hosts[1:_MOST_PLACES]), _host_place(hosts[0]))
            why = addresses.HostsShareAddress(some, more_than_named(hosts), address)
            yield remark(Code.ADDRESS_HOST_TWICE, places, why, partial(_apart, design, hosts))


def _apart(design: Design, hosts: list[Host]) -> Iterator[Remedy]:
    """Yield the change that gives all of some hosts but the first another address."""
    moved = []
    for host in hosts[1:] if len(hosts) <= _MOST_MOVED else ():
        network = design.network_by_id[host.network_id]
        moved += _next_address(network, host, design.hosts_of_network(network.id))
    if moved:
        title = moved[0].title if len(moved) == 1 else f"Give {len(moved)} of them the next address of their networks"
        yield Remedy(title=title, operations=tuple(operation for remedy in moved for operation in remedy.operations))


def _site_of(design: Design, host: Host) -> Site:
    return design.site_by_id[design.network_by_id[host.network_id].site_id]


def _next_address(network: Network, host: Host, hosts: Iterable[Host]) -> list[Remedy]:
    """Return the remedy that gives a host the first address of its network that nobody has."""
    usable = host_range(network.prefix)
    taken = {held.address.value for held in hosts} | ({network.gateway_address.value} if network.gateway_address else set())
    blocked = sorted((*network.dhcp_ranges, *network.reserved_ranges), key=lambda blocked_range: blocked_range.first)
    at = usable.first
    while at <= usable.last:
        block = next((address_range for address_range in blocked if address_range.first <= at <= address_range.last), None)
        if block:
            at = block.last + 1
        elif at in taken:
            at += 1
        else:
            address = Address(usable.family, at)
            return [_host_remedy(f"Give it {address}", host.changed(address=address))]
    return []


def _host_remedy(title: str, host: Host) -> Remedy:
    return Remedy(title=title, operations=(put(host),))


def _ranges_remedy(title: str, network: Network, ranges: tuple[AddressRange, ...]) -> Remedy:
    return Remedy(title=title, operations=(put(network.changed(dhcp_ranges=ranges)),))


def _outside(usable: AddressRange, address_range: AddressRange) -> tuple[AddressRange, ...]:
    """Return the parts of a range that are not within what is usable."""
    if address_range.family is not usable.family:
        return (address_range,)
    before = (
        AddressRange(address_range.family, address_range.first, min(address_range.last, usable.first - 1))
        if address_range.first < usable.first
        else None
    )
    after = (
        AddressRange(address_range.family, max(address_range.first, usable.last + 1), address_range.last)
        if address_range.last > usable.last
        else None
    )
    return tuple(part for part in (before, after) if part)


def _without(ranges: Iterable[AddressRange], holes: Iterable[AddressRange]) -> tuple[AddressRange, ...]:
    """Return ranges without some addresses."""
    left = list(ranges)
    for hole in holes:
        parts = []
        for address_range in left:
            if not address_range.overlaps(hole):
                parts.append(address_range)
                continue
            if address_range.first < hole.first:
                parts.append(AddressRange(address_range.family, address_range.first, hole.first - 1))
            if hole.last < address_range.last:
                parts.append(AddressRange(address_range.family, hole.last + 1, address_range.last))
        left = parts
    return tuple(left)


def _joined(ranges: Iterable[AddressRange]) -> tuple[AddressRange, ...]:
    """Return the same addresses in as few ranges as can be."""
    found: list[AddressRange] = []
    for address_range in sorted(ranges, key=lambda candidate: (candidate.family.bits, candidate.first)):
        if found and found[-1].family is address_range.family and address_range.first <= found[-1].last + 1:
            found[-1] = AddressRange(address_range.family, found[-1].first, max(found[-1].last, address_range.last))
        else:
            found.append(address_range)
    return tuple(found)


def _network_place(network: Network, field: str) -> Place:
    return Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field=field)


def _host_place(host: Host, field: str = "address") -> Place:
    return Place(type=ObjectType.HOST, id=host.id, name=host.name, field=field)
