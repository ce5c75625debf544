"""Reach: somebody calls, and the call arrives (roles, address kinds, NAT and peer addresses)."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Family
from pontifex.core.catalogue import Code
from pontifex.core.kinds import ANY_PEER, SIDES, AddressKind, Role, Side, Tunnel, Uplink
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Put, put
from pontifex.core.reasons import Reason, named, reach, unknown


def judge_role(ends: TunnelEnds) -> Judgement:
    """Compare who calls with who can be called."""
    roles = {side: ends.end(side).role for side in SIDES}
    callable_ = {side: ends.can_be_called(side) for side in SIDES}
    open_ = tuple(side for side in SIDES if roles[side] is None or callable_[side] is None)
    if open_:
        return Judgement(Verdict.UNKNOWN, unknown.RoleNotKnown(open_))
    apart = _families_apart(ends)
    if apart:
        return Judgement(Verdict.DIFFERS, apart, Code.REACH_FAMILIES_DIFFER, _same_family)
    if _depends_on_transport(ends):
        return Judgement(Verdict.UNKNOWN, unknown.TransportNotKnown())
    blocked = [side for side in SIDES if (link := ends.uplink(side)) and link.only_tcp_out and not ends.over_tcp]
    if blocked:
        return Judgement(Verdict.DIFFERS, reach.OnlyTcpOut(blocked[0]), Code.REACH_OUTBOUND_BLOCKED)
    callers = ends.callers or tuple(side for side in SIDES if ends.is_to_call(side))[:1]
    if callers:
        return _called(ends, callers)
    able = [side for side in SIDES if callable_[side.other]]  # who would get through, if only it called
    if not able:
        return Judgement(Verdict.DIFFERS, reach.NeitherCanBeCalled(), Code.REACH_NOBODY_CAN_CALL, _opened)
    caller = next((side for side in SIDES if (role := roles[side]) and role.calls), None)
    if caller is None:
        return Judgement(Verdict.DIFFERS, reach.BothWait(), Code.REACH_BOTH_WAIT, lambda ends: _let_either_call(ends, able))
    reason = reach.CannotBeCalled(caller, _why_not(ends, caller.other))
    return Judgement(Verdict.DIFFERS, reason, Code.REACH_NOBODY_CAN_CALL, lambda ends: _opened_or_turned(ends, able))


def _opened_or_turned(ends: TunnelEnds, able: list[Side]) -> list[Remedy]:
    """Return the ways to let the call in, or to have another made; those that leave the roles as they are come first."""
    ways = [*_opened(ends), *_let_either_call(ends, able)]
    ways.sort(key=lambda remedy: any(isinstance(put_.object, Tunnel) for put_ in remedy.operations if isinstance(put_, Put)))
    return ways


def _families_apart(ends: TunnelEnds) -> reach.FamiliesDiffer | None:
    """Return that the outside addresses are of two families, between which no packet passes; None where they aren't."""
    families = ends.uplink_families
    if len(set(families.values())) < len(Family):
        return None
    return reach.FamiliesDiffer(tuple(reach.HasFamily(side, family) for side, family in families.items()))


def _same_family(ends: TunnelEnds) -> Iterator[Remedy]:
    """Yield the changes to another uplink of a gateway whose address is of the far end's family."""
    for side in SIDES:
        far = ends.uplink(side.other)
        for uplink in ends.design.uplinks:
            if uplink.gateway_id != ends.end(side).gateway_id or not uplink.address or not far or not far.address:
                continue
            if uplink.address.family is far.address.family:
                yield ends.set_field(side, f"Let {ends.names[side]} use {uplink.name}", uplink_id=uplink.id)


def _depends_on_transport(ends: TunnelEnds) -> bool:
    """Whether a call arrives by one transport alone, and it isn't known yet which one carries the tunnel."""
    links = [link for side in SIDES if (link := ends.uplink(side))]
    return ends.transport_unknown and any(link.only_tcp_out or link.callable(True) != link.callable(False) for link in links)


def _opened(ends: TunnelEnds) -> Iterator[Remedy]:
    """Yield the ways to let a call in: at each end whose address is known and no carrier's, called by the other."""
    what = "TCP 443" if ends.over_tcp else "UDP"
    for side in SIDES:
        uplink = ends.uplink(side.other)
        if uplink is None or uplink.callable(ends.over_tcp) or uplink.address_kind is AddressKind.CARRIER_NAT:
            continue
        if not _outside_names(uplink):
            continue
        opened = uplink.with_valid({"inbound_tcp" if ends.over_tcp else "inbound_ike": True})
        peers = _right_peers(ends, opened)
        if not peers:
            continue  # its address changes, and it has no name that would follow
        end = ends.end(side)
        role = end.role if end.role and end.role.calls else Role.CALL
        peer = end.peer_address if end.peer_address in peers else peers[0]
        called = ends.tunnel.with_end(side, role=role, peer_address=peer)
        operations = (put(opened), *((put(called),) if called != ends.tunnel else ()))
        yield Remedy(title=f"Let {what} from outside arrive at {ends.names[side.other]}", operations=operations)


def _called(ends: TunnelEnds, callers: tuple[Side, ...]) -> Judgement:
    """Say who calls; where only traffic makes the one caller call, what starts at the other side finds no tunnel."""
    if len(callers) == 2:
        return Judgement(
            Verdict.AGREED,
            reach.BothCall(),
        )
    caller = callers[0]
    if ends.end(caller).role is Role.ON_TRAFFIC:
        return Judgement(
            Verdict.NARROWED,
            reach.OnlyOnTraffic(caller),
            Code.REACH_ONLY_ON_TRAFFIC,
            lambda ends: [ends.set_field(caller, f"Let {ends.names[caller]} call at once", role=Role.CALL)],
        )
    return Judgement(Verdict.AGREED, reach.Calls(caller))


