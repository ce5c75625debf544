"""Findings about algorithms: what each end offers, judged by the policy in force and by the exceptions from it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Container, Iterator
from datetime import timedelta
from functools import partial
from itertools import chain
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Place, Remark, Remedies, remark
from pontifex.core.ipsec import Agreement, Level, Phase, Proposal, Protocol, Transform, TransformType, negotiate
from pontifex.core.ipsec.policy import AlgorithmException, covering
from pontifex.core.kinds import SIDES, ObjectType, Side, Technology, TunnelEnd
from pontifex.core.matching import Remedy, TunnelEnds
from pontifex.core.matching.proposals import CHILD, IKE, lists_of, settled
from pontifex.core.reasons import Reason, named, tunnels

_LISTS: Final[dict[Technology, tuple[tuple[Protocol | Phase, str, str], ...]]] = {
    Technology.IPSEC_IKEV2: ((Protocol.IKE, "ike_proposals", "IKE"), (Protocol.ESP, "child_proposals", "Child SA")),
    Technology.IPSEC_IKEV1: ((Phase.PHASE_1, "ike_proposals", "IKE"), (Phase.PHASE_2, "child_proposals", "Child SA")),
}
_LIFETIMES: Final = (("ike_lifetime_s", "longest_ike_lifetime_s"), ("child_lifetime_s", "longest_child_lifetime_s"))
_CODE_OF_LEVEL: Final = {Level.RETIRED: Code.CRYPTO_MUST_NOT, Level.WEAK: Code.CRYPTO_WEAK}


def in_tunnel(ends: TunnelEnds, code: Code, where: tuple[Place, ...], reason: Reason, remedies: Remedies | None = None) -> Remark:
    """Return a remark about a tunnel."""
    return remark(code, where, tunnels.InTunnel(named(ends.tunnel), reason), remedies, ends.names)


def end_place(ends: TunnelEnds, side: Side, field: str) -> Place:
    """Return the place of a field of an end."""
    return Place(type=ObjectType.TUNNEL, id=ends.tunnel.id, name=ends.tunnel.name, field=f"{side.value}/{field}")


def algorithm_findings(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield what the policy in force says of both ends' proposals and lifetimes; a remedy drops what it refuses."""
    policy = ends.policy
    for side in SIDES:
        end = ends.end(side)
        for protocol, field, title in _LISTS.get(end.technology, ()):
            if policy.forward_secrecy or not all(map(policy.accepts_whole, getattr(end, field))):
                yield from _list_findings(ends, side, protocol, field, title)
        if end.technology.is_ipsec:
            yield from _lifetime_findings(ends, side)


def _list_findings(ends: TunnelEnds, side: Side, protocol: Protocol | Phase, field: str, title: str) -> Iterator[Remark]:
    proposals: tuple[Proposal, ...] = getattr(ends.end(side), field)
    refused: dict[Code, dict[Transform, str]] = defaultdict(dict)  # by code; a dictionary keeps the order
    policy, exceptions = ends.policy, ends.tunnel.exceptions
    doubtful = [proposal.transforms for proposal in proposals if not policy.accepts_whole(proposal)]
    for transform in dict.fromkeys(chain.from_iterable(doubtful)):
        objection = policy.objection(transform)
        if objection is None:
            continue
        exception = covering(exceptions, transform)
        if exception is None or exception.until < ends.today:
            code = Code.CRYPTO_EXCEPTION_EXPIRED if exception else _CODE_OF_LEVEL.get(transform.level, Code.CRYPTO_REFUSED)
            refused[code][transform] = objection
    place = (end_place(ends, side, field),)
    for told, found in refused.items():
        listed = tuple(tunnels.RefusedTransform(transform.label, objection) for transform, objection in found.items())
        kept = _kept(proposals, protocol, found)
        dropped = partial(_dropped, ends, side, field, kept) if kept and _still_meet(ends, side, field, kept) else None
        yield in_tunnel(ends, told, place, tunnels.ProposalsHold(side, title, listed), dropped)
    if policy.forward_secrecy and protocol is Protocol.ESP:
        lacking = [number for number, candidate in enumerate(proposals, start=1) if TransformType.KE not in candidate.by_type]
        if lacking:
            yield in_tunnel(ends, Code.CRYPTO_REFUSED, place, tunnels.NoGroup(side, lacking[0], named(policy)))


