"""Init and Child: what the two lists of proposals settle on, for the IKE SA and for the Child SA."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.ipsec import (
    Agreement,
    Habit,
    Phase,
    Proposal,
    Protocol,
    Refusal,
    Transform,
    TransformType,
    negotiate,
)
from pontifex.core.kinds import SIDES, Side, Technology
from pontifex.core.matching.row import Alternative, Judgement, ProposalAlignment, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds

Lists = dict[Side, tuple[Proposal, ...]]


@dataclass(frozen=True, slots=True)
class Negotiated:
    """What differs between the negotiations of a tunnel."""

    key: str
    title: str
    protocol: Protocol | Phase
    field: str
    leave_out: frozenset[TransformType]  # what is not compared
    invalid: Code  # one of the lists breaks the rules
    none_common: Code


_IKE_CODES: Final = (Code.IKE_INVALID_PROPOSAL, Code.IKE_NO_COMMON_PROPOSAL)
_CHILD_CODES: Final = (Code.CHILD_INVALID_PROPOSAL, Code.CHILD_NO_COMMON_PROPOSAL)
_IKE = Negotiated("ike-proposals", "IKE proposals", Protocol.IKE, "ike_proposals", frozenset(), *_IKE_CODES)
# IKE_AUTH carries no key exchange for the Child SA, additional ones included: they matter only from the first rekey on
# (RFC 7296 section 1.2, RFC 9370 section 2.2.4)
_KEY_EXCHANGES = frozenset(type_ for type_ in TransformType if type_ is TransformType.KE or type_.is_additional)
_CHILD = Negotiated("child-proposals", "Child SA proposals", Protocol.ESP, "child_proposals", _KEY_EXCHANGES, *_CHILD_CODES)
# IKEv1 knows neither PRF nor ESN; its second phase compares groups at once (RFC 2409 sections 4 and 5.5)
_PHASE_1 = Negotiated(
    "ike-proposals", "IKE proposals", Phase.PHASE_1, "ike_proposals", frozenset({TransformType.PRF}), *_IKE_CODES
)
_PHASE_2 = Negotiated(
    "child-proposals", "Child SA proposals", Phase.PHASE_2, "child_proposals",
    frozenset({TransformType.ESN}), *_CHILD_CODES,
)  # fmt: skip
IKE: Final = {Technology.IPSEC_IKEV2: _IKE, Technology.IPSEC_IKEV1: _PHASE_1}
CHILD: Final = {Technology.IPSEC_IKEV2: _CHILD, Technology.IPSEC_IKEV1: _PHASE_2}


def judge_ike(pair: TunnelEnds) -> Judgement:
    """Negotiate the IKE SA."""
    return _judge_proposals(pair, IKE[pair.tunnel.left.technology])


def judge_child(pair: TunnelEnds) -> Judgement:
    """Negotiate the Child SA as it comes up."""
    return _judge_proposals(pair, CHILD[pair.tunnel.left.technology])


def lists_of(pair: TunnelEnds, kind: Negotiated) -> Lists:
    """Return the proposals of each side."""
    return {side: getattr(pair.end(side), kind.field) for side in SIDES}


def settled(pair: TunnelEnds, kind: Negotiated) -> Agreement | Refusal | None:
    """Return what the two lists settle on; None where one is not known or invalid."""
    if kind.key not in pair.settled:
        lists = lists_of(pair, kind)
        sound = all(lists.values()) and not _first_fault(pair, kind, lists)
        pair.settled[kind.key] = negotiate(lists[pair.caller], lists[pair.caller.other], kind.leave_out) if sound else None
    return pair.settled[kind.key]


def _judge_proposals(pair: TunnelEnds, kind: Negotiated) -> Judgement:
    """Negotiate one kind of SA as the end that calls would (RFC 7296 section 2.7)."""
    lists = lists_of(pair, kind)
    missing = [pair.names[side] for side in SIDES if not lists[side]]
    if missing:
        return Judgement(Verdict.UNKNOWN, f"the proposals of {' and '.join(missing)} are not known yet")
    invalid = _first_fault(pair, kind, lists)
    if invalid:
        side, fault = invalid
        sound = not any(proposal.faults(kind.protocol) for proposal in lists[side.other])
        mend = (pair.copy_to(side, kind.title, kind.field, kind.field),) if sound else ()
        return Judgement(Verdict.DIFFERS, fault, code=kind.invalid, remedies=mend)
    outcome = settled(pair, kind)
    assert outcome is not None  # both lists are known and sound
    if isinstance(outcome, Agreement):
        same = lists[Side.LEFT] == lists[Side.RIGHT]
        reason = _what_is_taken(pair, kind, outcome) + ("" if same else _depending(pair, kind, lists, outcome))
        return Judgement(Verdict.AGREED if same else Verdict.NEGOTIATED, reason, value=outcome.label)
    reason = f"no proposal is common to both; the nearest pair has no common {_listed(outcome.nearest.unmet)}"
    remedies = meeting_remedies(pair, kind, outcome, pair.caller, kind.leave_out)
    return Judgement(Verdict.DIFFERS, reason, code=kind.none_common, remedies=remedies)


def _listed(types: tuple[TransformType, ...]) -> str:
    return ", ".join(type_.value for type_ in types)


def _what_is_taken(pair: TunnelEnds, kind: Negotiated, outcome: Agreement) -> str:
    """Say what is chosen."""
    caller = pair.caller
    text = f"{pair.names[caller]} offers, {pair.names[caller.other]} takes {outcome.label}"
    if kind.protocol is Protocol.IKE and outcome.extra_round_trip:
        text += ", after a second try: the caller's first guess is another group"
    return text


def _depending(pair: TunnelEnds, kind: Negotiated, lists: Lists, outcome: Agreement) -> str:
    """Say where the choice depends on the responder's habit or on who calls (RFC 7296 section 2.7)."""
    caller, text = pair.caller, ""
    offer, accept = lists[caller], lists[caller.other]
    own_order = negotiate(offer, accept, kind.leave_out, Habit.RESPONDER)
    if isinstance(own_order, Agreement) and own_order.chosen != outcome.chosen:
        text += f"; if it goes by its own order, {own_order.label}"
    turned = negotiate(accept, offer, kind.leave_out)
    if pair.calls(caller.other) and isinstance(turned, Agreement) and turned.chosen != outcome.chosen:
        text += f"; when {pair.names[caller.other]} calls, {turned.label}"
    return text


