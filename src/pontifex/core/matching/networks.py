"""Child: the networks of one end mirrored at the other (traffic selectors, RFC 7296 section 2.9)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from pontifex.core.addressing import Region, Selector, common_region, minimal_cover, region_without, same_region
from pontifex.core.addressing.selector import ANY_PORT, WITH_PORTS
from pontifex.core.catalogue import Code
from pontifex.core.kinds import Side
from pontifex.core.matching.row import Judgement, Remedy, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored
from pontifex.core.reasons import child, unknown


@dataclass(frozen=True, slots=True)
class _Fault:
    code: Code
    reason: child.TooManyNetworks
    remedies: RowRemedies | None = None


_SAME: Final = Judgement(Verdict.AGREED, child.NetworksAgreed())
_WITH_PARTNERS: Final = Judgement(Verdict.AGREED, child.PartnersFound())


def judge_networks(ends: TunnelEnds, side: Side) -> Judgement:
    """Compare an end's local networks with what the other end has as its remote ones."""
    local, remote = ends.end(side).local_networks, ends.end(side.other).remote_networks
    fields = mirrored(side, "local_networks", "remote_networks")
    if not local or not remote:
        return Judgement(Verdict.UNKNOWN, unknown.NetworksNotKnown(side, side.other if local else side))
    fault = _too_many(ends, side, local, remote)
    if fault:
        return Judgement(Verdict.DIFFERS, fault.reason, code=fault.code, remedies=fault.remedies)
    if same_region(local, remote):
        return _SAME
    return _compared(ends, side, lambda ends: ends.copies(f"{ends.names[side]}'s networks", *fields))


def _compared(ends: TunnelEnds, side: Side, remedies: RowRemedies) -> Judgement:
    local, remote = ends.end(side).local_networks, ends.end(side.other).remote_networks
    common = common_networks(ends, side)
    if not common:
        code = _code(ends, Code.CHILD_NO_COMMON_NETWORK)
        return Judgement(Verdict.DIFFERS, child.NoNetworkCommon(side), code, remedies)
    value = listed(common)
    if ends.technology and not ends.technology.traits.narrows:
        reason = child.NothingNarrowed(side, local, remote)
        return Judgement(Verdict.DIFFERS, reason, Code.IKE1_NETWORKS_DIFFER, remedies)
    for end, own in ((side, local), (side.other, remote)):
        if any(selector.is_all for selector in own):
            alone = child.AllTrafficAtOneEnd(end, side, common)
            return Judgement(Verdict.NARROWED, alone, _code(ends, Code.CHILD_ALL_TRAFFIC_ONE_SIDE), remedies, value)
    rest = ((region_without(own, common), at) for own, at in ((local, side), (remote, side.other)))
    narrowed = child.NetworksNarrowed(tuple(child.OnlyAt(lost, at) for lost, at in rest if lost))
    return Judgement(Verdict.NARROWED, narrowed, _code(ends, Code.CHILD_NETWORKS_NARROWED), remedies, value)


# IPsec negotiates networks in its Child SA; elsewhere each end goes by its own list, with other consequences
_IN_LISTS: Final = {
    Code.CHILD_NO_COMMON_NETWORK: Code.LISTS_NO_COMMON_NETWORK,
    Code.CHILD_NOTHING_PASSES: Code.LISTS_NOTHING_PASSES,
    Code.CHILD_PARTNER_LACKING: Code.LISTS_PARTNER_LACKING,
    Code.CHILD_NETWORKS_NARROWED: Code.LISTS_NETWORKS_NARROWED,
    Code.CHILD_ALL_TRAFFIC_ONE_SIDE: Code.LISTS_ALL_TRAFFIC_ONE_SIDE,
}


def _code(ends: TunnelEnds, code: Code) -> Code:
    """Return the code of a finding about the networks of a Child SA, or its counterpart where there is none."""
    ipsec = ends.technology is not None and ends.technology.is_ipsec
    return code if ipsec else _IN_LISTS[code]


