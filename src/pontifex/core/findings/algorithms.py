"""Findings about algorithms: what each end offers, judged by the policy in force and by the exceptions from it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from datetime import timedelta
from itertools import chain
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.ipsec import Agreement, Level, Phase, Proposal, Protocol, Transform, TransformType
from pontifex.core.ipsec.policy import AlgorithmException, covering
from pontifex.core.kinds import SIDES, ObjectType, Side, Technology, TunnelEnd
from pontifex.core.matching import Remedy, TunnelEnds
from pontifex.core.matching.proposals import CHILD, IKE, settled

_LISTS: Final[dict[Technology, tuple[tuple[Protocol | Phase, str, str], ...]]] = {
    Technology.IPSEC_IKEV2: ((Protocol.IKE, "ike_proposals", "IKE"), (Protocol.ESP, "child_proposals", "Child SA")),
    Technology.IPSEC_IKEV1: ((Phase.PHASE_1, "ike_proposals", "IKE"), (Phase.PHASE_2, "child_proposals", "Child SA")),
}
_LIFETIMES: Final = (("ike_lifetime_s", "longest_ike_lifetime_s"), ("child_lifetime_s", "longest_child_lifetime_s"))
_CODE_OF_LEVEL: Final = {Level.RETIRED: Code.CRYPTO_MUST_NOT, Level.WEAK: Code.CRYPTO_WEAK}


def end_place(pair: TunnelEnds, side: Side, field: str) -> Place:
    """Return the place of a field of an end."""
    return Place(type=ObjectType.TUNNEL, id=pair.tunnel.id, name=pair.tunnel.name, field=f"{side.value}/{field}")


def algorithm_findings(pair: TunnelEnds) -> Iterator[Finding]:
    """Yield what the policy in force says of both ends' proposals and lifetimes; a remedy drops what it refuses."""
    for side in SIDES:
        for protocol, field, title in _LISTS.get(pair.end(side).technology, ()):
            yield from _list_findings(pair, side, protocol, field, title)
        if pair.end(side).technology.is_ipsec:
            yield from _lifetime_findings(pair, side)
    yield from _exception_findings(pair)


def _list_findings(pair: TunnelEnds, side: Side, protocol: Protocol | Phase, field: str, title: str) -> Iterator[Finding]:
    proposals: tuple[Proposal, ...] = getattr(pair.end(side), field)
    refused: dict[Code, dict[Transform, str]] = defaultdict(dict)  # by code; a dictionary keeps the order
    policy, exceptions = pair.design.policy, pair.tunnel.exceptions
    doubtful = (proposal.transforms for proposal in proposals if not policy.accepts_whole(proposal))
    for transform in dict.fromkeys(chain.from_iterable(doubtful)):
        objection = policy.objection(transform)
        if objection is None:
            continue
        exception = covering(exceptions, transform)
        if exception is None or exception.until < pair.today:
            code = Code.CRYPTO_EXCEPTION_EXPIRED if exception else _CODE_OF_LEVEL.get(transform.level, Code.CRYPTO_REFUSED)
            refused[code][transform] = objection
    name = pair.names[side]
    place = (end_place(pair, side, field),)
    for told, found in refused.items():
        listed = ", ".join(f"{transform.label} ({why})" for transform, why in found.items())
        why = f"{pair.tunnel.name}: {name}'s {title} proposals hold {listed}"
        yield finding(told, place, why, _without(pair, side, field, protocol, frozenset(found)))
    if policy.forward_secrecy and protocol is Protocol.ESP:
        without = [number for number, one in enumerate(proposals, start=1) if TransformType.KE not in one.by_type]
        if without:
            why = f"{pair.tunnel.name}: {name}'s Child SA proposal {without[0]} has no group, which '{policy.name}' asks for"
            yield finding(Code.CRYPTO_REFUSED, place, why)


def _without(
    pair: TunnelEnds, side: Side, field: str, protocol: Protocol | Phase, refused: frozenset[Transform]
) -> tuple[Remedy, ...]:
    """Return the remedy that drops transforms, if valid proposals remain at that end and still meet the other's."""
    kept = []
    for proposal in getattr(pair.end(side), field):
        left = proposal.changed(transforms=tuple(t for t in proposal.transforms if t not in refused))
        if not left.faults(protocol):
            kept.append(left)
    if not kept:
        return ()
    remedy = pair.set_named(side, "Drop them; the rest of the list remains", field, tuple(kept))
    kind = (IKE if field == "ike_proposals" else CHILD).get(pair.technology) if pair.technology else None
    if kind and isinstance(settled(pair, kind), Agreement) and not isinstance(settled(pair.after(remedy), kind), Agreement):
        return ()  # they are all that both ends have in common
    return (remedy,)


def _lifetime_findings(pair: TunnelEnds, side: Side) -> Iterator[Finding]:
    policy = pair.design.policy
    for field, limit in _LIFETIMES:
        lifetime, longest = getattr(pair.end(side), field), getattr(policy, limit)
        if lifetime and lifetime > longest:
            title = type(pair.end(side)).model_fields[field].title
            why = f"{pair.tunnel.name}: {pair.names[side]}'s {title} is {lifetime}, and '{policy.name}' allows {longest}"
            left, right = (_no_longer(pair.end(one), field, longest) for one in SIDES)
            remedy = pair.set_ends(f"Shorten it to {longest} s at both ends", left, right)
            yield finding(Code.CRYPTO_LIFETIME, (end_place(pair, side, field),), why, (remedy,))


def _exception_findings(pair: TunnelEnds) -> Iterator[Finding]:
    """Yield what is accepted by exception and for how long; an exception that covers nothing any more says nothing."""
    horizon = pair.today + timedelta(days=pair.design.planning_horizon_days)
    for exception in pair.tunnel.exceptions:
        if exception.until >= pair.today and _is_used(pair, exception):
            code = Code.CRYPTO_EXCEPTION_ENDS if exception.until <= horizon else Code.CRYPTO_EXCEPTED
            place = Place(type=ObjectType.TUNNEL, id=pair.tunnel.id, name=pair.tunnel.name, field="exceptions")
            yield finding(code, (place,), f"{pair.tunnel.name}: {exception}")


def _is_used(pair: TunnelEnds, exception: AlgorithmException) -> bool:
    code = (exception.type, exception.id)
    lists = [proposals for side in SIDES for proposals in (pair.end(side).ike_proposals, pair.end(side).child_proposals)]
    return any((t.type, t.id) == code for proposal in chain.from_iterable(lists) for t in proposal.transforms)


def _no_longer(end: TunnelEnd, field: str, longest: int) -> TunnelEnd:
    """Return an end whose lifetime, where it is known, is at most the longest that is allowed."""
    known: int | None = getattr(end, field)
    return end.with_valid({field: min(known, longest)}) if known else end
