"""Networks of the design that collide, and the free space to move one of them to."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from pydantic import Field

from pontifex.core.addressing import OverlapClass, next_free, overlapping_pairs
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.matching import Remedy
from pontifex.core.model import Design, Network, ObjectType, RenumberNetwork, SiteKind, naming_tunnels
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
    collided = {id_: networks[id_] for pair in found for id_ in (pair.outer_id, pair.inner_id)}
    users = naming_tunnels(design, collided.values())
    return [_overlap_finding(design, networks[pair.outer_id], networks[pair.inner_id], pair.overlap, users) for pair in found]


def _overlap_finding(design: Design, outer: Network, inner: Network, class_: OverlapClass, users: Counter[str]) -> Finding:
    names = [f"{design.site_by_id[n.site_id].name}'s {n.name}" for n in (outer, inner)]
    if class_ is OverlapClass.IDENTICAL:
        why = f"{names[0]} and {names[1]} are both {outer.prefix}"
    else:
        why = f"{names[0]} {outer.prefix} contains {names[1]} {inner.prefix}"

    def cost(network: Network) -> tuple[bool, int, bool]:
        """A partner's network is not ours to move; of ours, the one goes that fewer tunnels name."""
        partner = design.site_by_id[network.site_id].kind is SiteKind.PARTNER
        return partner, users[network.id], network is outer

    movable = sorted((inner, outer), key=cost)
    remedies = tuple(remedy for network in movable if (remedy := renumber(design, network)))
    where = tuple(Place(type=ObjectType.NETWORK, id=n.id, name=n.name, field="prefix") for n in (movable[0], movable[1]))
    return finding("address.overlap", where, why, remedies)


def renumber(design: Design, network: Network) -> Remedy | None:
    """Return the move of a network to the next free block of its size, with all that names its prefix; None without room."""
    target = next_free(design.supernets, (n.prefix for n in design.networks), network.prefix.length, network.prefix)
    if target is None:
        return None
    site = design.site_by_id[network.site_id].name
    move = RenumberNetwork(id=network.id, prefix=target)
    return Remedy(title=f"Renumber {site}'s {network.name} to {target}", operations=(move,))
