"""Growing a network where it stands: to a block around it whose rest is free."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import AddressSet, Prefix, Selector
from pontifex.core.kinds import SIDES, Network, Tunnel
from pontifex.core.model import Design, Operation, put
from pontifex.core.space.room import capacity, free_space


def wider(design: Design, network: Network, hosts: int) -> Prefix | None:
    """Return the smallest block around a network that has room for so many hosts and is free but for it; None without."""
    prefix = network.prefix
    allowed = free_space(design, prefix.family) | AddressSet.of((prefix,), prefix.family)
    while capacity(prefix) < hosts:
        if prefix.length == 0:
            return None
        length = prefix.length - 1
        prefix = Prefix(prefix.family, prefix.network & ~prefix.family.host_mask(length), length)
        if len(AddressSet.of((prefix,), prefix.family) - allowed):
            return None
    return prefix


def widened(design: Design, network: Network, prefix: Prefix) -> Iterator[Operation]:
    """Yield the operations that widen a network: itself, and the selectors and routes that name exactly it."""
    yield put(network.changed(prefix=prefix))
    old, new = Selector.of(network.prefix), Selector.of(prefix)
    for tunnel in design.tunnels:
        changed = _reselected(design, network, tunnel, old, new)
        if changed != tunnel:
            yield put(changed)
    for route in design.routes:
        if route.prefix == network.prefix:
            yield put(route.changed(prefix=prefix))


def _reselected(design: Design, network: Network, tunnel: Tunnel, old: Selector, new: Selector) -> Tunnel:
    for side in SIDES:
        if design.site_of(tunnel.end(side)).id != network.site_id:
            continue
        for end, field in ((side, "local_networks"), (side.other, "remote_networks")):
            selectors: tuple[Selector, ...] = getattr(tunnel.end(end), field)
            if old in selectors:
                tunnel = tunnel.with_field(end, field, tuple(new if selector == old else selector for selector in selectors))
    return tunnel
