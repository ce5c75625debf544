"""How the gateways of a tunnel forward in the kernel: by their Linux plans, and by networks where these alone decide."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product
from pathlib import Path
from typing import Final

from pontifex.core.addressing import Address, Family, Prefix, Region, parse_address
from pontifex.core.handover import linux_plan
from pontifex.core.kinds import Mode, ObjectType, Side, Tunnel
from pontifex.core.routing import Tables
from pontifex.core.routing.tables.tables import prefixes_of
from pontifex.kernel.machines import LAN, ROUTER, TUN, UPLINK

_TABLE, _PREFERENCE = 50, 10  # of what goes by networks (RFC 4301 section 4.4.1): before everything that a plan enters
_FAMILIES: Final = ((Family.V4, "-4"), (Family.V6, "-6"))


def forwarding(tables: Tables, tunnel: Tunnel, side: Side, inside: Address, state: Path) -> list[str]:
    """Return the lines of a shell that make a gateway forward.

    `inside` is its address towards its hosts, `state` where its plan keeps what it needs to go back.
    """
    end = tunnel.end(side)
    assert end.uplink_id  # a tunnel whose uplinks aren't known isn't rehearsed
    names = {(ObjectType.TUNNEL, tunnel.id): TUN, (ObjectType.UPLINK, end.uplink_id): UPLINK}
    routers = {end.uplink_id: tuple(Address(*parse_address(text)) for text in ROUTER.values())}
    lines = [f"export PONTIFEX_STATE={state / side.value}"]
    if end.inner_address:
        lines.append(f"ip address add {end.inner_address.address}/{end.inner_address.prefix.length} dev {TUN}")
    if end.mode is not Mode.ROUTE:
        lines += _by_networks(end.local_networks, end.remote_networks, inside)
    return [*lines, *linux_plan(tables, end.gateway_id, names, routers).apply]


def _by_networks(local: Region, remote: Region, inside: Address) -> Iterator[str]:
    """Yield what sends into the tunnel whatever goes between networks, the gateway's own answers from inside among it."""
    for family, flag in _FAMILIES:
        near, far = list(_prefixes(local, family)), list(_prefixes(remote, family))
        if near and far:
            own = f" src {inside}" if any(prefix.holds(inside) for prefix in near) else ""
            yield f"ip {flag} route add default dev {TUN} table {_TABLE}{own}"
        for here, other in product(near, far):
            yield f"ip {flag} rule add pref {_PREFERENCE} iif {LAN} from {here} to {other} table {_TABLE}"
        for other in far if near else ():
            if other.length:  # all else that is its own goes outside: what carries the tunnel does
                yield f"ip {flag} rule add pref {_PREFERENCE} iif lo to {other} table {_TABLE}"


def _prefixes(region: Region, family: Family) -> Iterator[Prefix]:
    for selector in region:
        if selector.family is family:
            yield from prefixes_of(selector)
