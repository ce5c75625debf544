"""Interfaces, addresses and static routes by the published models: ietf-interfaces, ietf-ip and ietf-routing.

RFC 8343, RFC 8344 and RFC 8349, as JSON by RFC 7951. What has no name on the device yet is named by its id.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any, Final

from pontifex.core.addressing import Family, Interface
from pontifex.core.kinds import Gateway, Network, Route
from pontifex.core.model import Design

_ETHERNET: Final = "iana-if-type:ethernetCsmacd"
_IP: Final = {Family.V4: "ietf-ip:ipv4", Family.V6: "ietf-ip:ipv6"}
_UNICAST: Final = {Family.V4: "ietf-ipv4-unicast-routing:ipv4", Family.V6: "ietf-ipv6-unicast-routing:ipv6"}


def routing_model(design: Design, gateway_id: str) -> dict[str, Any]:
    """Return the interfaces and routes of a gateway. Raise KeyError for one that isn't there."""
    gateway = design.gateway_by_id[gateway_id]
    interfaces = list(_interfaces(design, gateway))
    found: dict[str, Any] = {"ietf-interfaces:interfaces": {"interface": interfaces}}
    routes = {_UNICAST[family]: {"route": some} for family in Family if (some := list(_routes(design, gateway, family)))}
    if routes:
        static = {"type": "ietf-routing:static", "name": "static", "static-routes": routes}
        found["ietf-routing:routing"] = {"control-plane-protocols": {"control-plane-protocol": [static]}}
    return found


def _interfaces(design: Design, gateway: Gateway) -> Iterator[dict[str, Any]]:
    for uplink in (candidate for candidate in design.uplinks if candidate.gateway_id == gateway.id):
        yield _interface(
            uplink.interface or uplink.id, "iana-if-type:ethernetCsmacd", f"uplink {uplink.name}", [], gateway, uplink.mtu
        )
    for network in design.networks_of_site(gateway.site_id):
        held = _held_by(gateway, network)
        if held or network.interface:
            name = network.interface or network.id
            yield _interface(name, _ETHERNET, f"network {network.name}", [held] if held else [], gateway)
    routed = {route.tunnel_id for route in design.routes if route.gateway_id == gateway.id}
    for tunnel, side in design.ends_of_gateway(gateway.id):
        end = tunnel.end(side)
        if end.goes_by_routes or tunnel.id in routed:
            inner = [end.inner_address] if end.inner_address else []
            name = end.interface or tunnel.id
            yield _interface(name, "iana-if-type:tunnel", f"tunnel {tunnel.name}", inner, gateway, end.inner_mtu, end.enabled)


def _held_by(gateway: Gateway, network: Network) -> Interface | None:
    """Return the gateway's own address in a network, where it is known."""
    own = next(
        (address for address in (gateway.inside_address, network.gateway_address) if address and network.prefix.holds(address)),
        None,
    )
    return Interface(own.family, own.value, network.prefix.length) if own and gateway.default_router else None


def _interface(
    name: str,
    type_: str,
    description: str,
    addresses: list[Interface],
    gateway: Gateway,
    mtu: int | None = None,
    enabled: bool = True,
) -> dict[str, Any]:
    found: dict[str, Any] = {"name": name, "type": type_, "description": description, "enabled": enabled}
    families = {address.address.family for address in addresses} or {Family.V4}
    for family in sorted(families, key=lambda version: version.bits):
        ip: dict[str, Any] = {"forwarding": gateway.forwarding}
        if mtu and (family is Family.V4 or mtu >= 1280):
            ip["mtu"] = mtu
        held = [address for address in addresses if address.address.family is family]
        if held:
            ip["address"] = [{"ip": str(interface.address), "prefix-length": interface.prefix.length} for interface in held]
        found[_IP[family]] = ip
    return found


def _routes(design: Design, gateway: Gateway, family: Family) -> Iterator[dict[str, Any]]:
    """Yield static routes, of those to one prefix the one of the lowest metric: the model has no metric of its own.

    A route by what another gateway has can't be entered here; that it can't is a finding of its own.
    """
    mine = [
        candidate
        for candidate in design.routes
        if candidate.gateway_id == gateway.id and candidate.prefix.family is family and not candidate.network_id
    ]
    held = {tunnel.id for tunnel, _ in design.ends_of_gateway(gateway.id)} | {
        uplink.id for uplink in design.uplinks if uplink.gateway_id == gateway.id
    }
    mine = [candidate for candidate in mine if candidate.via or (candidate.tunnel_id or candidate.uplink_id) in held]
    seen: Counter[str] = Counter()
    for route in sorted(mine, key=lambda candidate: (str(candidate.prefix), candidate.metric, candidate.id)):
        seen[str(route.prefix)] += 1
        if seen[str(route.prefix)] == 1:
            hop = _next_hop(design, gateway, route)
            yield {"destination-prefix": str(route.prefix), "description": route.name or route.id, "next-hop": hop}


def _next_hop(design: Design, gateway: Gateway, route: Route) -> dict[str, Any]:
    if route.via:
        return {"next-hop-address": str(route.via)}
    return {"outgoing-interface": _device(design, gateway, route)}


def _device(design: Design, gateway: Gateway, route: Route) -> str:
    if route.tunnel_id:
        tunnel = design.tunnel_by_id[route.tunnel_id]
        end = next(
            (tunnel.end(side) for candidate, side in design.ends_of_gateway(gateway.id) if candidate.id == tunnel.id), None
        )
        return (end.interface if end else None) or tunnel.id
    uplink = design.uplink_by_id[route.uplink_id or ""]
    return uplink.interface or uplink.id
