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
    ProposalFacts,
    Protocol,
    Refusal,
    Transform,
    TransformType,
    negotiate,
)
from pontifex.core.kinds import SIDES, Side, Technology
from pontifex.core.matching.row import Alternative, Judgement, ProposalAlignment, Remedy, RowRemedies, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import init, unknown

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


def judge_ike(ends: TunnelEnds) -> Judgement:
    """Negotiate the IKE SA."""
    return _judge_proposals(ends, IKE[ends.left.technology])


def judge_child(ends: TunnelEnds) -> Judgement:
    """Negotiate the Child SA as it comes up."""
    return _judge_proposals(ends, CHILD[ends.left.technology])


def lists_of(ends: TunnelEnds, kind: Negotiated) -> Lists:
    """Return the proposals of each side."""
    return {side: getattr(ends.end(side), kind.field) for side in SIDES}


def settled(ends: TunnelEnds, kind: Negotiated) -> Agreement | Refusal | None:
    """Return what the two lists settle on; None where one is not known or invalid."""
    if kind.key not in ends.settled:
        lists = lists_of(ends, kind)
        sound = all(lists.values()) and not _first_fault(kind, lists)
        ends.settled[kind.key] = negotiate(lists[ends.caller], lists[ends.caller.other], kind.leave_out) if sound else None
    return ends.settled[kind.key]


def _judge_proposals(ends: TunnelEnds, kind: Negotiated) -> Judgement:
    """Negotiate one kind of SA as the end that calls would (RFC 7296 section 2.7)."""
    lists = lists_of(ends, kind)
    missing = tuple(side for side in SIDES if not lists[side])
    if missing:
        return Judgement(Verdict.UNKNOWN, unknown.ProposalsNotKnown(missing))
    invalid = _first_fault(kind, lists)
    if invalid:
        side = invalid.side
        sound = not any(proposal.faults(kind.protocol) for proposal in lists[side.other])
        return Judgement(Verdict.DIFFERS, invalid, kind.invalid, _copied(kind, side) if sound else None)
    outcome = settled(ends, kind)
    assert outcome is not None  # both lists are known and sound
    if isinstance(outcome, Agreement):
        same = _facts(lists[Side.LEFT]) == _facts(lists[Side.RIGHT])
        by_own_order, turned = (None, None) if same else _depending(ends, kind, lists, outcome)
        second_try = init.AfterSecondTry() if kind.protocol is Protocol.IKE and outcome.extra_round_trip else None
        taken = init.ProposalTaken(ends.caller, outcome.label, second_try, by_own_order, turned)
        return Judgement(Verdict.AGREED if same else Verdict.NEGOTIATED, taken, value=outcome.label)
    return Judgement(
        Verdict.DIFFERS,
        init.NoProposalCommon(outcome.nearest.unmet),
        kind.none_common,
        lambda ends: meeting_remedies(ends, kind, outcome, ends.caller, kind.leave_out),
    )


def _copied(kind: Negotiated, side: Side) -> RowRemedies:
    return lambda ends: [ends.copy_to(side, kind.title, kind.field, kind.field)]


def _facts(proposals: tuple[Proposal, ...]) -> list[ProposalFacts]:
    return [proposal.facts for proposal in proposals]


def _depending(
    ends: TunnelEnds, kind: Negotiated, lists: Lists, outcome: Agreement
) -> tuple[init.ByOwnOrder | None, init.WhenTurned | None]:
    """Return what is taken instead by the responder's own order, and when the other end calls (RFC 7296 section 2.7)."""
    caller = ends.caller
    offer, accept = lists[caller], lists[caller.other]
    own_order = negotiate(offer, accept, kind.leave_out, Habit.RESPONDER)
    other = isinstance(own_order, Agreement) and own_order.chosen != outcome.chosen
    by_own_order = init.ByOwnOrder(own_order.label) if other and isinstance(own_order, Agreement) else None
    if not ends.calls(caller.other):
        return by_own_order, None
    turned = negotiate(accept, offer, kind.leave_out)
    if isinstance(turned, Agreement) and turned.chosen != outcome.chosen:
        return by_own_order, init.WhenTurned(caller.other, turned.label)
    return by_own_order, None


