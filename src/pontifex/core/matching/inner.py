"""Traffic: what decides which packets go in, the tunnel's own inner network, and how large a packet may be."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from pontifex.core.addressing import Family, Interface, Prefix, next_free
from pontifex.core.addressing.home import HOME_PREFIXES
from pontifex.core.catalogue import Code
from pontifex.core.ipsec import Agreement, TransformType
from pontifex.core.ipsec.overhead import Overhead, OverheadError, overhead
from pontifex.core.kinds import SIDES, Mode, Network, Side
from pontifex.core.matching.encapsulation import goes_in_udp
from pontifex.core.matching.proposals import CHILD, settled
from pontifex.core.matching.row import Judgement, Remedy, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import occupied_prefixes, put
from pontifex.core.reasons import child, named

USUAL_MTU: Final = 1500  # RFC 894; where nothing else is known of a path
_POINT_TO_POINT: Final = {Family.V4: 30, Family.V6: 64}  # lengths of an inner network


def judge_mode(ends: TunnelEnds) -> Judgement:
    """Compare what decides at each end which packets go in; both kinds can meet, if their networks do."""
    left, right = ends.left.mode, ends.right.mode
    if left is None or right is None:
        return Judgement(Verdict.AGREED, child.ModeNotKnown())
    if left is right:
        return Judgement(Verdict.AGREED, child.RoutesDecide() if left is Mode.ROUTE else child.NetworksDecide())
    return Judgement(Verdict.AGREED, child.ModesMeet(Side.LEFT if left is Mode.ROUTE else Side.RIGHT))


def judge_inner_network(ends: TunnelEnds) -> Judgement:
    """Compare the inner addresses with each other, and with every network that stands at either site."""
    given = [address for side in SIDES if (address := ends.end(side).inner_address)]
    for address in given:
        captured = _captured(ends, address.prefix)
        if captured:
            site = ends.design.site_by_id[captured.site_id]
            takes = child.InnerNetworkTakes(address.prefix, named(site), named(captured), captured.prefix)
            return Judgement(Verdict.DIFFERS, takes, Code.ADDRESS_INNER_NETWORK, _fresh(address))
    if len(given) < 2:
        return Judgement(Verdict.AGREED, child.OneInnerAddress() if given else child.NoInnerNetwork())
    first, second = given
    if first.address == second.address:
        twice = child.InnerAddressTwice(first.address)
        return Judgement(Verdict.DIFFERS, twice, Code.TUNNEL_INNER_ADDRESS_TWICE, _fresh(first))
    if first.prefix != second.prefix:
        reason = child.InnerNetworksDiffer(first.prefix, second.prefix)
        return Judgement(Verdict.DIFFERS, reason, Code.TUNNEL_INNER_NETWORKS_DIFFER, _fresh(first))
    return Judgement(Verdict.AGREED, child.InnerAddressesAgreed(first.prefix))


def _captured(ends: TunnelEnds, inner: Prefix) -> Network | None:
    """Return the network of either site that an inner network takes the traffic of."""
    for side in SIDES:
        for network in ends.design.networks_of_site(ends.design.site_of(ends.end(side)).id):
            if not network.zone and network.prefix.overlaps(inner):
                return network
    return None


def _fresh(like: Interface) -> RowRemedies:
    return lambda ends: fresh_inner(ends, like)


def fresh_inner(ends: TunnelEnds, like: Interface) -> tuple[Remedy, ...]:
    """Give both ends addresses in a small network that nothing uses, if the supernets have room for one."""
    length = _POINT_TO_POINT[like.family]
    used = [*occupied_prefixes(ends.design), *(home.prefix for home in HOME_PREFIXES)]
    near = Prefix(like.family, like.value & ~like.family.host_mask(length), length)
    free = next_free(ends.design.address_space, used, length, near)
    if free is None:
        return ()
    first, second = (Interface(free.family, free.network + place, length) for place in (1, 2))
    left, right = ends.left.changed(inner_address=first), ends.right.changed(inner_address=second)
    given = ends.set_ends(f"Take {free} inside", left, right)
    space = ends.design.settings_with_space
    if space is None:
        return (given,)
    taken = next(supernet for supernet in space.supernets if supernet.contains(free))
    only = space.changed(supernets=(taken,))
    title = f"Take {taken} as supernet, and {free} of it inside"
    return (Remedy(title=title, operations=(put(only), *given.operations)),)


def path_mtu(ends: TunnelEnds) -> int:
    """Return the largest packet, in octets, that both uplinks carry."""
    return min(uplink.mtu if uplink and uplink.mtu else USUAL_MTU for uplink in (ends.uplink(side) for side in SIDES))


def tunnel_overhead(ends: TunnelEnds) -> Overhead | None:
    """Return what ESP leaves of the path; None while no cipher is settled."""
    if not ends.technology or not ends.technology.is_ipsec:
        return None
    outcome = settled(ends, CHILD[ends.technology])
    if not isinstance(outcome, Agreement):
        return None
    chosen = {transform.type: transform for transform in outcome.chosen}
    encryption, integrity = chosen[TransformType.ENCR], chosen.get(TransformType.INTEG)
    try:
        return overhead(encryption, integrity, ends.outer_family, goes_in_udp(ends), path_mtu(ends))
    except OverheadError:
        return None


def _fits(ends: TunnelEnds, field: str, most: int, code: Code, unit: child.Unit) -> Judgement:
    """Compare what both ends are set to with the most that fits."""
    value = str(most)
    large = [side for side in SIDES if (getattr(ends.end(side), field) or 0) > most]
    if large:
        reason = child.PacketsTooLarge(tuple(child.IsSetTo(side, getattr(ends.end(side), field)) for side in large), unit, most)
        return Judgement(Verdict.NARROWED, reason, code, lambda ends: [_made_to_fit(ends, field, most, large)], value)
    if any(getattr(ends.end(side), field) for side in SIDES):
        return Judgement(Verdict.AGREED, child.SizeFits(unit, most), value=value)
    return Judgement(Verdict.AGREED, child.SizeNotSet(unit, most), value=value)


def _made_to_fit(ends: TunnelEnds, field: str, most: int, large: Sequence[Side]) -> Remedy:
    if len(large) == 1:
        return ends.set_named(large[0], f"Give {ends.names[large[0]]} {most}", field, most)
    left, right = (ends.end(side).with_valid({field: most}) for side in SIDES)
    return ends.set_ends(f"Give both ends {most}", left, right)


_UNDECIDED: Final = Judgement(Verdict.AGREED, child.SizeUndecided())


def judge_inner_mtu(ends: TunnelEnds) -> Judgement:
    """Compare the inner MTU of both ends with what the path leaves (RFC 4303, RFC 3948)."""
    cost = tunnel_overhead(ends)
    return _fits(ends, "inner_mtu", cost.inner_mtu, Code.MTU_TOO_BIG, child.Unit.PACKETS) if cost else _UNDECIDED


def judge_tcp_mss(ends: TunnelEnds) -> Judgement:
    """Compare the TCP MSS of both ends with what the path leaves to the family of the inner networks."""
    cost = tunnel_overhead(ends)
    if cost is None:
        return _UNDECIDED
    most = cost.tcp_mss_v6 if ends.inner_families == {Family.V6} else cost.tcp_mss_v4
    return _fits(ends, "tcp_mss", most, Code.MTU_MSS_TOO_BIG, child.Unit.SEGMENTS)


def judge_compression(ends: TunnelEnds) -> Judgement:
    """Compare compression: IPsec negotiates it (RFC 7296 section 2.22), TLS takes it for agreed."""
    left, right = (bool(ends.end(side).compression) for side in SIDES)
    if left == right:
        return Judgement(Verdict.AGREED, child.OnAtBothEnds() if left else child.OffAtBothEnds())
    at = Side.LEFT if left else Side.RIGHT
    if not ends.left.technology.is_ipsec:
        return Judgement(
            Verdict.DIFFERS,
            child.ReadsGarbage(at),
            Code.TLS_COMPRESSION_DIFFERS,
            lambda ends: [ends.set_same("Switch compression off at both ends", compression=False)],
        )
    return Judgement(Verdict.AGREED, child.GoAsTheyAre(at))
