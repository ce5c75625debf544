"""Findings about single networks: space that is set apart, and gateway addresses that stand elsewhere."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Address, Prefix
from pontifex.core.addressing.special import SHARED_SPACE, has_plain_global_id, is_public, special_block
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Network, ObjectType, put


def space_findings(design: Design) -> Iterator[Finding]:
    """Yield what is to be said of each network by itself."""
    for network in design.networks:
        name = f"{design.site_by_id[network.site_id].name}'s {network.name}"
        yield from _set_apart(network, name, design.supernets)
        if network.gateway_address and not network.prefix.holds(network.gateway_address):
            why = f"{name} is {network.prefix}, and its gateway address {network.gateway_address} lies outside"
            yield finding("address.gateway-outside", (_place(network, "gateway_address"),), why, _first_host(network))


def _set_apart(network: Network, name: str, supernets: tuple[Prefix, ...]) -> Iterator[Finding]:
    prefix, place = network.prefix, (_place(network, "prefix"),)
    special = special_block(prefix)
    if special:
        why = f"{name} is {prefix}, in {special.prefix}, which is set apart for {special.name} ({special.reference})"
        yield finding("address.special-purpose", place, why)
    elif SHARED_SPACE.overlaps(prefix):
        yield finding(
            "address.shared-space", place, f"{name} is {prefix}, in {SHARED_SPACE}, which carriers use before their NAT"
        )
    elif has_plain_global_id(prefix):
        yield finding("address.plain-global-id", place, f"{name} is {prefix}, and its global ID was hardly drawn at random")
    elif is_public(prefix) and not any(supernet.contains(prefix) for supernet in supernets):
        yield finding("address.public-inside", place, f"{name} is {prefix}, which is public space and none of the supernets")


def _place(network: Network, field: str) -> Place:
    return Place.of(type=ObjectType.NETWORK, id=network.id, name=network.name, field=field)


def _first_host(network: Network) -> tuple[Remedy, ...]:
    """Give a network the first of its hosts as gateway address, as is usual."""
    prefix = network.prefix
    if prefix.family.bits - prefix.length < 2:
        return ()
    address = Address(prefix.family, prefix.network + 1)
    operations = (put(network.model_copy(update={"gateway_address": address})),)
    return (Remedy.of(title=f"Take {address} as gateway address", operations=operations),)
