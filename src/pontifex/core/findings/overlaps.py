"""Networks of the design that collide, and the free space to move one of them to."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import Field

from pontifex.core.addressing import OverlapClass, Prefix, next_free, overlapping_pairs
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Network, ObjectType, Operation, Side, Tunnel, put
from pontifex.core.value import Value


class Overlap(Value):
    """Two networks that share addresses and can meet. The outer one contains the inner one, or is identical to it."""

    outer_id: str = Field(title="Outer network")
    inner_id: str = Field(title="Inner network")
    overlap: OverlapClass = Field(title="Class")


def overlaps(design: Design) -> tuple[Overlap, ...]:
    """Return the pairs of networks that collide, in canonical order.

    Two networks can meet when they are in the same zone, the common one or a named one, since all sites of a design are
    to be joined. Containment within one site is a plan and not a collision; the same prefix twice at a site is one.
    """
    found: list[Overlap] = []
    for zone in sorted({network.zone for network in design.networks}):
        networks = [network for network in design.networks if network.zone == zone]
        pairs = overlapping_pairs([network.prefix for network in networks])
        for outer, inner, identical in zip(pairs.outer.tolist(), pairs.inner.tolist(), pairs.identical.tolist(), strict=True):
            if networks[outer].site_id == networks[inner].site_id and not identical:
                continue
            class_ = OverlapClass.IDENTICAL if identical else OverlapClass.CONTAINS
            found.append(Overlap(outer_id=networks[outer].id, inner_id=networks[inner].id, overlap=class_))
    return tuple(found)


def overlap_findings(design: Design, found: Sequence[Overlap]) -> list[Finding]:
    """Return a finding for each collision, with the renumbering of either network as remedies, the cheaper one first."""
    networks = {network.id: network for network in design.networks}
    return [_overlap_finding(design, networks[pair.outer_id], networks[pair.inner_id], pair.overlap) for pair in found]


def _overlap_finding(design: Design, outer: Network, inner: Network, class_: OverlapClass) -> Finding:
    names = [f"{design.site_by_id[n.site_id].name}'s {n.name}" for n in (outer, inner)]
    if class_ is OverlapClass.IDENTICAL:
        why = f"{names[0]} and {names[1]} are both {outer.prefix}"
    else:
        why = f"{names[0]} {outer.prefix} contains {names[1]} {inner.prefix}"
    movable = sorted((inner, outer), key=lambda n: (len(_tunnels_with(design, n)), n is outer))
    remedies = tuple(remedy for network in movable if (remedy := renumber(design, network)))
    where = tuple(Place(type=ObjectType.NETWORK, id=n.id, name=n.name, field="prefix") for n in (movable[0], movable[1]))
    return finding("address.overlap", where, why, remedies)


def renumber(design: Design, network: Network) -> Remedy | None:
    """Return the move of a network to the next free block of its size, with all that names its prefix; None without room."""
    target = next_free(design.supernets, (n.prefix for n in design.networks), network.prefix.length, network.prefix)
    if target is None:
        return None
    moved = network.model_copy(update={"prefix": target, "gateway_address": _moved_address(network, target)})
    operations: list[Operation] = [put(moved)]
    operations += [put(_with_selectors(design, t, network, target)) for t in _tunnels_with(design, network)]
    site = design.site_by_id[network.site_id].name
    return Remedy(title=f"Renumber {site}'s {network.name} to {target}", operations=tuple(operations))


def _moved_address(network: Network, target: Prefix) -> Any:
    """Return the gateway address at the same place within the new prefix."""
    address = network.gateway_address
    if address is None or not network.prefix.holds(address):
        return address
    return type(address)(address.family, target.network + address.value - network.prefix.network)


def _sides_of(design: Design, tunnel: Tunnel, network: Network) -> list[Side]:
    return [side for side in Side if design.site_of(tunnel.end(side)).id == network.site_id]


def _tunnels_with(design: Design, network: Network) -> list[Tunnel]:
    """Return the tunnels of the network's site whose selectors name its prefix, at either end."""
    return [
        tunnel
        for tunnel in design.tunnels
        for side in _sides_of(design, tunnel, network)
        if network.prefix in tunnel.end(side).local_networks or network.prefix in tunnel.end(side.other).remote_networks
    ]


def _with_selectors(design: Design, tunnel: Tunnel, network: Network, target: Prefix) -> Tunnel:
    """Return the tunnel with the network's prefix replaced in the selectors of both ends."""

    def replaced(selectors: tuple[Prefix, ...]) -> tuple[Prefix, ...]:
        return tuple(target if prefix == network.prefix else prefix for prefix in selectors)

    for side in _sides_of(design, tunnel, network):
        tunnel = tunnel.with_end(side, local_networks=replaced(tunnel.end(side).local_networks))
        tunnel = tunnel.with_end(side.other, remote_networks=replaced(tunnel.end(side.other).remote_networks))
    return tunnel
