"""What a design has of one tunnel alone: both gateways, their networks, and what leads into the tunnel there."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.kinds import SIDES, Rule, Tunnel
from pontifex.core.model import Design
from pontifex.core.routing.tables.tables import clause_of


def alone(design: Design, tunnel: Tunnel) -> Design:
    """Return what a design has of one tunnel: both gateways, and what leads into it there."""
    gateways = {tunnel.end(side).gateway_id for side in SIDES}
    sites = {design.gateway_by_id[gateway].site_id for gateway in gateways}
    uplinks = {tunnel.end(side).uplink_id for side in SIDES}
    return Design(
        id=design.id,
        revision=design.revision,
        name=design.name,
        supernets=design.supernets,
        key_salt=design.key_salt,
        sites=tuple(site for site in design.sites if site.id in sites),
        gateways=tuple(gateway for gateway in design.gateways if gateway.id in gateways),
        uplinks=tuple(uplink.changed(interface=None) for uplink in design.uplinks if uplink.id in uplinks),
        networks=tuple(network for network in design.networks if network.site_id in sites),
        tunnels=(tunnel.changed(left=tunnel.left.changed(interface=None), right=tunnel.right.changed(interface=None)),),
        translations=tuple(translation for translation in design.translations if translation.gateway_id in gateways),
        routes=tuple(route for route in design.routes if route.gateway_id in gateways and route.tunnel_id == tunnel.id),
        rules=tuple(
            rule
            for candidate in design.rules
            if candidate.gateway_id in gateways and all(path.id == tunnel.id for path in candidate.paths)
            for rule in _with_addresses(design, candidate)
        ),
        filters=tuple(candidate for candidate in design.filters if candidate.gateway_id in gateways),
    )


def _with_addresses(design: Design, rule: Rule) -> Iterator[Rule]:
    """Yield a rule with addresses in the place of hosts, sites and names elsewhere; nothing where it is about none."""
    clause = clause_of(design, rule)
    if clause.sources == () or clause.destinations == ():
        return
    yield rule.changed(
        sources=clause.sources or (),
        source_members=(),
        destinations=clause.destinations or (),
        destination_members=(),
        destination_names=(),
        region="",
    )