def _kept(proposals: tuple[Proposal, ...], protocol: Protocol | Phase, refused: Container[Transform]) -> tuple[Proposal, ...]:
    """Return what remains of proposals without some transforms, as far as it is valid."""
    left = (proposal.changed(transforms=tuple(t for t in proposal.transforms if t not in refused)) for proposal in proposals)
    return tuple(proposal for proposal in left if not proposal.faults(protocol))


def _still_meet(ends: TunnelEnds, side: Side, field: str, kept: tuple[Proposal, ...]) -> bool:
    """Whether both ends, if they meet, still do when one has fewer proposals."""
    kind = (IKE if field == "ike_proposals" else CHILD).get(ends.technology) if ends.technology else None
    if kind is None or not isinstance(settled(ends, kind), Agreement):
        return True
    lists = {**lists_of(ends, kind), side: kept}
    return isinstance(negotiate(lists[ends.caller], lists[ends.caller.other], kind.leave_out), Agreement)


def _dropped(ends: TunnelEnds, side: Side, field: str, kept: tuple[Proposal, ...]) -> Iterator[Remedy]:
    yield ends.set_named(side, "Drop them; the rest of the list remains", field, kept)


def _lifetime_findings(ends: TunnelEnds, side: Side) -> Iterator[Remark]:
    policy = ends.policy
    for field, limit in _LIFETIMES:
        lifetime, longest = getattr(ends.end(side), field), getattr(policy, limit)
        if lifetime and lifetime > longest:
            title = type(ends.end(side)).model_fields[field].title or field
            why = tunnels.LifetimeTooLong(side, title, lifetime, named(policy), longest)
            shortened = partial(_shortened, ends, field, longest)
            yield in_tunnel(ends, Code.CRYPTO_LIFETIME, (end_place(ends, side, field),), why, shortened)


def _shortened(ends: TunnelEnds, field: str, longest: int) -> Iterator[Remedy]:
    left, right = (_no_longer(ends.end(at), field, longest) for at in SIDES)
    yield ends.set_ends(f"Shorten it to {longest} s at both ends", left, right)


def exception_findings(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield what is accepted by exception and for how long; an exception that covers nothing any more says nothing."""
    if not ends.tunnel.exceptions:
        return
    horizon = ends.today + timedelta(days=ends.design.planning_horizon_days)
    for exception in ends.tunnel.exceptions:
        if exception.until >= ends.today and _is_used(ends, exception):
            code = Code.CRYPTO_EXCEPTION_ENDS if exception.until <= horizon else Code.CRYPTO_EXCEPTED
            place = Place(type=ObjectType.TUNNEL, id=ends.tunnel.id, name=ends.tunnel.name, field="exceptions")
            yield in_tunnel(ends, code, (place,), tunnels.Excepted(exception))


def _is_used(ends: TunnelEnds, exception: AlgorithmException) -> bool:
    code = (exception.type, exception.id)
    lists = [proposals for side in SIDES for proposals in (ends.end(side).ike_proposals, ends.end(side).child_proposals)]
    return any((t.type, t.id) == code for proposal in chain.from_iterable(lists) for t in proposal.transforms)


def _no_longer(end: TunnelEnd, field: str, longest: int) -> TunnelEnd:
    """Return an end whose lifetime, where it is known, is at most the longest that is allowed."""
    known: int | None = getattr(end, field)
    return end.with_valid({field: min(known, longest)}) if known else end
