"""Traffic: what decides which packets go in, the tunnel's own inner network, and how large a packet may be."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from pontifex.core.addressing import Family, Interface, Prefix, next_free
from pontifex.core.addressing.home import HOME_PREFIXES
from pontifex.core.catalogue import Code
from pontifex.core.ipsec import Agreement, Transform, TransformType
from pontifex.core.ipsec.overhead import Overhead, OverheadError, overhead
from pontifex.core.kinds import SIDES, Mode, Network, Side
from pontifex.core.matching.proposals import CHILD, settled
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import occupied_prefixes, put

USUAL_MTU: Final = 1500  # RFC 894; where nothing else is known of a path
_POINT_TO_POINT: Final = {Family.V4: 30, Family.V6: 64}  # lengths of an inner network


def judge_mode(pair: TunnelEnds) -> Judgement:
    """Compare what decides at each end which packets go in; both kinds can meet, if their networks do."""
    left, right = pair.tunnel.left.mode, pair.tunnel.right.mode
    if left is None or right is None:
        return Judgement(Verdict.AGREED, "not known at each end, which stops nothing while the networks agree")
    if left is right:
        how = "routes decide what goes in" if left is Mode.ROUTE else "the networks decide what goes in"
        return Judgement(Verdict.AGREED, f"{how} at both ends")
    routed = Side.LEFT if left is Mode.ROUTE else Side.RIGHT
    by_policy = pair.names[routed.other]
    return Judgement(
        Verdict.AGREED, f"{pair.names[routed]} routes into the tunnel; {by_policy} lets in only what its networks name"
    )


def judge_inner_network(pair: TunnelEnds) -> Judgement:
    """Compare the inner addresses with each other, and with every network that stands at either site."""
    given = [address for side in SIDES if (address := pair.end(side).inner_address)]
    for address in given:
        captured = _captured(pair, address.prefix)
        if captured:
            site = pair.design.site_by_id[captured.site_id].name
            reason = f"the tunnel's own network {address.prefix} takes the traffic of {site}'s {captured.name} {captured.prefix}"
            return Judgement(Verdict.DIFFERS, reason, Code.ADDRESS_INNER_NETWORK, _fresh_inner(pair, address))
    if len(given) < 2:
        if not given:
            return Judgement(Verdict.AGREED, "the tunnel has no inner network of its own")
        return Judgement(
            Verdict.AGREED, "one end alone has an inner address, which is enough where the other goes by its networks"
        )
    first, second = given
    if first.address == second.address:
        reason = f"both ends have {first.address} as their inner address"
        return Judgement(Verdict.DIFFERS, reason, Code.TUNNEL_INNER_ADDRESS_TWICE, _fresh_inner(pair, first))
    if first.prefix != second.prefix:
        reason = f"the inner addresses lie in different networks ({first.prefix} and {second.prefix})"
        return Judgement(Verdict.DIFFERS, reason, Code.TUNNEL_INNER_NETWORKS_DIFFER, _fresh_inner(pair, first))
    return Judgement(Verdict.AGREED, f"both lie in {first.prefix}, which no network of either site touches")


def _captured(pair: TunnelEnds, inner: Prefix) -> Network | None:
    """Return the network of either site that an inner network takes the traffic of."""
    for side in SIDES:
        for network in pair.design.networks_of_site(pair.design.site_of(pair.end(side)).id):
            if not network.zone and network.prefix.overlaps(inner):
                return network
    return None


def _fresh_inner(pair: TunnelEnds, like: Interface) -> tuple[Remedy, ...]:
    """Give both ends addresses in a small network that nothing uses, if the supernets have room for one."""
    length = _POINT_TO_POINT[like.family]
    used = [*occupied_prefixes(pair.design), *(home.prefix for home in HOME_PREFIXES)]
    near = Prefix(like.family, like.value & ~like.family.host_mask(length), length)
    free = next_free(pair.design.address_space, used, length, near)
    if free is None:
        return ()
    first, second = (Interface(free.family, free.network + place, length) for place in (1, 2))
    left, right = pair.tunnel.left.changed(inner_address=first), pair.tunnel.right.changed(inner_address=second)
    given = pair.set_ends(f"Take {free} inside", left, right)
    space = pair.design.settings_with_space
    if space is None:
        return (given,)
    taken = next(one for one in space.supernets if one.contains(free))
    only = space.changed(supernets=(taken,))
    title = f"Take {taken} as supernet, and {free} of it inside"
    return (Remedy(title=title, operations=(put(only), *given.operations)),)


def path_mtu(pair: TunnelEnds) -> int:
    """Return the largest packet, in octets, that both uplinks carry."""
    return min(uplink.mtu if uplink and uplink.mtu else USUAL_MTU for uplink in (pair.uplink(side) for side in SIDES))


def tunnel_overhead(pair: TunnelEnds) -> Overhead | None:
    """Return what ESP leaves of the path; None while no cipher is settled."""
    if not pair.technology or not pair.technology.is_ipsec:
        return None
    outcome = settled(pair, CHILD[pair.technology])
    if not isinstance(outcome, Agreement):
        return None
    chosen = {transform.type: transform for transform in outcome.chosen}
    nat = any((uplink := pair.uplink(side)) and uplink.behind_nat for side in SIDES)
    return _overhead(chosen[TransformType.ENCR], chosen.get(TransformType.INTEG), _outer_family(pair), nat, path_mtu(pair))


@lru_cache(maxsize=1024)
def _overhead(cipher: Transform, integrity: Transform | None, outer: Family, nat_t: bool, mtu: int) -> Overhead | None:
    try:
        return overhead(cipher, integrity, outer, nat_t, mtu)
    except OverheadError:
        return None


def _outer_family(pair: TunnelEnds) -> Family:
    """Return the family that the ends call each other in, as far as addresses tell."""
    if any(":" in (pair.end(side).peer_address or "") for side in SIDES):
        return Family.V6
    families = [uplink.address.family for side in SIDES if (uplink := pair.uplink(side)) and uplink.address]
    return families[0] if families else Family.V4


def _fits(pair: TunnelEnds, field: str, most: int, code: Code, what: str) -> Judgement:
    """Compare what both ends are set to with the most that fits."""
    value = str(most)
    large = [side for side in SIDES if (getattr(pair.end(side), field) or 0) > most]
    if large:
        names = " and ".join(f"{pair.names[side]} has {getattr(pair.end(side), field)}" for side in large)
        remedies = tuple(pair.set_named(side, f"Give {pair.names[side]} {most}", field, most) for side in large)
        if len(large) > 1:
            left, right = (pair.end(side).with_valid({field: most}) for side in SIDES)
            remedies = (pair.set_ends(f"Give both ends {most}", left, right),)
        reason = f"{names}, but only {what} of up to {most} octets fit: larger ones stall"
        return Judgement(Verdict.NARROWED, reason, code, remedies, value)
    if any(getattr(pair.end(side), field) for side in SIDES):
        return Judgement(Verdict.AGREED, f"{what} of up to {most} octets fit in either direction", value=value)
    return Judgement(Verdict.AGREED, f"not set; {what} of up to {most} octets fit in either direction", value=value)


_UNDECIDED: Final = Judgement(Verdict.AGREED, "follows from the cipher, on which the ends don't agree yet")


def judge_inner_mtu(pair: TunnelEnds) -> Judgement:
    """Compare the inner MTU of both ends with what the path leaves (RFC 4303, RFC 3948)."""
    cost = tunnel_overhead(pair)
    return _fits(pair, "inner_mtu", cost.inner_mtu, Code.MTU_TOO_BIG, "packets") if cost else _UNDECIDED


def judge_tcp_mss(pair: TunnelEnds) -> Judgement:
    """Compare the TCP MSS of both ends with what the path leaves to the family of the inner networks."""
    cost = tunnel_overhead(pair)
    if cost is None:
        return _UNDECIDED
    families = {one.family for side in SIDES for one in pair.end(side).local_networks}
    most = cost.tcp_mss_v6 if families == {Family.V6} else cost.tcp_mss_v4
    return _fits(pair, "tcp_mss", most, Code.MTU_MSS_TOO_BIG, "segments")


def judge_compression(pair: TunnelEnds) -> Judgement:
    """Compare compression: IPsec negotiates it (RFC 7296 section 2.22), TLS takes it for agreed."""
    left, right = (bool(pair.end(side).compression) for side in SIDES)

    if left == right:
        return Judgement(Verdict.AGREED, "on at both ends" if left else "off at both ends")
    at = pair.names[Side.LEFT if left else Side.RIGHT]
    if not pair.tunnel.left.technology.is_ipsec:
        remedy = pair.set_same("Switch compression off at both ends", compression=False)
        return Judgement(
            Verdict.DIFFERS,
            f"compression is on at {at} alone, and the other end reads garbage",
            Code.TLS_COMPRESSION_DIFFERS,
            (remedy,),
        )
    return Judgement(Verdict.AGREED, f"on at {at} alone, so packets go as they are")
