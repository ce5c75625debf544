"""Which hosts try, and whom they want to reach."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice, product
from typing import Final

from pontifex.core.addressing import Address, Region
from pontifex.core.addressing.selector import ANY_PORT
from pontifex.core.kinds import SIDES, Network, Side, Tunnel
from pontifex.core.model import Design
from pontifex.core.rehearsal.hosts.packet import HTTPS_PORT
from pontifex.core.rehearsal.packets import TCP
from pontifex.core.routing import Tables
from pontifex.core.routing.wanted.exits import somewhere_outside

_MOST_PAIRS: Final = 64
_HOST: Final = 10  # behind the address of the network itself, where that many are


@dataclass(frozen=True, slots=True)
class AskingHost:
    """A host behind one gateway, and whom it wants to reach."""

    address: Address
    network: Network
    destination: Address  # the host behind the other gateway, as it is seen from here
    target_network: Network
    port: int  # of TCP, at the destination
    outside: Address | None  # of the echo service; None where this uplink has no address of the host's family
    resolvers: tuple[Address, ...]


def asking_hosts(tables: Tables, tunnel: Tunnel, outside: dict[Side, Address]) -> dict[Side, AskingHost]:
    """Return a host behind each gateway; none where no two could speak.

    `tables` are of the tunnel alone, `outside` the addresses of both uplinks. Hosts are taken that the tunnel's networks name.
    """
    design = tables.design
    sites = [design.site_of(tunnel.end(side)).id for side in SIDES]
    if sites[0] == sites[1]:
        return {}
    left, right = (list(_hosts(tables, design, tunnel, side)) for side in SIDES)
    pairs = [pair for pair in islice(product(left, right), _MOST_PAIRS) if pair[0][1].family is pair[1][1].family]
    named = (pair for pair in pairs if _is_named(tables, tunnel, *pair))
    chosen = next(named, pairs[0] if pairs else None)
    if chosen is None:
        return {}
    return {
        side: _asking(tables, tunnel, side, near, far, outside)
        for side, near, far in zip(SIDES, chosen, chosen[::-1], strict=True)
    }


_Host = tuple[Network, Address]


def _hosts(tables: Tables, design: Design, tunnel: Tunnel, side: Side) -> Iterator[_Host]:
    """Yield a host of each network at a side that belongs to the organisation's common address space."""
    gateway = design.gateway_by_id[tunnel.end(side).gateway_id]
    for network in design.networks_of_site(gateway.site_id):
        prefix = network.prefix
        for value in range(min(prefix.network + _HOST, prefix.last), prefix.network - 1, -1):
            address = Address(prefix.family, value)
            narrowest = tables.narrowest(network, address) is network
            if not network.zone and narrowest and not tables.is_own(gateway, address):
                yield network, address
                break


def _is_named(tables: Tables, tunnel: Tunnel, left: _Host, right: _Host) -> bool:
    """Whether both ends' networks name two hosts, each as the far side sees it."""
    seen = {Side.LEFT: _seen(tables, right, left), Side.RIGHT: _seen(tables, left, right)}
    for side in SIDES:
        end = tunnel.end(side)
        if not (_names(end.local_networks, seen[side]) and _names(end.remote_networks, seen[side.other])):
            return False
    return True


def _seen(tables: Tables, viewer: _Host, host: _Host) -> Address:
    return tables.chains.seen_from(viewer[0].site_id, host[0], host[1])


def _names(region: Region, address: Address) -> bool:
    return not region or any(selector.holds(address) for selector in region)


def _asking(tables: Tables, tunnel: Tunnel, side: Side, near: _Host, far: _Host, outside: dict[Side, Address]) -> AskingHost:
    network, address = near
    destination = _seen(tables, near, far)
    families = {outside[at].family for at in SIDES}
    return AskingHost(
        address=address,
        network=network,
        destination=destination,
        target_network=far[0],
        port=_port(tunnel.end(side).remote_networks, destination),
        outside=somewhere_outside(tables, address.family) if families == {address.family} else None,
        resolvers=tuple(resolver for resolver in network.resolvers if resolver.family is address.family),
    )


def _port(region: Region, destination: Address) -> int:
    """Return the port of TCP that networks name at a host, or a usual one."""
    for selector in region:
        low, high = selector.protocols
        if selector.holds(destination) and low <= TCP <= high and selector.ports != ANY_PORT:
            return selector.ports[0]
    return HTTPS_PORT
