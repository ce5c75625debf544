"""Findings about address space: what is set apart, gateway addresses that stand elsewhere, reserved prefixes, and kept ranges."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Address, AddressRange, Prefix
from pontifex.core.addressing.special import SHARED_SPACE, has_plain_global_id, is_public, special_block
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.findings.hosts import host_findings, shared_addresses
from pontifex.core.findings.people import people_findings
from pontifex.core.findings.translations import translation_findings
from pontifex.core.kinds import Network, ObjectType
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, put
from pontifex.core.space import JoinedSites


def network_findings(design: Design, network: Network) -> Iterator[Finding]:
    """Yield what is to be said of a network by itself, with its hosts and ranges."""
    name = f"{design.site_by_id[network.site_id].name}'s {network.name}"
    yield from _set_apart(network, name, design.supernets)
    if network.gateway_address and not network.prefix.holds(network.gateway_address):
        why = f"{name} is {network.prefix}, and its gateway address {network.gateway_address} lies outside"
        yield finding(Code.ADDRESS_GATEWAY_OUTSIDE, (_place(network, "gateway_address"),), why, _first_host(network))
    yield from host_findings(design, network, name)


def between_findings(design: Design) -> Iterator[Finding]:
    """Yield what is to be said of several networks and what stands beside them."""
    joined = JoinedSites(design)
    yield from shared_addresses(design, joined)
    yield from _reservations(design)
    yield from _kept_elsewhere(design, joined)
    yield from translation_findings(design, joined)
    yield from people_findings(design, joined)


def _reservations(design: Design) -> Iterator[Finding]:
    """Yield prefixes reserved twice, or in use elsewhere; a site's own network within its reservation is what it is for."""
    for reservation in design.prefix_reservations:
        place = Place(type=ObjectType.PREFIX_RESERVATION, id=reservation.id, name=reservation.name, field="prefix")
        holder = design.site_by_id[reservation.site_id].name
        for network in design.networks:
            if network.site_id != reservation.site_id and not network.zone and network.prefix.overlaps(reservation.prefix):
                whose = f"{design.site_by_id[network.site_id].name}'s {network.name}"
                yield finding(
                    Code.ADDRESS_CLAIM_TAKEN,
                    (place,),
                    f"{reservation.prefix} is reserved for {holder}, and {whose} is {network.prefix}",
                )
        for other in design.prefix_reservations:
            if other.id < reservation.id and other.prefix.overlaps(reservation.prefix):
                whose = design.site_by_id[other.site_id].name
                yield finding(
                    Code.ADDRESS_CLAIM_TAKEN,
                    (place,),
                    f"{reservation.prefix} is reserved for {holder}, and {whose} {other.prefix}",
                )


def _kept_elsewhere(design: Design, joined: JoinedSites) -> Iterator[Finding]:
    """Ranges that a platform keeps outside its network, and that are a network of a site it is joined with."""
    keeping = [
        (network, kept) for network in design.networks for kept in network.reserved_ranges if not kept.within(network.prefix)
    ]
    if not keeping:
        return
    component = joined.component
    for network, kept in keeping:
        for other in design.networks:
            if other.id == network.id or other.zone != network.zone or component[other.site_id] != component[network.site_id]:
                continue
            if kept.overlaps(AddressRange.of(other.prefix)):
                names = [f"{design.site_by_id[n.site_id].name}'s {n.name}" for n in (network, other)]
                why = f"the platform of {names[0]} keeps {kept}, and {names[1]} is {other.prefix}"
                yield finding(Code.ADDRESS_KEPT_ELSEWHERE, (_place(network, "reserved_ranges"), _place(other, "prefix")), why)


def _set_apart(network: Network, name: str, supernets: tuple[Prefix, ...]) -> Iterator[Finding]:
    prefix, place = network.prefix, (_place(network, "prefix"),)
    special = special_block(prefix)
    if special:
        why = f"{name} is {prefix}, in {special.prefix}, which is set apart for {special.name} ({special.reference})"
        yield finding(Code.ADDRESS_SPECIAL_PURPOSE, place, why)
    elif SHARED_SPACE.overlaps(prefix):
        yield finding(
            Code.ADDRESS_SHARED_SPACE, place, f"{name} is {prefix}, in {SHARED_SPACE}, which carriers use before their NAT"
        )
    elif has_plain_global_id(prefix):
        yield finding(Code.ADDRESS_PLAIN_GLOBAL_ID, place, f"{name} is {prefix}, and its global ID was hardly drawn at random")
    elif is_public(prefix) and not any(supernet.contains(prefix) for supernet in supernets):
        yield finding(Code.ADDRESS_PUBLIC_INSIDE, place, f"{name} is {prefix}, which is public space and none of the supernets")


def _place(network: Network, field: str) -> Place:
    return Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field=field)


def _first_host(network: Network) -> tuple[Remedy, ...]:
    """Give a network the first of its hosts as gateway address, as is usual."""
    prefix = network.prefix
    if prefix.family.bits - prefix.length < 2:
        return ()
    address = Address(prefix.family, prefix.network + 1)
    operations = (put(network.changed(gateway_address=address)),)
    return (Remedy(title=f"Take {address} as gateway address", operations=operations),)
