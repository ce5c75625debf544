"""Reach: somebody calls, and the call arrives (roles, address kinds, NAT and peer addresses)."""

from __future__ import annotations

from collections.abc import Iterator

from pontifex.core.addressing import Family
from pontifex.core.catalogue import Code
from pontifex.core.kinds import ANY_PEER, SIDES, AddressKind, Role, Side, Tunnel, Uplink
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Put, put

_ROLE_FIELDS = ("role", "role")


def judge_role(pair: TunnelEnds) -> Judgement:
    """Compare who calls with who can be called."""
    roles = {side: pair.end(side).role for side in SIDES}
    callable_ = {side: pair.can_be_called(side) for side in SIDES}
    unknown = [pair.names[side] for side in SIDES if roles[side] is None or callable_[side] is None]
    if unknown:
        return Judgement(Verdict.UNKNOWN, f"the role or the uplink of {' and '.join(unknown)} is not known yet")
    apart = _families_apart(pair)
    if apart:
        return Judgement(Verdict.DIFFERS, apart, Code.REACH_FAMILIES_DIFFER, tuple(_same_family(pair)))
    if _depends_on_transport(pair):
        return Judgement(Verdict.UNKNOWN, "whether UDP or TCP carries the tunnel is not known yet, and only one of them passes")
    blocked = [side for side in SIDES if (link := pair.uplink(side)) and link.only_tcp_out and not pair.over_tcp]
    if blocked:
        reason = f"nothing but TCP 443 gets out of {pair.names[blocked[0]]}, and this tunnel needs UDP"
        return Judgement(Verdict.DIFFERS, reason, Code.REACH_OUTBOUND_BLOCKED)
    callers = [side for side in SIDES if pair.calls(side)] or [side for side in SIDES if pair.is_to_call(side)][:1]
    if callers:
        return _called(pair, callers)
    able = [side for side in SIDES if callable_[side.other]]  # who would get through, if only it called
    remedies = tuple(_let_call(pair, side) for side in _best_callers(pair, able))
    if not able:
        return Judgement(
            Verdict.DIFFERS, "neither end can be called from outside", Code.REACH_NOBODY_CAN_CALL, tuple(_opened(pair))
        )
    caller = next((side for side in SIDES if (role := roles[side]) and role.calls), None)
    if caller is None:
        return Judgement(Verdict.DIFFERS, "both ends wait, so nobody calls", Code.REACH_BOTH_WAIT, remedies)
    waiting = caller.other
    reason = f"{pair.names[caller]} calls, but {pair.names[waiting]} can't be called ({_why_not(pair, waiting)})"
    ways = [*_opened(pair), *remedies]  # what leaves the roles as they are comes first
    ways.sort(key=lambda one: any(isinstance(put_.object, Tunnel) for put_ in one.operations if isinstance(put_, Put)))
    return Judgement(Verdict.DIFFERS, reason, Code.REACH_NOBODY_CAN_CALL, tuple(ways))


def _families_apart(pair: TunnelEnds) -> str:
    """Say that the outside addresses are of two families, between which no packet passes; empty where they aren't."""
    families = {side: uplink.address.family for side in SIDES if (uplink := pair.uplink(side)) and uplink.address}
    if len(set(families.values())) < len(Family):
        return ""
    says = " and ".join(f"{pair.names[side]} has {family.label}" for side, family in families.items())
    return f"{says} outside, and nothing passes from one to the other"


def _same_family(pair: TunnelEnds) -> Iterator[Remedy]:
    """Yield the changes to another uplink of a gateway whose address is of the far end's family."""
    for side in SIDES:
        far = pair.uplink(side.other)
        for uplink in pair.design.uplinks:
            if uplink.gateway_id != pair.end(side).gateway_id or not uplink.address or not far or not far.address:
                continue
            if uplink.address.family is far.address.family:
                yield pair.set_field(side, f"Let {pair.names[side]} use {uplink.name}", uplink_id=uplink.id)


def _depends_on_transport(pair: TunnelEnds) -> bool:
    """Whether a call arrives by one transport alone, and it isn't known yet which one carries the tunnel."""
    links = [link for side in SIDES if (link := pair.uplink(side))]
    return pair.transport_unknown and any(link.only_tcp_out or link.callable(True) != link.callable(False) for link in links)


def _opened(pair: TunnelEnds) -> Iterator[Remedy]:
    """Yield the ways to let a call in: at each end whose address is known and no carrier's, called by the other."""
    what = "TCP 443" if pair.over_tcp else "UDP"
    for side in SIDES:
        uplink = pair.uplink(side.other)
        if uplink is None or uplink.callable(pair.over_tcp) or uplink.address_kind is AddressKind.CARRIER_NAT:
            continue
        if not _outside_names(uplink):
            continue
        opened = uplink.with_valid({"inbound_tcp" if pair.over_tcp else "inbound_ike": True})
        peers = _right_peers(pair, opened)
        if not peers:
            continue  # its address changes, and it has no name that would follow
        end = pair.end(side)
        role = end.role if end.role and end.role.calls else Role.CALL
        peer = end.peer_address if end.peer_address in peers else peers[0]
        called = pair.tunnel.with_end(side, role=role, peer_address=peer)
        operations = (put(opened), *((put(called),) if called != pair.tunnel else ()))
        yield Remedy(title=f"Let {what} from outside arrive at {pair.names[side.other]}", operations=operations)