def _too_many(ends: TunnelEnds, side: Side, local: tuple[Selector, ...], remote: tuple[Selector, ...]) -> _Fault | None:
    """Compare the number of networks with what either gateway takes at one side of a tunnel."""
    for end, field, networks in ((side, "local_networks", local), (side.other, "remote_networks", remote)):
        most = ends.gateway(end).most_selectors
        if most is None or len(networks) <= most:
            continue
        remedies: RowRemedies | None = None
        prefixes = [network.prefix for network in networks if network.prefix and network.is_every_protocol]
        fewer = tuple(map(Selector.of, minimal_cover(prefixes)))
        if len(prefixes) == len(networks) and len(fewer) <= most:
            remedies = _written_as(end, field, fewer)
        reason = child.TooManyNetworks(end, len(networks), side, most)
        return _Fault(Code.CHILD_TOO_MANY_NETWORKS, reason, remedies)
    return None


def _written_as(end: Side, field: str, fewer: tuple[Selector, ...]) -> RowRemedies:
    return lambda ends: [ends.set_named(end, f"Write them as {listed(fewer)}", field, fewer)]


def common_networks(ends: TunnelEnds, side: Side) -> Region:
    """Return what both ends have as networks of a side; what would have a port and no protocol with ports aside."""
    common = common_region(ends.end(side).local_networks, ends.end(side.other).remote_networks)
    return tuple(selector for selector in common if protocols_of(selector))


@lru_cache(maxsize=4096)
def protocols_of(box: Selector) -> frozenset[int]:
    """Return the protocols that a selector names, by number; those with ports where it names ports (RFC 4301 section 4.4.1.1)."""
    low, high = box.protocols
    named = frozenset(range(low, high + 1))
    return named if box.ports == ANY_PORT else named & WITH_PORTS


def partners(box: Selector, others: Iterable[Selector]) -> list[Selector]:
    """Return the networks of the far side that share family and protocol with one of this side: only between such it passes."""
    own = protocols_of(box)
    return [other for other in others if other.family is box.family and own & protocols_of(other)]


def _agree_plainly(ends: TunnelEnds) -> bool:
    """Whether both ends list the same networks, for every protocol, and of the same families at both sides: most tunnels do."""
    left, right = ends.left, ends.right
    if left.local_networks != right.remote_networks or left.remote_networks != right.local_networks:
        return False
    here, there = left.local_networks, left.remote_networks
    families = {selector.family for selector in here}
    return (
        bool(here)
        and families == {selector.family for selector in there}
        and all(selector.is_every_protocol for selector in (*here, *there))
    )


def judge_passing(ends: TunnelEnds) -> Judgement:
    """Judge the networks of both sides together: a packet has one family and one protocol at both (RFC 4301 section 4.4.1)."""
    if _agree_plainly(ends):
        return _WITH_PARTNERS
    common = {side: common_networks(ends, side) for side in Side}
    if not all(common.values()):
        return Judgement(Verdict.AGREED, child.FollowsFromNetworks())
    alone = {side: [box for box in common[side] if not partners(box, common[side.other])] for side in Side}
    if all(len(alone[side]) == len(common[side]) for side in Side):
        here, there = (child.HasNetworks(side, common[side]) for side in Side)
        reason = child.NothingPasses(here, there)
        return Judgement(
            Verdict.DIFFERS, reason, _code(ends, Code.CHILD_NOTHING_PASSES), lambda ends: _for_every_protocol(ends, common)
        )
    lone = tuple(child.NetworksAt(tuple(boxes), side) for side, boxes in alone.items() if boxes)
    if lone:
        return Judgement(Verdict.NARROWED, child.PartnerLacking(lone), _code(ends, Code.CHILD_PARTNER_LACKING))
    return _WITH_PARTNERS


def _for_every_protocol(ends: TunnelEnds, common: dict[Side, Region]) -> Iterator[Remedy]:
    """Yield the changes that let one side's networks be for every protocol, where the other side has that family."""
    for side in Side:
        whole = tuple(dict.fromkeys(Selector(selector.family, selector.first, selector.last) for selector in common[side]))
        if any(partners(box, common[side.other]) for box in whole):
            title = f"Let {ends.names[side]}'s networks be for every protocol"
            own, far = ends.end(side).changed(local_networks=whole), ends.end(side.other).changed(remote_networks=whole)
            yield ends.set_facing(title, side, own, far)


def listed(selectors: Iterable[Selector]) -> str:
    """Write networks one behind the other."""
    return ", ".join(map(str, selectors))
