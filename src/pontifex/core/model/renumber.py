"""Moving a network to another prefix, with all that names it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import replace
from itertools import chain

from pontifex.core.addressing import Address, Prefix, Selector
from pontifex.core.model.design import Design
from pontifex.core.model.objects import Network
from pontifex.core.model.tunnel import SIDES, Side, Tunnel


def moved_network(network: Network, target: Prefix) -> Network:
    """Return the network at its new prefix, its gateway address at the same place within it."""
    address = network.gateway_address
    if address is not None and network.prefix.holds(address):
        address = Address(address.family, target.network + address.value - network.prefix.network)
    return network.model_copy(update={"prefix": target, "gateway_address": address})


def moved_tunnels(design: Design, network: Network, target: Prefix) -> Iterator[Tunnel]:
    """Yield the tunnels of the network's site that name it at either end, with the selectors of both ends moved along."""
    for tunnel in design.tunnels:
        moved = tunnel
        for side in SIDES:
            if design.site_of(tunnel.end(side)).id == network.site_id:
                moved = _with_selectors(moved, side, network, target)
        if moved is not tunnel:
            yield moved


def naming_tunnels(design: Design, networks: Iterable[Network]) -> Counter[str]:
    """Count, for each of some networks by id, the tunnels that name exactly its prefix at its site's end or for it."""
    wanted: dict[tuple[str, Selector], list[str]] = defaultdict(list)
    for network in networks:
        wanted[network.site_id, Selector.of(network.prefix)].append(network.id)
    sites = {site_id for site_id, _ in wanted}
    found: Counter[str] = Counter()
    for tunnel in design.tunnels:
        for side in SIDES:
            site_id = design.site_of(tunnel.end(side)).id
            if site_id in sites:
                named = {*tunnel.end(side).local_networks, *tunnel.end(side.other).remote_networks}
                found.update(chain.from_iterable(wanted.get((site_id, one), ()) for one in named))
    return found


def _with_selectors(tunnel: Tunnel, side: Side, network: Network, target: Prefix) -> Tunnel:
    shift = target.network - network.prefix.network
    for end, field in ((side, "local_networks"), (side.other, "remote_networks")):
        selectors: tuple[Selector, ...] = getattr(tunnel.end(end), field)
        moved = tuple(
            replace(one, first=one.first + shift, last=one.last + shift) if _is_about(one, network) else one for one in selectors
        )
        if moved != selectors:
            tunnel = tunnel.with_end(end, **{field: moved})
    return tunnel


def _is_about(selector: Selector, network: Network) -> bool:
    """Tell whether a selector is about a network: about all of it, or a part."""
    prefix = network.prefix
    return selector.family is prefix.family and prefix.network <= selector.first and selector.last <= prefix.last
