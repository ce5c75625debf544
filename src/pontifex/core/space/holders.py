"""Who has an address, for whom it is reserved, as what it is seen, and how it is reached."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from pontifex.core.addressing import Address, AddressRange, Prefix, Selector, common_region
from pontifex.core.kinds import SIDES, Assignment, Network, ObjectType
from pontifex.core.model import Design, crossed
from pontifex.core.space.meeting import JoinedSites
from pontifex.core.space.translate import seen_as


@dataclass(frozen=True, slots=True)
class Holder:
    """One object that has to do with an address."""

    type: ObjectType
    id: str
    name: str
    detail: str


def holders(design: Design, prefix: Prefix, text: str) -> list[Holder]:
    """Return what has to do with an address or prefix: the host that has it, networks from the narrowest, then the rest."""
    joined, here = JoinedSites(design), centre(design)
    networks = [_network(design, network, prefix, text, joined, here) for network in _networks(design, prefix)]
    hosts = list(_hosts(design, prefix))
    single = prefix.length == prefix.family.bits
    return [
        *(hosts + networks if single else networks + hosts),
        *_uplinks(design, prefix),
        *_reservations(design, prefix, text),
        *_translations(design, prefix),
        *_tunnels(design, prefix),
    ]


def centre(design: Design) -> str:
    """Return the id of the site where most tunnels end: what is asked of a design is asked from there; empty without one."""
    ends = Counter(design.site_of(tunnel.end(side)).id for tunnel in design.tunnels for side in SIDES)
    return min(ends, key=lambda id_: (-ends[id_], id_), default="")


def _networks(design: Design, prefix: Prefix) -> list[Network]:
    return sorted((n for n in design.networks if n.prefix.overlaps(prefix)), key=lambda n: -n.prefix.length)


def _network(design: Design, network: Network, prefix: Prefix, text: str, joined: JoinedSites, here: str) -> Holder:
    verb = "holds" if network.prefix.contains(prefix) else "lies in"
    said = [f"{network.prefix} {verb} {text}, at {design.site_by_id[network.site_id].name}"]
    asked = AddressRange.of(prefix)
    if network.gateway_address and prefix.length == prefix.family.bits and prefix.holds(network.gateway_address):
        said.append("its gateway address")
    said += [f"handed out by DHCP in {address_range}" for address_range in network.dhcp_ranges if address_range.overlaps(asked)]
    said += [
        f"kept by the platform in {address_range}" for address_range in network.reserved_ranges if address_range.overlaps(asked)
    ]
    said += [f"the pool of {profile.name}" for profile in design.profiles if profile.pool_id == network.id]
    if network.zone:
        said.append(f"isolated in {network.zone}")
    elif here and here != network.site_id:
        said.append(_reached(design, network.site_id, joined, here))
    return Holder(ObjectType.NETWORK, network.id, network.name, "; ".join(said))


def _reached(design: Design, site_id: str, joined: JoinedSites, here: str) -> str:
    chain = joined.chain(here, site_id)
    centre_name = design.site_by_id[here].name
    if not chain:
        return f"no tunnel leads there from {centre_name}"
    return f"reached from {centre_name} by {', '.join(design.tunnel_by_id[id_].name for id_ in chain)}"


def _hosts(design: Design, prefix: Prefix) -> Iterator[Holder]:
    for host in design.hosts:
        if prefix.holds(host.address):
            network = design.network_by_id[host.network_id]
            how = "by reservation" if host.assignment is Assignment.RESERVED else "static"
            site = design.site_by_id[network.site_id].name
            yield Holder(ObjectType.HOST, host.id, host.name, f"{host.address}, {how}, in {network.name} at {site}")


def _uplinks(design: Design, prefix: Prefix) -> Iterator[Holder]:
    for uplink in design.uplinks:
        if uplink.address and prefix.holds(uplink.address):
            detail = f"{uplink.address}, of {design.gateway_by_id[uplink.gateway_id].name}"
            yield Holder(ObjectType.UPLINK, uplink.id, uplink.name, detail)


def _reservations(design: Design, prefix: Prefix, text: str) -> Iterator[Holder]:
    for reservation in design.prefix_reservations:
        if reservation.prefix.overlaps(prefix):
            verb = "holds" if reservation.prefix.contains(prefix) else "lies in"
            detail = f"{reservation.prefix} {verb} {text}, reserved for {design.site_by_id[reservation.site_id].name}"
            yield Holder(ObjectType.PREFIX_RESERVATION, reservation.id, reservation.name, detail)


def _translations(design: Design, prefix: Prefix) -> Iterator[Holder]:
    single = prefix.length == prefix.family.bits
    for translation in design.translations:
        where = design.gateway_by_id[translation.gateway_id].name
        through = ", ".join(tunnel.name for tunnel, _ in crossed(design, translation)) or "no tunnel yet"
        if translation.inside.overlaps(prefix):
            inside = single and translation.inside.contains(prefix)
            shown = str(seen_as(translation, Address(prefix.family, prefix.network))) if inside else str(translation.outside)
            yield Holder(
                ObjectType.TRANSLATION, translation.id, translation.name, f"seen as {shown} through {through}, at {where}"
            )
        if translation.outside.overlaps(prefix):
            yield Holder(
                ObjectType.TRANSLATION,
                translation.id,
                translation.name,
                f"{translation.outside} stands for {translation.inside} through {through}, at {where}",
            )


def _tunnels(design: Design, prefix: Prefix) -> Iterator[Holder]:
    """Yield the tunnels that name a prefix, or stand on it inside."""
    asked = Selector.of(prefix)
    for tunnel in design.tunnels:
        said = []
        for side in SIDES:
            end, site = tunnel.end(side), design.site_of(tunnel.end(side)).name
            if end.inner_address and prefix.holds(end.inner_address.address):
                said.append(f"{site}'s inner address is {end.inner_address}")
            for networks, whose in ((end.local_networks, "its own"), (end.remote_networks, "the far side's")):
                named = [str(network) for network in networks if not network.is_all and common_region((network,), (asked,))]
                if named:
                    said.append(f"{site} has {', '.join(named)} as {whose}")
        if said:
            yield Holder(ObjectType.TUNNEL, tunnel.id, tunnel.name, "; ".join(said))
