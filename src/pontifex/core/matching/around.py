"""Routes by the uplink that keep what carries a tunnel out of the tunnel, where a change would lead it in.

A policy takes what it names before any route, but for what it is told to bypass (RFC 4301 section 4.4.1).
"""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Address, Prefix, Selector
from pontifex.core.kinds import SIDES, Route, Side, Tunnel
from pontifex.core.model import Design, new_route


def routes_around(design: Design, before: Tunnel, after: Tunnel) -> Iterator[Route]:
    """Yield a route to the peer alone for each end whose policy takes what goes there after a change, and didn't before."""
    led_in = _led_in(design, before, after)
    taken = {route.id for route in design.routes} if led_in else set()
    for side in led_in:
        end, peer = after.end(side), design.peer_outside(after, side)
        if peer is None or end.uplink_id is None:
            continue
        host = Prefix.of_address(peer)
        if not any(there.gateway_id == end.gateway_id and there.prefix == host and there.uplink_id for there in design.routes):
            yield new_route(design, taken, end.gateway_id, host, None, None, uplink_id=end.uplink_id)


def has_no_way_around(design: Design, before: Tunnel, after: Tunnel) -> bool:
    """Whether a change leads what carries a tunnel into it, and no route can go around.

    Callers may come from anywhere, a name may stand for any address, and an end without an uplink has none to go by.
    """
    return any(
        after.end(side).peer_address is not None
        if design.peer_outside(after, side) is None
        else after.end(side).uplink_id is None
        for side in _led_in(design, before, after)
    )


def _led_in(design: Design, before: Tunnel, after: Tunnel) -> list[Side]:
    return [side for side in SIDES if _takes(design, after, side) and not _takes(design, before, side)]


def _takes(design: Design, tunnel: Tunnel, side: Side) -> bool:
    """Whether the policy of an end takes what its gateway sends from its outside address to the peer's."""
    end = tunnel.end(side)
    if end.goes_by_routes:
        return False
    uplink = design.uplink_of(end)
    own = uplink.address if uplink and not uplink.behind_nat else None
    from_here = not end.local_networks or any(_names(network, own) for network in end.local_networks)
    return from_here and any(_names(network, design.peer_outside(tunnel, side)) for network in end.remote_networks)


def _names(networks: Selector, address: Address | None) -> bool:
    """Whether networks hold an address; one that isn't known is somewhere outside."""
    if address is None:
        return networks.is_all
    return networks.holds(address)