def _first_fault(pair: TunnelEnds, kind: Negotiated, lists: Lists) -> tuple[Side, str] | None:
    for side in SIDES:
        for number, proposal in enumerate(lists[side], start=1):
            faults = proposal.faults(kind.protocol)
            if faults:
                return side, f"{pair.names[side]}'s proposal {number} is invalid: {', '.join(faults)}"
    return None


def meeting_remedies(
    pair: TunnelEnds,
    kind: Negotiated,
    refusal: Refusal,
    offering: Side,
    leave_out: frozenset[TransformType],
) -> tuple[Remedy, ...]:
    """Return the ways to make two lists meet, of which `offering` is the side whose list was offered.

    The smallest change of the nearest pair, at either end; one end's list for both; the other end's first proposal
    behind one's own.
    """
    lists = lists_of(pair, kind)
    places = {offering: refusal.nearest.offered, offering.other: refusal.nearest.accepted}
    smallest = tuple(
        found
        for side in (Side.RIGHT, Side.LEFT)
        if (found := _smallest_change(pair, kind, lists, refusal.nearest.unmet, places, side, leave_out))
    )
    as_well = tuple(
        pair.set_named(
            side,
            f"Let {pair.names[side]} offer {lists[side.other][0].label} as well",
            kind.field,
            (*lists[side], lists[side.other][0]),
        )
        for side in (Side.RIGHT, Side.LEFT)
        if kind.protocol is not Phase.PHASE_1  # more than one first phase is fine, but some devices keep one only
    )
    return (*smallest, *pair.copies(kind.title, kind.field, kind.field), *as_well)


def _smallest_change(
    pair: TunnelEnds,
    kind: Negotiated,
    lists: Lists,
    unmet: tuple[TransformType, ...],
    places: dict[Side, int],
    side: Side,
    leave_out: frozenset[TransformType],
) -> Remedy | None:
    """Add to one end's proposal of the nearest pair what it lacks; None where that makes no valid proposal.

    `places` are those of the nearest pair in the lists, from 0.
    """
    own, other = lists[side][places[side]], lists[side.other][places[side.other]]
    added: list[Transform] = [held[0] for type_ in unmet if (held := other.by_type.get(type_))]
    if len(added) < len(unmet):
        return None  # the other end leaves a type out: nothing can be added for it
    changed = own.changed(transforms=(*own.transforms, *added))
    proposals = tuple(changed if place == places[side] else one for place, one in enumerate(lists[side]))
    meets = isinstance(negotiate(proposals, lists[side.other], leave_out), Agreement)
    if changed.faults(kind.protocol) or not meets:
        return None
    what = ", ".join(transform.label for transform in added)
    title = f"Let {pair.names[side]} take {what} in proposal {places[side] + 1}"
    return pair.set_named(side, title, kind.field, proposals)


def ladder(pair: TunnelEnds, field: str) -> ProposalAlignment | None:
    """Return both lists as ladders with the rungs that meet; None for a field that holds no proposals."""
    kinds = {kind.field: kind for table in (IKE, CHILD) if (kind := table.get(pair.tunnel.left.technology))}
    kind = kinds.get(field)
    if kind is None or pair.technology is None:
        return None
    outcome = settled(pair, kind)
    left, right = (lists_of(pair, kind)[side] for side in SIDES)
    turned = pair.caller is Side.RIGHT
    chosen = nearest = None
    if isinstance(outcome, Agreement):
        chosen = _rung(outcome.offered, outcome.accepted, turned)
    elif outcome is not None:
        nearest = _rung(outcome.nearest.offered, outcome.nearest.accepted, turned)
    meeting = tuple(
        Alternative(left=at, right=other)
        for at, one in enumerate(left)
        for other, two in enumerate(right)
        if isinstance(negotiate((one,), (two,), kind.leave_out), Agreement)
    )
    unmet = () if outcome is None or isinstance(outcome, Agreement) else outcome.nearest.unmet
    return ProposalAlignment(
        left=tuple(one.label for one in left),
        right=tuple(one.label for one in right),
        meeting=meeting,
        chosen=chosen,
        nearest=nearest,
        unmet=tuple(type_.value for type_ in unmet),
    )


def _rung(offered: int, accepted: int, turned: bool) -> Alternative:
    return Alternative(left=accepted, right=offered) if turned else Alternative(left=offered, right=accepted)
