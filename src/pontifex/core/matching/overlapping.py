"""Tunnels of one gateway whose networks name the same packets."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing import Region, Selector, common_region
from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, Mode, Side, Tunnel, TunnelEnd
from pontifex.core.matching.networks import listed
from pontifex.core.matching.row import Judgement, Relation, Remedy, Row, RowHeading, Stage, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Design, put
from pontifex.core.reasons import Named, child, named

_OfTunnel = tuple[Selector, Tunnel, Side]  # a network beyond a tunnel, and the side of the gateway that names it
MOST_SHARING: Final = 4  # of the tunnels that one shares networks with


NETWORKS_SHARED: Final = {
    side: RowHeading(
        f"networks-shared-{side.value}", "{this}'s other tunnels", Stage.CHILD, Relation.COMPLEMENTARY, "remote_networks",
        "remote_networks",
    )
    for side in SIDES
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class SharedNetworks:
    """What a tunnel shares with another one at one of its gateways."""

    side: Side  # of the gateway, in the tunnel
    other: Named[Tunnel]
    networks: Region
    narrower: bool  # the other tunnel's networks lie within this one's, so that they are asked first


_ByTunnel = Mapping[str, list[SharedNetworks]]


def networks_named(tunnel: Tunnel) -> tuple[object, ...]:
    """Return all of a tunnel by which it shares networks with others."""
    ends = (
        (end.gateway_id, end.enabled, end.technology, end.mode, end.local_networks, end.remote_networks)
        for end in (tunnel.left, tunnel.right)
    )
    return (tunnel.name, *ends)


def shared_networks(design: Design, gateway_id: str, wanted: Tunnel | None = None) -> dict[str, list[SharedNetworks]]:
    """Return, by tunnel, what its networks beyond a gateway share with those of other tunnels there, for the same sources.

    With a tunnel that is `wanted`, only what others share with that one is looked for.
    """
    ending = design.ends_of_gateway(gateway_id)
    if len(ending) < 2:  # as most gateways have it
        return {}
    boxes = [(net, tunnel, side) for tunnel, side in ending if _takes(tunnel, side) for net in tunnel.end(side).remote_networks]
    if wanted:
        own = [net for net, tunnel, _ in boxes if tunnel.id == wanted.id]
        boxes = [box for box in boxes if any(_share_addresses(box[0], net) for net in own)]
    found: dict[str, list[SharedNetworks]] = defaultdict(list)
    for box, other in _meeting(boxes):
        _note(design, found, box, other)
        _note(design, found, other, box)
    return found


def networks_beside(
    tunnel: Tunnel, of_gateway: Callable[[str], Mapping[str, list[SharedNetworks]]]
) -> tuple[SharedNetworks, ...]:
    """Return what a tunnel shares with others at both of its gateways, each of them told once."""
    here, there = of_gateway(tunnel.left.gateway_id), of_gateway(tunnel.right.gateway_id)
    if not here and not there:
        return ()
    found = list(here.get(tunnel.id, ()))
    told = {networks.other.id for networks in found}
    found += [networks for networks in there.get(tunnel.id, ()) if networks.other.id not in told]
    return tuple(found[:MOST_SHARING])


def _takes(tunnel: Tunnel, side: Side) -> bool:
    """Whether a gateway gives packets to a tunnel by the networks that it names."""
    end, other = tunnel.facing(side)
    traits = end.technology.traits
    return end.enabled and other.enabled and ((traits.esp and end.mode is Mode.POLICY) or traits.by_allowed_prefixes)


def _share_addresses(one: Selector, other: Selector) -> bool:
    return one.first <= other.last and other.first <= one.last and one.family is other.family


def _meeting(boxes: list[_OfTunnel]) -> Iterator[tuple[_OfTunnel, ...]]:
    """Yield the pairs of boxes of different tunnels that share addresses, by a sweep over their first addresses."""
    open_: list[_OfTunnel] = []
    for box in sorted(boxes, key=lambda placed: (placed[0].family.bits, placed[0].first, -placed[0].last, placed[1].id)):
        selector = box[0]
        open_ = [other for other in open_ if other[0].last >= selector.first and other[0].family is selector.family]
        for other in open_[:MOST_SHARING]:
            if other[1].id != box[1].id:
                yield other, box
        open_.append(box)


def _is_collision(design: Design, networks: Region, ends: tuple[TunnelEnd, TunnelEnd]) -> bool:
    """Whether two sites have networks of the same addresses: that is told as a collision, and mended as such."""
    sites = [design.site_of(end) for end in ends]
    return sites[0] is not sites[1] and all(
        any(common_region(networks, (Selector.of(network.prefix),)) for network in design.networks_of_site(site.id))
        for site in sites
    )


def _note(design: Design, found: dict[str, list[SharedNetworks]], one: _OfTunnel, other: _OfTunnel) -> None:
    selector, tunnel, side = one
    theirs, rival, far = other
    known = found[tunnel.id]
    if len(known) >= MOST_SHARING or any(shared.other.id == rival.id for shared in known):
        return
    if theirs != selector and theirs.contains(selector):
        return  # this tunnel's is the narrower one, and asked first
    networks = common_region((selector,), (theirs,))
    by_source = not tunnel.end(side).technology.traits.by_allowed_prefixes
    sources = common_region(tunnel.end(side).local_networks, rival.end(far).local_networks)
    far_ends = tunnel.end(side.other), rival.end(far.other)
    if networks and (sources or not by_source) and not _is_collision(design, networks, far_ends):
        known.append(SharedNetworks(side, named(rival), networks, theirs != selector and selector.contains(theirs)))


def networks_twice(ends: TunnelEnds, shared: SharedNetworks) -> Row:
    """Two tunnels of one gateway that name the same packets: one takes them (RFC 4301 section 4.4.1)."""
    if shared.narrower:
        taken = child.TakenByNarrower(shared.side, shared.networks, shared.other)
        return ends.row(NETWORKS_SHARED[shared.side], Judgement(Verdict.AGREED, taken), shared.side)
    by_prefixes = ends.left.technology.traits.by_allowed_prefixes
    by = child.DecidedBy.LAST_ENTERED if by_prefixes else child.DecidedBy.ORDER
    reason = child.NetworksTwice(shared.other, shared.networks, by)
    return ends.row(
        NETWORKS_SHARED[shared.side],
        Judgement(Verdict.NARROWED, reason, Code.HUB_NETWORKS_TWICE, lambda ends: _told_apart(ends, shared)),
        shared.side,
    )


def _told_apart(ends: TunnelEnds, shared: SharedNetworks) -> Iterator[Remedy]:
    """Yield the changes that leave the shared networks to the other tunnel, where something else is left for this one."""
    end = ends.end(shared.side)
    rest = tuple(network for network in end.remote_networks if network not in shared.networks)
    if rest:
        own, far = end.changed(remote_networks=rest), ends.end(shared.side.other).changed(local_networks=rest)
        yield ends.set_facing(f"Leave {listed(shared.networks)} to {shared.other.name}", shared.side, own, far)
    spare = ends.design.tunnel_by_id[shared.other.id].with_end(Side.LEFT, enabled=False).with_end(Side.RIGHT, enabled=False)
    yield Remedy(title=f"Switch {shared.other.name} off, and keep it as a spare", operations=(put(spare),))