def _called(pair: TunnelEnds, callers: list[Side]) -> Judgement:
    """Say who calls; where only traffic makes the one caller call, what starts at the other side finds no tunnel."""
    if len(callers) == 2:
        return Judgement(
            Verdict.AGREED,
            "both ends call; if they do so at once, one of the two SAs is closed again (RFC 7296 section 2.8)",
        )
    caller = callers[0]
    name, far = pair.names[caller], pair.names[caller.other]
    if pair.end(caller).role is Role.ON_TRAFFIC:
        reason = f"only traffic from {name} brings the tunnel up; what starts at {far} finds none until then"
        remedy = pair.set_field(caller, f"Let {name} call at once", role=Role.CALL)
        return Judgement(Verdict.NARROWED, reason, Code.REACH_ONLY_ON_TRAFFIC, (remedy,))
    return Judgement(Verdict.AGREED, f"{name} calls {far}")


def _let_call(pair: TunnelEnds, side: Side) -> Remedy:
    """Return the remedy that makes an end call; one that has no address to call is given the other's."""
    far = pair.uplink(side.other)
    addresses = _right_peers(pair, far) if far and pair.end(side).peer_address in (None, ANY_PEER) else []
    if not addresses:
        return pair.set_field(side, f"Let {pair.names[side]} call", role=Role.CALL)
    title = f"Let {pair.names[side]} call {addresses[0]}"
    return pair.set_field(side, title, role=Role.CALL, peer_address=addresses[0])


def _best_callers(pair: TunnelEnds, able: list[Side]) -> list[Side]:
    """Put first the end that knows whom to call and can't be called itself."""

    def knows_no_peer(side: Side) -> bool:
        return pair.end(side).peer_address in (None, ANY_PEER)

    return sorted(able, key=lambda side: (knows_no_peer(side), bool(pair.can_be_called(side))))


def _why_not(pair: TunnelEnds, side: Side) -> str:
    uplink = pair.uplink(side)
    if uplink and uplink.address_kind is AddressKind.CARRIER_NAT:
        return "it is behind its carrier's NAT"
    return f"no {'TCP' if pair.over_tcp else 'UDP'} arrives from outside"


def judge_peer_address(pair: TunnelEnds, side: Side) -> Judgement:
    """Compare an end's peer address with what the other end's uplink really has."""
    far = side.other
    peer, uplink = pair.end(side).peer_address, pair.uplink(far)
    code: Code | None
    verdict, reason, code = Verdict.UNKNOWN, "not known yet", None
    remedies: tuple[Remedy, ...] = ()
    if peer is not None and uplink is not None:
        verdict, reason, code = _judged(pair, side, peer, uplink)
    if code and uplink:
        remedies = tuple(
            pair.set_field(side, f"Give {pair.names[side]} {text} as its peer", peer_address=text)
            for text in _right_peers(pair, uplink)
        )
    return Judgement(verdict, reason, code=code, remedies=remedies)


def _judged(pair: TunnelEnds, side: Side, peer: str, uplink: Uplink) -> tuple[Verdict, str, Code | None]:
    """Return verdict, reason and code of a finding for an end's peer address, `uplink` being the far end's."""
    name, far = pair.names[side], pair.names[side.other]
    if peer == ANY_PEER:
        if pair.is_to_call(side) and not pair.calls(side.other):
            return Verdict.DIFFERS, f"{name} is to call, but has no address to call", Code.REACH_NO_ADDRESS
        return Verdict.AGREED, f"{name} accepts a call from any address", None
    right = _outside_names(uplink)
    if uplink.address_kind is AddressKind.CARRIER_NAT or not (right or pair.can_be_called(side.other)):
        why = _why_not(pair, side.other)
        return (
            Verdict.DIFFERS,
            f"{name} has an address for {far}, which has none of its own ({why})",
            Code.REACH_ADDRESS_OF_UNCALLABLE,
        )
    changes = uplink.address_kind is AddressKind.CHANGING_PUBLIC and peer != uplink.dns_name
    if changes and (uplink.address is None or peer in right):
        return Verdict.DIFFERS_LATER, f"{far}'s address changes; {peer} is right only until then", Code.REACH_ADDRESS_CHANGES
    if peer in right:
        return Verdict.AGREED, f"{peer} is {far}'s uplink {uplink.name}", None
    if not right:
        return Verdict.UNKNOWN, f"the address of {far}'s uplink is not known yet", None
    return Verdict.DIFFERS, f"{peer} is not {far}'s address", Code.REACH_WRONG_ADDRESS


def _outside_names(uplink: Uplink) -> list[str]:
    """Return the address and the name that the outside sees, as far as they are known."""
    return ([str(uplink.address)] if uplink.address else []) + ([uplink.dns_name] if uplink.dns_name else [])


def _right_peers(pair: TunnelEnds, uplink: Uplink) -> list[str]:
    """Return what a peer of this uplink should be given, the lasting choice first.

    An end that can't be called is known by its outside address as well, where it has one that lasts.
    """
    lasting = uplink.address_kind not in (AddressKind.CHANGING_PUBLIC, AddressKind.CARRIER_NAT)
    fixed = [str(uplink.address)] if uplink.address and lasting else []
    named = [uplink.dns_name] if uplink.dns_name and uplink.address_kind is not AddressKind.CARRIER_NAT else []
    return fixed + named + ([] if uplink.callable(pair.over_tcp) else [ANY_PEER])


def uplink_text(pair: TunnelEnds, side: Side) -> str:
    """Write an uplink as the other end needs it."""
    uplink = pair.uplink(side)
    if uplink is None:
        return "—"
    text = str(uplink.address or uplink.dns_name or uplink.name)
    return text if pair.can_be_called(side) else f"{text}: can't be called"