def _first_fault(kind: Negotiated, lists: Lists) -> init.ProposalInvalid | None:
    for side in SIDES:
        for number, proposal in enumerate(lists[side], start=1):
            faults = proposal.faults(kind.protocol)
            if faults:
                return init.ProposalInvalid(side, number, tuple(faults))
    return None


def meeting_remedies(
    ends: TunnelEnds,
    kind: Negotiated,
    refusal: Refusal,
    offering: Side,
    leave_out: frozenset[TransformType],
) -> tuple[Remedy, ...]:
    """Return the ways to make two lists meet, of which `offering` is the side whose list was offered.

    The smallest change of the nearest pair, at either end; one end's list for both; the other end's first proposal
    behind one's own.
    """
    lists = lists_of(ends, kind)
    places = {offering: refusal.nearest.offered, offering.other: refusal.nearest.accepted}
    smallest = tuple(
        found
        for side in (Side.RIGHT, Side.LEFT)
        if (found := _smallest_change(ends, kind, lists, refusal.nearest.unmet, places, side, leave_out))
    )
    as_well = tuple(
        ends.set_named(
            side,
            f"Let {ends.names[side]} offer {lists[side.other][0].label} as well",
            kind.field,
            (*lists[side], lists[side.other][0]),
        )
        for side in (Side.RIGHT, Side.LEFT)
        if kind.protocol is not Phase.PHASE_1  # more than one first phase is fine, but some devices keep one only
    )
    return (*smallest, *ends.copies(kind.title, kind.field, kind.field), *as_well)


def _smallest_change(
    ends: TunnelEnds,
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
    proposals = tuple(changed if place == places[side] else proposal for place, proposal in enumerate(lists[side]))
    meets = isinstance(negotiate(proposals, lists[side.other], leave_out), Agreement)
    if changed.faults(kind.protocol) or not meets:
        return None
    what = ", ".join(transform.label for transform in added)
    title = f"Let {ends.names[side]} take {what} in proposal {places[side] + 1}"
    return ends.set_named(side, title, kind.field, proposals)


def ladder(ends: TunnelEnds, field: str) -> ProposalAlignment | None:
    """Return both lists as ladders with the rungs that meet; None for a field that holds no proposals."""
    kinds = {kind.field: kind for table in (IKE, CHILD) if (kind := table.get(ends.left.technology))}
    kind = kinds.get(field)
    if kind is None or ends.technology is None:
        return None
    outcome = settled(ends, kind)
    left, right = (lists_of(ends, kind)[side] for side in SIDES)
    turned = ends.caller is Side.RIGHT
    chosen = nearest = None
    if isinstance(outcome, Agreement):
        chosen = _rung(outcome.offered, outcome.accepted, turned)
    elif outcome is not None:
        nearest = _rung(outcome.nearest.offered, outcome.nearest.accepted, turned)
    meeting = tuple(
        Alternative(left=at, right=other)
        for at, proposal in enumerate(left)
        for other, two in enumerate(right)
        if isinstance(negotiate((proposal,), (two,), kind.leave_out), Agreement)
    )
    unmet = () if outcome is None or isinstance(outcome, Agreement) else outcome.nearest.unmet
    return ProposalAlignment(
        left=tuple(proposal.label for proposal in left),
        right=tuple(proposal.label for proposal in right),
        meeting=meeting,
        chosen=chosen,
        nearest=nearest,
        unmet=tuple(type_.value for type_ in unmet),
    )


def _rung(offered: int, accepted: int, turned: bool) -> Alternative:
    return Alternative(left=accepted, right=offered) if turned else Alternative(left=offered, right=accepted)