def _let_either_call(ends: TunnelEnds, able: list[Side]) -> Iterator[Remedy]:
    """Yield the remedies that make an end call which would get through."""
    return (_let_call(ends, side) for side in _best_callers(ends, able))


def _let_call(ends: TunnelEnds, side: Side) -> Remedy:
    """Return the remedy that makes an end call; one that has no address to call is given the other's."""
    far = ends.uplink(side.other)
    addresses = _right_peers(ends, far) if far and ends.end(side).peer_address in (None, ANY_PEER) else []
    if not addresses:
        return ends.set_field(side, f"Let {ends.names[side]} call", role=Role.CALL)
    title = f"Let {ends.names[side]} call {addresses[0]}"
    return ends.set_field(side, title, role=Role.CALL, peer_address=addresses[0])


def _best_callers(ends: TunnelEnds, able: list[Side]) -> list[Side]:
    """Put first the end that knows whom to call and can't be called itself."""

    def knows_no_peer(side: Side) -> bool:
        return ends.end(side).peer_address in (None, ANY_PEER)

    return sorted(able, key=lambda side: (knows_no_peer(side), bool(ends.can_be_called(side))))


def _why_not(ends: TunnelEnds, side: Side) -> reach.BehindCarrierNat | reach.NothingArrives:
    uplink = ends.uplink(side)
    if uplink and uplink.address_kind is AddressKind.CARRIER_NAT:
        return reach.BehindCarrierNat()
    return reach.NothingArrives("TCP" if ends.over_tcp else "UDP")


def judge_peer_address(ends: TunnelEnds, side: Side) -> Judgement:
    """Compare an end's peer address with what the other end's uplink really has."""
    far = side.other
    peer, uplink = ends.end(side).peer_address, ends.uplink(far)
    if peer is None or uplink is None:
        return Judgement(Verdict.UNKNOWN, unknown.PeerNotKnown(side))
    verdict, reason, code = _judged(ends, side, peer, uplink)
    return Judgement(verdict, reason, code, (lambda ends: _given_peers(ends, side, uplink)) if code else None)


def _given_peers(ends: TunnelEnds, side: Side, uplink: Uplink) -> Iterator[Remedy]:
    for text in _right_peers(ends, uplink):
        yield ends.set_field(side, f"Give {ends.names[side]} {text} as its peer", peer_address=text)


def _judged(ends: TunnelEnds, side: Side, peer: str, uplink: Uplink) -> tuple[Verdict, Reason, Code | None]:
    """Return verdict, reason and code of a finding for an end's peer address, `uplink` being the far end's."""
    if peer == ANY_PEER:
        if ends.is_to_call(side) and not ends.calls(side.other):
            return Verdict.DIFFERS, reach.NoAddressToCall(side), Code.REACH_NO_ADDRESS
        return Verdict.AGREED, reach.AcceptsAnyCaller(side), None
    right = _outside_names(uplink)
    if uplink.address_kind is AddressKind.CARRIER_NAT or not (right or ends.can_be_called(side.other)):
        why = _why_not(ends, side.other)
        return Verdict.DIFFERS, reach.AddressOfUncallable(side, why), Code.REACH_ADDRESS_OF_UNCALLABLE
    changes = uplink.address_kind is AddressKind.CHANGING_PUBLIC and peer != uplink.dns_name
    if changes and (uplink.address is None or peer in right):
        return Verdict.DIFFERS_LATER, reach.AddressChanges(side.other, peer), Code.REACH_ADDRESS_CHANGES
    if peer in right:
        return Verdict.AGREED, reach.IsUplinkOf(peer, side.other, named(uplink)), None
    if not right:
        return Verdict.UNKNOWN, unknown.UplinkAddressNotKnown(side.other), None
    return Verdict.DIFFERS, reach.IsNotAddressOf(peer, side.other), Code.REACH_WRONG_ADDRESS


def _outside_names(uplink: Uplink) -> list[str]:
    """Return the address and the name that the outside sees, as far as they are known."""
    address, name = uplink.address, uplink.dns_name
    return ([str(address)] if address else []) + ([name] if name else [])


def _right_peers(ends: TunnelEnds, uplink: Uplink) -> list[str]:
    """Return what a peer of this uplink should be given, the lasting choice first.

    An end that can't be called is known by its outside address as well, where it has one that lasts.
    """
    lasting = uplink.address_kind not in (AddressKind.CHANGING_PUBLIC, AddressKind.CARRIER_NAT)
    fixed = [str(uplink.address)] if uplink.address and lasting else []
    named = [uplink.dns_name] if uplink.dns_name and uplink.address_kind is not AddressKind.CARRIER_NAT else []
    return fixed + named + ([] if uplink.callable(ends.over_tcp) else [ANY_PEER])


def uplink_text(ends: TunnelEnds, side: Side) -> str | None:
    """Write an uplink as the other end needs it; None while it isn't known."""
    uplink = ends.uplink(side)
    if uplink is None:
        return None
    text = str(uplink.address or uplink.dns_name or uplink.name)
    return text if ends.can_be_called(side) else f"{text}: can't be called"
