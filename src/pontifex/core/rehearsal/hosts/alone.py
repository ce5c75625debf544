"""What a design has of one tunnel alone: both gateways, their networks, and what leads into the tunnel there."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.kinds import SIDES, Rule, Tunnel
from pontifex.core.model import Design
from pontifex.core.routing.tables.tables import clause_of


def alone(design: Design, tunnel: Tunnel) -> Design:
    """Return what a design has of one tunnel: both gateways, and what leads into it there."""
    gateways = {tunnel.end(side).gateway_id for side in SIDES}
    sites = {design.gateway_by_id[one].site_id for one in gateways}
    uplinks = {tunnel.end(side).uplink_id for side in SIDES}
    return Design(
        id=design.id,
        revision=design.revision,
        name=design.name,
        supernets=design.supernets,
        key_salt=design.key_salt,
        sites=tuple(one for one in design.sites if one.id in sites),
        gateways=tuple(one for one in design.gateways if one.id in gateways),
        uplinks=tuple(one.changed(interface=None) for one in design.uplinks if one.id in uplinks),
        networks=tuple(one for one in design.networks if one.site_id in sites),
        tunnels=(tunnel.changed(left=tunnel.left.changed(interface=None), right=tunnel.right.changed(interface=None)),),
        translations=tuple(one for one in design.translations if one.gateway_id in gateways),
        routes=tuple(one for one in design.routes if one.gateway_id in gateways and one.tunnel_id == tunnel.id),
        rules=tuple(
            rule
            for one in design.rules
            if one.gateway_id in gateways and all(path.id == tunnel.id for path in one.paths)
            for rule in _with_addresses(design, one)
        ),
        filters=tuple(one for one in design.filters if one.gateway_id in gateways),
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
