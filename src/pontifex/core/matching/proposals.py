"""Init and Child: what the two lists of proposals settle on, for the IKE SA and for the Child SA."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pontifex.core.ipsec import Agreement, Habit, Proposal, Protocol, Refusal, TransformType, negotiate, proposal_faults
from pontifex.core.matching.pair import Pair
from pontifex.core.matching.row import Relation, Remedy, Row, Stage, Verdict
from pontifex.core.model import Role, Side


@dataclass(frozen=True, slots=True)
class _Negotiated:
    """What differs between the two negotiations of a tunnel."""

    key: str
    title: str
    stage: Stage
    protocol: Protocol
    field: str
    leave_out: frozenset[TransformType]
    code_prefix: str


IKE: Final = _Negotiated("ike-proposals", "IKE proposals", Stage.INIT, Protocol.IKE, "ike_proposals", frozenset(), "ike")
CHILD: Final = _Negotiated(
    # IKE_AUTH carries no key exchange for the Child SA: groups matter only from the first rekey on (RFC 7296 section 1.2)
    "child-proposals", "Child SA proposals", Stage.CHILD, Protocol.ESP, "child_proposals", frozenset({TransformType.KE}), "child"
)  # fmt: skip


def proposals_row(pair: Pair, kind: _Negotiated) -> Row:
    """Negotiate one kind of SA as the end that calls would (RFC 7296 section 2.7)."""
    lists: dict[Side, tuple[Proposal, ...]] = {side: getattr(pair.end(side), kind.field) for side in Side}

    def row(verdict: Verdict, reason: str, value: str = "", code: str = "", remedies: tuple[Remedy, ...] = ()) -> Row:
        fields = (kind.field, kind.field)
        return pair.row(
            kind.key,
            kind.title,
            kind.stage,
            Relation.NEGOTIATED,
            fields,
            verdict,
            reason,
            value=value,
            code=code,
            remedies=remedies,
        )

    missing = [pair.names[side] for side in Side if not lists[side]]
    if missing:
        return row(Verdict.UNKNOWN, f"the proposals of {' and '.join(missing)} are not known yet")
    invalid = _first_fault(pair, kind, lists)
    if invalid:
        side, fault = invalid
        sound = not any(proposal_faults(proposal, kind.protocol) for proposal in lists[side.other])
        mend = (pair.copy_to(side, kind.title, kind.field, kind.field),) if sound else ()
        return row(Verdict.DIFFERS, fault, code=f"{kind.code_prefix}.invalid-proposal", remedies=mend)
    caller = Side.RIGHT if pair.tunnel.left.role is Role.WAIT and pair.tunnel.right.role is Role.CALL else Side.LEFT
    outcome = negotiate(lists[caller], lists[caller.other], kind.leave_out)
    if isinstance(outcome, Agreement):
        verdict = Verdict.AGREED if lists[Side.LEFT] == lists[Side.RIGHT] else Verdict.NEGOTIATED
        return row(verdict, _what_is_taken(pair, kind, caller, outcome), outcome.label)
    remedies = pair.copies(kind.title, kind.field, kind.field) + _offers(pair, kind, lists)
    return row(Verdict.DIFFERS, _why_not(outcome), code=f"{kind.code_prefix}.no-common-proposal", remedies=remedies)


def _what_is_taken(pair: Pair, kind: _Negotiated, caller: Side, outcome: Agreement) -> str:
    """Say what is chosen, and where that depends on the responder's habit (RFC 7296 section 2.7)."""
    text = f"{pair.names[caller]} offers, {pair.names[caller.other]} takes {outcome.label}"
    if kind is IKE and outcome.extra_round_trip:
        text += ", after a second try: the caller's first guess is another group"
    offer, accept = (getattr(pair.end(side), kind.field) for side in (caller, caller.other))
    if offer == accept:
        return text  # both have one order
    other = negotiate(offer, accept, kind.leave_out, Habit.RESPONDER)
    if isinstance(other, Agreement) and other.chosen != outcome.chosen:
        text += f"; if it goes by its own order, {other.label}"
    return text


def _first_fault(pair: Pair, kind: _Negotiated, lists: dict[Side, tuple[Proposal, ...]]) -> tuple[Side, str] | None:
    for side in Side:
        for number, proposal in enumerate(lists[side], start=1):
            faults = proposal_faults(proposal, kind.protocol)
            if faults:
                return side, f"{pair.names[side]}'s proposal {number} is invalid: {', '.join(faults)}"
    return None


def _offers(pair: Pair, kind: _Negotiated, lists: dict[Side, tuple[Proposal, ...]]) -> tuple[Remedy, ...]:
    """Return the remedies that add the other end's first proposal behind an end's own."""
    return tuple(
        pair.set_field(
            side,
            f"Let {pair.names[side]} offer {lists[side.other][0].label} as well",
            **{kind.field: (*lists[side], lists[side.other][0])},
        )
        for side in (Side.RIGHT, Side.LEFT)
    )


def _why_not(refusal: Refusal) -> str:
    nearest = refusal.reasons[0]
    unmet = ", ".join(type_.value for type_ in nearest.unmet)
    return f"no proposal is common to both; the nearest pair has no common {unmet}"
