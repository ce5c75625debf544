"""Child: the networks of one end mirrored at the other (traffic selectors, RFC 7296 section 2.9)."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

from pontifex.core.addressing import Selector, common_region, minimal_cover, region_without, same_region
from pontifex.core.matching.pair import Pair, mirrored
from pontifex.core.matching.row import Relation, Remedy, Row, Stage, Verdict
from pontifex.core.model import Side, Technology

_RowOf = Callable[..., Row]


@dataclass(frozen=True, slots=True)
class _Fault:
    code: str
    reason: str
    remedies: tuple[Remedy, ...] = ()


def networks_row(pair: Pair, side: Side) -> Row:
    """Compare an end's local networks with what the other end has as its remote ones."""
    local, remote = pair.end(side).local_networks, pair.end(side.other).remote_networks
    fields = mirrored(side, "local_networks", "remote_networks")
    name, far = pair.names[side], pair.names[side.other]

    title = f"{name}'s networks"
    row = partial(pair.row, f"networks-{side.value}", title, Stage.CHILD, Relation.MIRROR, fields)
    if not local or not remote:
        return row(Verdict.UNKNOWN, f"the networks that {name if not local else far} has for {name} are not known yet")
    fault = _too_many(pair, side) or _self_overlap(pair, side)
    if fault:
        return row(Verdict.DIFFERS, fault.reason, code=fault.code, remedies=fault.remedies)
    lonely = _family_alone(pair, side)
    if same_region(local, remote):
        if lonely:
            return row(Verdict.NARROWED, lonely, code="child.family-alone")
        return row(Verdict.AGREED, "both ends have the same networks")
    return _compared(pair, side, row, pair.copies(f"{name}'s networks", *fields))


def _compared(pair: Pair, side: Side, row: _RowOf, remedies: tuple[Remedy, ...]) -> Row:
    local, remote = pair.end(side).local_networks, pair.end(side.other).remote_networks
    name, far = pair.names[side], pair.names[side.other]
    common = common_region(local, remote)
    if not common:
        reason = f"{name} and {far} have no address of {name}'s in common"
        return row(Verdict.DIFFERS, reason, code=_code(pair, "no-common-network"), remedies=remedies)
    value = listed(common)
    if pair.technology is Technology.IPSEC_IKEV1:
        reason = f"{name} has {listed(local)}, {far} has {listed(remote)}, and IKEv1 narrows nothing"
        return row(Verdict.DIFFERS, reason, code="ike1.networks-differ", remedies=remedies)
    for end, own in ((side, local), (side.other, remote)):
        if any(one.is_all for one in own):
            reason = f"{pair.names[end]} has all traffic for {name}, {pair.names[end.other]} only {value}: the rest never passes"
            return row(Verdict.NARROWED, reason, _code(pair, "all-traffic-one-side"), remedies, value)
    lost = [f"{listed(here)} only at {name}"] if (here := region_without(local, common)) else []
    lost += [f"{listed(there)} only at {far}"] if (there := region_without(remote, common)) else []
    return row(Verdict.NARROWED, f"never passes: {'; '.join(lost)}", _code(pair, "networks-narrowed"), remedies, value)


def _code(pair: Pair, what: str) -> str:
    """IPsec negotiates networks in its Child SA; elsewhere each end goes by its own list, with other consequences."""
    ipsec = pair.technology is not None and pair.technology.is_ipsec
    return f"{'child' if ipsec else 'lists'}.{what}"


def _too_many(pair: Pair, side: Side) -> _Fault | None:
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
            remedies = (pair.set_field(end, f"Write them as {listed(fewer)}", **{field: fewer}),)
        reason = f"{pair.names[end]} has {len(networks)} networks for {pair.names[side]}, and its gateway takes {most}"
        return _Fault("child.too-many-networks", reason, remedies)
    return None


def _self_overlap(pair: Pair, side: Side) -> _Fault | None:
    """Find addresses that an end has on both sides of the tunnel; all traffic for the far side is meant so."""
    end = pair.end(side)
    if any(one.is_all for one in (*end.local_networks, *end.remote_networks)):
        return None
    both = common_region(end.local_networks, end.remote_networks)
    if not both:
        return None
    reason = f"{pair.names[side]} has {listed(both)} both as its own and as the far side's"
    remedies = []
    far = pair.end(side.other)
    for field, other in (("remote_networks", "local_networks"), ("local_networks", "remote_networks")):
        rest = region_without(getattr(end, field), getattr(end, other))
        if common_region(rest, getattr(far, other)):
            whose = "the far side's" if field == "remote_networks" else "its own"
            remedies.append(pair.set_field(side, f"Take {listed(both)} out of {whose}", **{field: rest}))
    return _Fault("child.networks-overlap", reason, tuple(remedies))


def _family_alone(pair: Pair, side: Side) -> str:
    """Say which address family has networks on this side of the tunnel only; empty when each has a partner."""
    here = {one.family for one in pair.end(side).local_networks}
    there = {one.family for one in pair.end(side.other).local_networks} | {one.family for one in pair.end(side).remote_networks}
    alone = [family for family in here if there and family not in there]
    if not alone:
        return ""
    names = {32: "IPv4", 128: "IPv6"}
    return f"{pair.names[side]} has {names[alone[0].bits]} networks, the far side none of that family: they never pass"


def listed(selectors: Iterable[Selector]) -> str:
    """Write networks one behind the other."""
    return ", ".join(map(str, selectors))
