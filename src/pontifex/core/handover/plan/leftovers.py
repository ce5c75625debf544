"""What a take-down would leave behind: things that no step takes out, since they belong to something that stays."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.addressing import Prefix, Selector
from pontifex.core.kinds import SIDES, Tunnel
from pontifex.core.model import Design


@dataclass(frozen=True, slots=True, kw_only=True)
class Leftover:
    """Something that stays and is of no use any more."""

    where: Annotated[str, Field(title="Where", examples=["Harbour firewall pair"])]
    what: Annotated[str, Field(title="What", examples=["filter in from Ostvik: 10.65.0.0/24"])]


def leftovers(before: Design, after: Design) -> tuple[Leftover, ...]:
    """Return what nobody needs any more once what is gone is gone, in the order of places."""
    gone = [tunnel for tunnel in before.tunnels if tunnel.id not in after.tunnel_by_id]
    prefixes = set(_unreached(before, after, gone))
    found = [*_named(after, prefixes), *_secrets(after, gone), *_reached(after, gone), *_names(before, after)]
    return tuple(sorted(dict.fromkeys(found), key=lambda leftover: (leftover.where, leftover.what)))


def _unreached(before: Design, after: Design, gone: list[Tunnel]) -> Iterator[Prefix]:
    """Yield the prefixes of networks that are gone, and of those that only what is gone led to."""
    yield from (candidate.prefix for candidate in before.networks if candidate.id not in after.network_by_id)
    still = [selector for tunnel in after.tunnels for side in SIDES for selector in tunnel.end(side).remote_networks]
    still += [Selector.of(route.prefix) for route in after.routes]
    for end in (tunnel.end(side) for tunnel in gone for side in SIDES):
        for network in before.networks_of_site(before.site_of(end).id):
            if not any(_holds(selector, network.prefix) for selector in still):
                yield network.prefix


def _holds(selector: Selector, prefix: Prefix) -> bool:
    return selector.family is prefix.family and selector.first <= prefix.network and selector.last >= Selector.of(prefix).last


def _within(selector: Selector, prefixes: set[Prefix]) -> bool:
    around = (Selector.of(prefix) for prefix in prefixes if prefix.family is selector.family)
    return any(larger.first <= selector.first and selector.last <= larger.last for larger in around)


def _named(after: Design, prefixes: set[Prefix]) -> Iterator[Leftover]:
    """Yield what of that which stays names a prefix that is gone, or that nothing leads to any more."""
    lost = prefixes - {network.prefix for network in after.networks}
    for where, what, selector in _selectors(after):
        if _within(selector, lost):
            yield Leftover(where=where, what=what)
    for where, what, selector in _filtered(after):
        if _within(selector, prefixes):
            yield Leftover(where=where, what=what)


_Naming = tuple[str, str, Selector]  # where, what, and the addresses that it names


def _selectors(design: Design) -> Iterator[_Naming]:
    for tunnel, side in ((tunnel, side) for tunnel in design.tunnels for side in SIDES):
        end = tunnel.end(side)
        for selector in (*end.local_networks, *end.remote_networks):
            yield design.gateway_by_id[end.gateway_id].name, f"{tunnel.name}: the selector {selector}", selector
    for route in (route for route in design.routes if route.via):
        gateway = design.gateway_by_id[route.gateway_id]
        yield gateway.name, f"the route to {route.prefix} by {route.via}", Selector.of(route.prefix)
    for network in design.networks:
        for handed in network.dhcp_routes:
            site = design.site_by_id[network.site_id]
            yield site.name, f"the route to {handed.prefix} that DHCP hands out in {network.name}", Selector.of(handed.prefix)


def _filtered(design: Design) -> Iterator[_Naming]:
    for item in design.filters:
        gateway = design.gateway_by_id[item.gateway_id].name
        for source in item.sources:
            yield gateway, f"the filter {item.name}: from {source}", Selector.of(source)
        for destination in item.destinations:
            yield gateway, f"the filter {item.name}: to {destination}", destination


def _secrets(after: Design, gone: list[Tunnel]) -> Iterator[Leftover]:
    """Yield keys and accounts that only a tunnel that is gone has used."""
    ends = [tunnel.end(side) for tunnel in after.tunnels for side in SIDES]
    keys = {end.key.fingerprint for end in ends if end.key}
    accounts = {(end.gateway_id, end.accepted_account.name) for end in ends if end.accepted_account}
    for tunnel, end in ((tunnel, tunnel.end(side)) for tunnel in gone for side in SIDES):
        gateway = after.gateway_by_id.get(end.gateway_id)
        if gateway and end.key and end.key.fingerprint not in keys:
            what = f"the key {end.key.fingerprint} of {tunnel.name}, wherever it was written down"
            yield Leftover(where=gateway.name, what=what)
        if gateway and end.accepted_account and (gateway.id, end.accepted_account.name) not in accounts:
            yield Leftover(where=gateway.name, what=f"the account {end.accepted_account.name}, made for {tunnel.name}")


def _reached(after: Design, gone: list[Tunnel]) -> Iterator[Leftover]:
    """Yield uplinks through which calls are let in for nobody any more."""
    used = {tunnel.end(side).uplink_id for tunnel in after.tunnels for side in SIDES}
    for id_ in dict.fromkeys(tunnel.end(side).uplink_id for tunnel in gone for side in SIDES):
        uplink = after.uplink_by_id.get(id_ or "")
        if uplink and id_ not in used and (uplink.inbound_ike or uplink.inbound_tcp):
            gateway = after.gateway_by_id[uplink.gateway_id]
            yield Leftover(
                where=gateway.name, what=f"ports let in or forwarded by {uplink.name}: nobody is called there any more"
            )


def _names(before: Design, after: Design) -> Iterator[Leftover]:
    """Yield names in the DNS of uplinks that are gone."""
    still = {uplink.dns_name for uplink in after.uplinks}
    for uplink in before.uplinks:
        if uplink.id not in after.uplink_by_id and uplink.dns_name and uplink.dns_name not in still:
            yield Leftover(where="name service", what=f"the name {uplink.dns_name}")
