"""How two sites are joined: by which gateways and uplinks, who calls, and what each end is called."""

from __future__ import annotations

from dataclasses import dataclass

from pontifex.core.kinds import (
    ANY_PEER,
    AddressKind,
    Gateway,
    Identity,
    Mode,
    Network,
    NetworkRole,
    Role,
    Site,
    Standard,
    Uplink,
)
from pontifex.core.kinds.tunnel_end import MOST_SELECTORS
from pontifex.core.model import Design
from pontifex.core.model.standards import identity_by
from pontifex.core.reasons import Reason, connecting, named


@dataclass(frozen=True, slots=True)
class JoinedSide:
    """One side of a tunnel to be made."""

    site: Site
    gateway: Gateway
    uplink: Uplink
    role: Role
    identity: Identity
    networks: tuple[Network, ...]

    def peer_address_of(self, caller: JoinedSide) -> str:
        """Return where this side expects a caller; one without an address of its own is told by its identity."""
        fixed = caller.uplink.address_kind is AddressKind.FIXED_PUBLIC and caller.uplink.address
        return str(fixed) if fixed else caller.uplink.dns_name or ANY_PEER


def joined_networks(design: Design, site_id: str) -> tuple[Network, ...]:
    """Return the networks of a site that others are to reach: none of guests, none of an isolated zone."""
    networks = design.networks_of_site(site_id)
    return tuple(network for network in networks if not network.zone and network.role is not NetworkRole.GUEST)


def join(design: Design, standard: Standard, left: Site, right: Site) -> tuple[JoinedSide, JoinedSide] | Reason:
    """Return both sides of a tunnel between two sites, or why there can be none. Where both can be called, the left waits."""
    for site in (left, right):
        if not _gateways(design, standard, site):
            return connecting.NoGateway(named(site), standard.technology.label)
        if not _uplinks(design, standard, site):
            return connecting.NoUplink(named(site))
        networks = joined_networks(design, site.id)
        if not networks:
            return connecting.NoNetworks(named(site))
        if standard.mode is not Mode.ROUTE and len(networks) > MOST_SELECTORS:
            return connecting.TooManyOfSite(named(site), len(networks), MOST_SELECTORS)
    left_open, right_open = (_callable(design, standard, site) for site in (left, right))
    waiting, waits = (left, left_open) if left_open else (right, right_open)
    if waits is None:
        return connecting.NeitherCallable(named(left), named(right))
    if not (waits.address or waits.dns_name):
        return connecting.NowhereToCall(named(waiting))
    left_uplink, right_uplink = (waits if site is waiting else _uplinks(design, standard, site)[0] for site in (left, right))
    return (
        _side(design, standard, left, left_uplink, Role.WAIT if waiting is left else Role.CALL),
        _side(design, standard, right, right_uplink, Role.WAIT if waiting is right else Role.CALL),
    )


def _gateways(design: Design, standard: Standard, site: Site) -> list[Gateway]:
    at_site = design.gateways_of_site(site.id)
    return [gateway for gateway in at_site if not gateway.technologies or standard.technology in gateway.technologies]


def _uplinks(design: Design, standard: Standard, site: Site) -> list[Uplink]:
    """Return the uplinks of a site that IKE gets out of, the one that is used first in front."""
    able = {gateway.id for gateway in _gateways(design, standard, site)}
    fit = [uplink for uplink in design.uplinks_of_site(site.id) if uplink.gateway_id in able and not uplink.only_tcp_out]
    return sorted(fit, key=lambda uplink: (uplink.preference, uplink.id))


def _callable(design: Design, standard: Standard, site: Site) -> Uplink | None:
    """Return the uplink at which a site is called: one that is found by an address or a name, if there is any."""
    can = [uplink for uplink in _uplinks(design, standard, site) if uplink.callable()]
    return next((uplink for uplink in can if uplink.address or uplink.dns_name), can[0] if can else None)


def _side(design: Design, standard: Standard, site: Site, uplink: Uplink, role: Role) -> JoinedSide:
    gateway = design.gateway_by_id[uplink.gateway_id]
    identity = identity_by(design, standard, gateway)
    assert identity  # a standard without a pattern connects nothing
    return JoinedSide(site, gateway, uplink, role, identity, joined_networks(design, site.id))
