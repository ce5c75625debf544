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
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored


@dataclass(frozen=True, slots=True)
class _Fault:
    code: Code
    reason: str
    remedies: tuple[Remedy, ...] = ()


def judge_networks(pair: TunnelEnds, side: Side) -> Judgement:
    """Compare an end's local networks with what the other end has as its remote ones."""
    local, remote = pair.end(side).local_networks, pair.end(side.other).remote_networks
    fields = mirrored(side, "local_networks", "remote_networks")
    name, far = pair.names[side], pair.names[side.other]

    if not local or not remote:
        return Judgement(Verdict.UNKNOWN, f"the networks that {name if not local else far} has for {name} are not known yet")
    fault = _too_many(pair, side)
    if fault:
        return Judgement(Verdict.DIFFERS, fault.reason, code=fault.code, remedies=fault.remedies)
    if same_region(local, remote):
        return Judgement(Verdict.AGREED, "both ends have the same networks")
    return _compared(pair, side, pair.copies(f"{name}'s networks", *fields))


def _compared(pair: TunnelEnds, side: Side, remedies: tuple[Remedy, ...]) -> Judgement:
    local, remote = pair.end(side).local_networks, pair.end(side.other).remote_networks
    name, far = pair.names[side], pair.names[side.other]
    common = common_networks(pair, side)
    if not common:
        reason = f"{name} and {far} have no address of {name}'s in common"
        return Judgement(Verdict.DIFFERS, reason, code=_code(pair, Code.CHILD_NO_COMMON_NETWORK), remedies=remedies)
    value = listed(common)
    if pair.technology and not pair.technology.traits.narrows:
        reason = f"{name} has {listed(local)}, {far} has {listed(remote)}, and IKEv1 narrows nothing"
        return Judgement(Verdict.DIFFERS, reason, code=Code.IKE1_NETWORKS_DIFFER, remedies=remedies)
    for end, own in ((side, local), (side.other, remote)):
        if any(one.is_all for one in own):
            reason = f"{pair.names[end]} has all traffic for {name}, {pair.names[end.other]} only {value}: the rest never passes"
            return Judgement(Verdict.NARROWED, reason, _code(pair, Code.CHILD_ALL_TRAFFIC_ONE_SIDE), remedies, value)
    lost = [f"{listed(here)} only at {name}"] if (here := region_without(local, common)) else []
    lost += [f"{listed(there)} only at {far}"] if (there := region_without(remote, common)) else []
    return Judgement(
        Verdict.NARROWED, f"never passes: {'; '.join(lost)}", _code(pair, Code.CHILD_NETWORKS_NARROWED), remedies, value
    )


# IPsec negotiates networks in its Child SA; elsewhere each end goes by its own list, with other consequences
_IN_LISTS: Final = {
    Code.CHILD_NO_COMMON_NETWORK: Code.LISTS_NO_COMMON_NETWORK,
    Code.CHILD_NOTHING_PASSES: Code.LISTS_NOTHING_PASSES,
    Code.CHILD_PARTNER_LACKING: Code.LISTS_PARTNER_LACKING,
    Code.CHILD_NETWORKS_NARROWED: Code.LISTS_NETWORKS_NARROWED,
    Code.CHILD_ALL_TRAFFIC_ONE_SIDE: Code.LISTS_ALL_TRAFFIC_ONE_SIDE,
}


def _code(pair: TunnelEnds, code: Code) -> Code:
    """Return the code of a finding about the networks of a Child SA, or its counterpart where there is none."""
    ipsec = pair.technology is not None and pair.technology.is_ipsec
    return code if ipsec else _IN_LISTS[code]


def _too_many(pair: TunnelEnds, side: Side) -> _Fault | None:
    """Compare the number of networks with what either gateway takes at one side of a tunnel."""
    for end, field in ((side, "local_networks"), (side.other, "remote_networks")):
        networks: tuple[Selector, ...] = getattr(pair.end(end), field)
        most = pair.gateway(end).most_selectors
        if most is None or len(networks) <= most:
            continue
        remedies: tuple[Remedy, ...] = ()
        prefixes = [one.prefix for one in networks if one.prefix and one.is_every_protocol]
        fewer = tuple(map(Selector.of, minimal_cover(prefixes)))
        if len(prefixes) == len(networks) and len(fewer) <= most:
            remedies = (pair.set_named(end, f"Write them as {listed(fewer)}", field, fewer),)
        reason = f"{pair.names[end]} has {len(networks)} networks for {pair.names[side]}, and its gateway takes {most}"
        return _Fault(Code.CHILD_TOO_MANY_NETWORKS, reason, remedies)
    return None


def common_networks(pair: TunnelEnds, side: Side) -> Region:
    """Return what both ends have as networks of a side; what would have a port and no protocol with ports aside."""
    common = common_region(pair.end(side).local_networks, pair.end(side.other).remote_networks)
    return tuple(one for one in common if protocols_of(one))


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


def judge_passing(pair: TunnelEnds) -> Judgement:
    """Judge the networks of both sides together: a packet has one family and one protocol at both (RFC 4301 section 4.4.1)."""
    common = {side: common_networks(pair, side) for side in Side}
    if not all(common.values()):
        return Judgement(Verdict.AGREED, "follows from the networks of both sides")
    alone = {side: [box for box in common[side] if not partners(box, common[side.other])] for side in Side}
    names = pair.names
    if all(len(alone[side]) == len(common[side]) for side in Side):
        here, there = (f"{names[side]} has {listed(common[side])}" for side in Side)
        reason = f"nothing can pass: {here}, {there}, and no packet is of both"
        return Judgement(
            Verdict.DIFFERS, reason, _code(pair, Code.CHILD_NOTHING_PASSES), tuple(_for_every_protocol(pair, common))
        )
    lonely = [f"{listed(boxes)} at {names[side]}" for side, boxes in alone.items() if boxes]
    if lonely:
        reason = f"never passes: {' and '.join(lonely)}; the far side has nothing of that family and protocol"
        return Judgement(Verdict.NARROWED, reason, _code(pair, Code.CHILD_PARTNER_LACKING))
    return Judgement(Verdict.AGREED, "each network has a partner of its family and protocol on the far side")


def _for_every_protocol(pair: TunnelEnds, common: dict[Side, Region]) -> Iterator[Remedy]:
    """Yield the changes that let one side's networks be for every protocol, where the other side has that family."""
    for side in Side:
        whole = tuple(dict.fromkeys(Selector(one.family, one.first, one.last) for one in common[side]))
        if any(partners(box, common[side.other]) for box in whole):
            title = f"Let {pair.names[side]}'s networks be for every protocol"
            own, far = pair.end(side).changed(local_networks=whole), pair.end(side.other).changed(remote_networks=whole)
            yield pair.set_facing(title, side, own, far)


def listed(selectors: Iterable[Selector]) -> str:
    """Write networks one behind the other."""
    return ", ".join(map(str, selectors))
