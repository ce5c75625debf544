"""Findings about address space: what is set apart, gateway addresses that stand elsewhere, reserved prefixes, and kept ranges."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from pontifex.core.addressing import Address, AddressRange, Prefix
from pontifex.core.addressing.special import SHARED_SPACE, has_plain_global_id, is_plainly_private, is_public, special_block
from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, network_of, remark
from pontifex.core.findings.hosts import host_findings, shared_addresses
from pontifex.core.findings.people import people_findings
from pontifex.core.findings.translations import translation_findings
from pontifex.core.kinds import Network, ObjectType
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, put
from pontifex.core.reasons import addresses, named
from pontifex.core.reasons.addresses import NetworkOf
from pontifex.core.space import JoinedSites
from pontifex.core.space.meeting import Crossings


def network_findings(design: Design, network: Network) -> Iterator[Remark]:
    """Yield what is to be said of a network by itself, with its hosts and ranges."""
    name = network_of(design, network)
    if not is_plainly_private(network.prefix):
        yield from _set_apart(network, name, design.supernets)
    if network.gateway_address and not network.prefix.holds(network.gateway_address):
        why = addresses.GatewayAddressOutside(name, network.prefix, network.gateway_address)
        yield remark(Code.ADDRESS_GATEWAY_OUTSIDE, (_place(network, "gateway_address"),), why, partial(_first_host, network))
    yield from host_findings(design, network, name)


def between_findings(design: Design, crossings: Crossings | None) -> Iterator[Remark]:
    """Yield what is to be said of several networks and what stands beside them."""
    joined = JoinedSites(design, crossings)
    yield from shared_addresses(design, joined)
    yield from _reservations(design)
    yield from _kept_elsewhere(design, joined)
    yield from translation_findings(design, joined)
    yield from people_findings(design, joined)


def _reservations(design: Design) -> Iterator[Remark]:
    """Yield prefixes reserved twice, or in use elsewhere; a site's own network within its reservation is what it is for."""
    for reservation in design.prefix_reservations:
        place = Place(type=ObjectType.PREFIX_RESERVATION, id=reservation.id, name=reservation.name, field="prefix")
        holder = design.site_by_id[reservation.site_id]
        for network in sorted(design.network_map.sharing(reservation.prefix), key=lambda sharing: sharing.id):
            if network.site_id != reservation.site_id and not network.zone:
                whose = network_of(design, network)
                used = addresses.ReservedAndUsed(reservation.prefix, named(holder), whose, network.prefix)
                yield remark(Code.ADDRESS_CLAIM_TAKEN, (place,), used)
        for other in design.prefix_reservations:
            if other.id < reservation.id and other.prefix.overlaps(reservation.prefix):
                twice = addresses.ReservedTwice(
                    reservation.prefix, named(holder), named(design.site_by_id[other.site_id]), other.prefix
                )
                yield remark(Code.ADDRESS_CLAIM_TAKEN, (place,), twice)


def _kept_elsewhere(design: Design, joined: JoinedSites) -> Iterator[Remark]:
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
                why = addresses.KeptElsewhere(network_of(design, network), kept, network_of(design, other), other.prefix)
                yield remark(Code.ADDRESS_KEPT_ELSEWHERE, (_place(network, "reserved_ranges"), _place(other, "prefix")), why)


def _set_apart(network: Network, name: NetworkOf, supernets: tuple[Prefix, ...]) -> Iterator[Remark]:
    prefix, place = network.prefix, (_place(network, "prefix"),)
    special = special_block(prefix)
    if special:
        why = addresses.SetApart(name, prefix, special.prefix, special.name, special.reference)
        yield remark(Code.ADDRESS_SPECIAL_PURPOSE, place, why)
    elif SHARED_SPACE.overlaps(prefix):
        yield remark(Code.ADDRESS_SHARED_SPACE, place, addresses.InSharedSpace(name, prefix, SHARED_SPACE))
    elif has_plain_global_id(prefix):
        yield remark(Code.ADDRESS_PLAIN_GLOBAL_ID, place, addresses.PlainGlobalId(name, prefix))
    elif is_public(prefix) and not any(supernet.contains(prefix) for supernet in supernets):
        yield remark(Code.ADDRESS_PUBLIC_INSIDE, place, addresses.PublicInside(name, prefix))


def _place(network: Network, field: str) -> Place:
    return Place(type=ObjectType.NETWORK, id=network.id, name=network.name, field=field)


def _first_host(network: Network) -> Iterator[Remedy]:
    """Give a network the first of its hosts as gateway address, as is usual."""
    prefix = network.prefix
    if prefix.family.bits - prefix.length >= 2:
        address = Address(prefix.family, prefix.network + 1)
        operations = (put(network.changed(gateway_address=address)),)
        yield Remedy(title=f"Take {address} as gateway address", operations=operations)
