"""One end of a tunnel as a standard sets it, and what is reached through it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Final

from pontifex.core.addressing import AddressSet, Family, Interface, Prefix, Selector
from pontifex.core.connecting.request import Connect
from pontifex.core.connecting.sides import JoinedSide, joined_networks
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.kinds import AuthMethod, Mode, Role, Standard, TunnelEnd
from pontifex.core.kinds.tunnel_end import MOST_SELECTORS
from pontifex.core.model import Design

_ALL: Final = {family: Selector.of(Prefix(family, 0, 0)) for family in Family}
_USUAL_KEEPALIVE_S: Final = 20  # RFC 3948 section 4


def end_of(
    standard: Standard, own: JoinedSide, far: JoinedSide, reach: SideReach, inner: Interface | None, key: KeyFacts
) -> TunnelEnd:
    """Return the end of a side that faces another."""
    theirs, ours = reach.behind(far, own), reach.behind(own, far)
    fields: dict[str, Any] = {
        "gateway_id": own.gateway.id,
        "uplink_id": own.uplink.id,
        "role": own.role,
        "peer_address": own.peer_address_of(far),
        "local_networks": _selectors(standard, ours, theirs),
        "remote_networks": _selectors(standard, theirs, ours),
        "inner_address": inner,
        "local_identity": own.identity,
        "remote_identity": far.identity,
        "key": key if standard.auth is AuthMethod.PRE_SHARED_KEY else None,
        **standard.end_fields(),
    }
    if own.role is Role.CALL and own.uplink.behind_nat and standard.keepalive_s is None:
        fields["keepalive_s"] = _USUAL_KEEPALIVE_S
    return TunnelEnd.model_validate(fields)


class SideReach:
    """What is reached behind a side: its networks, and by way of a hub the blocks that the others' lie in."""

    def __init__(self, design: Design, request: Connect) -> None:
        self._request, self._blocks = request, set[Prefix]()
        if request.through_hub:
            connected = {network.prefix for site_id in request.site_ids for network in joined_networks(design, site_id)}
            blocks = {block for block in design.address_space if any(block.contains(prefix) for prefix in connected)}
            self._blocks = blocks | {prefix for prefix in connected if not any(block.contains(prefix) for block in blocks)}

    def behind(self, far: JoinedSide, own: JoinedSide) -> tuple[Prefix, ...]:
        """Return what a side reaches behind the far one."""
        hubs = self._request.hub_ids
        if not self._blocks or far.site.id not in hubs or own.site.id in hubs:
            return tuple(sorted({network.prefix for network in far.networks}))
        by_routes = self._request.standard.mode is Mode.ROUTE
        return tuple(sorted(self._blocks if by_routes else _beside(self._blocks, own)))


def _beside(prefixes: set[Prefix], own: JoinedSide) -> set[Prefix]:
    """Return prefixes without a side's own networks, as long as an end can name what is left one by one."""
    left: set[Prefix] = set()
    for family in Family:
        mine = AddressSet.of((network.prefix for network in own.networks), family)
        left |= set((AddressSet.of(prefixes, family) - mine).prefixes())
    return left if len(left) <= MOST_SELECTORS else prefixes


def _selectors(standard: Standard, prefixes: Iterable[Prefix], others: Iterable[Prefix]) -> tuple[Selector, ...]:
    """Return what is named as one side's: its prefixes, or all addresses where routes decide what goes in."""
    prefixes = tuple(prefixes)
    if standard.mode is Mode.ROUTE:
        families = {prefix.family for prefix in (*prefixes, *others)}
        return tuple(_ALL[family] for family in Family if family in families)
    return tuple(Selector.of(prefix) for prefix in prefixes)
