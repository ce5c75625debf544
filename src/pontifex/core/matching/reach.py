"""Reach: somebody calls, and the call arrives (roles, address kinds, NAT and peer addresses)."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from pontifex.core.matching.pair import Pair, mirrored
from pontifex.core.matching.row import Relation, Remedy, Row, Stage, Verdict
from pontifex.core.model import ANY_PEER, SIDES, AddressKind, Role, Side, Uplink

_RowOf = Callable[..., Row]
_ROLE_FIELDS = ("role", "role")


def role_row(pair: Pair) -> Row:
    """Compare who calls with who can be called."""
    roles = {side: pair.end(side).role for side in SIDES}
    callable_ = {side: pair.can_be_called(side) for side in SIDES}
    row = partial(pair.row, "role", "Who calls", Stage.REACH, Relation.COMPLEMENTARY, _ROLE_FIELDS)
    unknown = [pair.names[side] for side in SIDES if roles[side] is None or callable_[side] is None]
    if unknown:
        return row(Verdict.UNKNOWN, f"the role or the uplink of {' and '.join(unknown)} is not known yet")
    blocked = [side for side in SIDES if (link := pair.uplink(side)) and link.only_tcp_out and not pair.over_tcp]
    if blocked:
        reason = f"nothing but TCP 443 gets out of {pair.names[blocked[0]]}, and this tunnel needs UDP"
        return row(Verdict.DIFFERS, reason, "reach.outbound-blocked")
    callers = [side for side in SIDES if pair.calls(side)]
    if callers:
        return _called(pair, callers, row)
    able = [side for side in SIDES if callable_[side.other]]  # who would get through, if only it called
    remedies = tuple(_let_call(pair, side) for side in _best_callers(pair, able))
    if not able:
        return row(Verdict.DIFFERS, "neither end can be called from outside", "reach.nobody-can-call")
    caller = next((side for side in SIDES if (role := roles[side]) and role.calls), None)
    if caller is None:
        return row(Verdict.DIFFERS, "both ends wait, so nobody calls", "reach.both-wait", remedies)
    waiting = caller.other
    reason = f"{pair.names[caller]} calls, but {pair.names[waiting]} can't be called ({_why_not(pair, waiting)})"
    return row(Verdict.DIFFERS, reason, "reach.nobody-can-call", remedies)


def _called(pair: Pair, callers: list[Side], row: _RowOf) -> Row:
    """Say who calls; where only traffic makes the one caller call, what starts at the other side finds no tunnel."""
    if len(callers) == 2:
        return row(
            Verdict.AGREED,
            "both ends call; if they do so at once, one of the two SAs is closed again (RFC 7296 section 2.8)",
        )
    caller = callers[0]
    name, far = pair.names[caller], pair.names[caller.other]
    if pair.end(caller).role is Role.ON_TRAFFIC:
        reason = f"only traffic from {name} brings the tunnel up; what starts at {far} finds none until then"
        remedy = pair.set_field(caller, f"Let {name} call at once", role=Role.CALL)
        return row(Verdict.NARROWED, reason, "reach.only-on-traffic", (remedy,))
    return row(Verdict.AGREED, f"{name} calls {far}")


def _let_call(pair: Pair, side: Side) -> Remedy:
    """Return the remedy that makes an end call; one that has no address to call is given the other's."""
    far = pair.uplink(side.other)
    addresses = _right_peers(pair, far) if far and pair.end(side).peer_address in (None, ANY_PEER) else []
    if not addresses:
        return pair.set_field(side, f"Let {pair.names[side]} call", role=Role.CALL)
    title = f"Let {pair.names[side]} call {addresses[0]}"
    return pair.set_field(side, title, role=Role.CALL, peer_address=addresses[0])


def _best_callers(pair: Pair, able: list[Side]) -> list[Side]:
    """Put first the end that knows whom to call and can't be called itself."""

    def knows_no_peer(side: Side) -> bool:
        return pair.end(side).peer_address in (None, ANY_PEER)

    return sorted(able, key=lambda side: (knows_no_peer(side), bool(pair.can_be_called(side))))


def _why_not(pair: Pair, side: Side) -> str:
    uplink = pair.uplink(side)
    if uplink and uplink.address_kind is AddressKind.CARRIER_NAT:
        return "it is behind its carrier's NAT"
    return f"no {'TCP' if pair.over_tcp else 'UDP'} arrives from outside"


def peer_address_row(pair: Pair, side: Side) -> Row:
    """Compare an end's peer address with what the other end's uplink really has."""
    far = side.other
    peer, uplink = pair.end(side).peer_address, pair.uplink(far)
    verdict, reason, code = Verdict.UNKNOWN, "not known yet", ""
    remedies: tuple[Remedy, ...] = ()
    if peer is not None and uplink is not None:
        verdict, reason, code = _judged(pair, side, peer, uplink)
    if code and uplink:
        remedies = tuple(
            pair.set_field(side, f"Give {pair.names[side]} {text} as its peer", peer_address=text)
            for text in _right_peers(pair, uplink)
        )
    return pair.row(
        f"peer-{side.value}",
        f"Where {pair.names[side]} finds {pair.names[far]}",
        Stage.REACH,
        Relation.MIRROR,
        mirrored(side, "peer_address", "uplink_id"),
        verdict,
        reason,
        code=code,
        remedies=remedies,
    )


def _judged(pair: Pair, side: Side, peer: str, uplink: Uplink) -> tuple[Verdict, str, str]:
    """Return verdict, reason and code of a finding for an end's peer address, `uplink` being the far end's."""
    name, far = pair.names[side], pair.names[side.other]
    right = {str(uplink.address), uplink.dns_name}
    if peer == ANY_PEER:
        role, far_role = pair.end(side).role, pair.end(side.other).role
        must_call = bool(role and role.calls) and not (far_role and far_role.calls)
        if must_call and pair.can_be_called(side.other):
            return Verdict.DIFFERS, f"{name} is to call, but has no address to call", "reach.no-address"
        return Verdict.AGREED, f"{name} accepts a call from any address", ""
    if not pair.can_be_called(side.other):
        reason = f"{name} has an address for {far}, which has none of its own ({_why_not(pair, side.other)})"
        return Verdict.DIFFERS, reason, "reach.address-of-uncallable"
    changes = uplink.address_kind is AddressKind.CHANGING_PUBLIC and peer != uplink.dns_name
    if changes and (uplink.address is None or peer in right):
        return Verdict.DIFFERS_LATER, f"{far}'s address changes; {peer} is right only until then", "reach.address-changes"
    if peer in right:
        return Verdict.AGREED, f"{peer} is {far}'s uplink {uplink.name}", ""
    if right == {"None", None}:
        return Verdict.UNKNOWN, f"the address of {far}'s uplink is not known yet", ""
    return Verdict.DIFFERS, f"{peer} is not {far}'s address", "reach.wrong-address"


def _right_peers(pair: Pair, uplink: Uplink) -> list[str]:
    """Return what a peer of this uplink should be given, the lasting choice first."""
    if not uplink.callable(pair.over_tcp):
        return [ANY_PEER]
    fixed = [str(uplink.address)] if uplink.address and uplink.address_kind is not AddressKind.CHANGING_PUBLIC else []
    return fixed + ([uplink.dns_name] if uplink.dns_name else [])


def uplink_text(pair: Pair, side: Side) -> str:
    """Write an uplink as the other end needs it."""
    uplink = pair.uplink(side)
    if uplink is None:
        return "—"
    if not pair.can_be_called(side):
        return f"{uplink.name}: can't be called"
    return str(uplink.address or uplink.dns_name or uplink.name)
