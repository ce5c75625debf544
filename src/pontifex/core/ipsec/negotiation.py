"""What two lists of proposals settle on (RFC 7296 sections 2.7 and 3.3)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cached_property, lru_cache

from pontifex.core.ipsec.proposal import BIT, BITS_OF_TYPE, NONE_BIT, Proposal, ProposalFacts, Transform, distinct_methods
from pontifex.core.ipsec.registry import TransformType


class Habit(Enum):
    """Whose order of preference a responder follows; RFC 7296 section 2.7 leaves it the choice."""

    INITIATOR = "initiator"
    RESPONDER = "responder"


@dataclass(frozen=True)
class Agreement:
    """What the responder takes: one whole proposal of the offer and one transform of each type it holds."""

    offered: int  # position of the initiator's proposal that was taken, from 0
    accepted: int  # position of the responder's proposal that it met, from 0
    chosen: tuple[Transform, ...]
    extra_round_trip: bool = False  # the initiator's first guess of a group was another one (RFC 7296 section 1.2)

    @cached_property
    def additional(self) -> tuple[Transform, ...]:
        """The additional key exchanges among them (RFC 9370)."""
        return tuple(transform for transform in self.chosen if transform.type.is_additional)

    @cached_property
    def label(self) -> str:
        """The chosen transforms in one line."""
        return " · ".join(transform.label for transform in self.chosen)


@dataclass(frozen=True, slots=True)
class Mismatch:
    """Why one pair of proposals does not meet: the types without a common transform."""

    offered: int
    accepted: int
    unmet: tuple[TransformType, ...]


@dataclass(frozen=True, slots=True)
class Refusal:
    """No pair meets; the nearest one lacks a common transform for the fewest types."""

    nearest: Mismatch


def negotiate(
    offer: Sequence[Proposal],
    accept: Sequence[Proposal],
    leave_out: frozenset[TransformType] = frozenset(),
    habit: Habit = Habit.INITIATOR,
) -> Agreement | Refusal:
    """Let a responder that accepts `accept` answer an initiator's `offer`, in the order that its habit prefers.

    A type must stand in both proposals or in neither, NONE standing for its absence. Types in `leave_out` are not
    compared: KE of a Child SA that is made inside IKE_AUTH (RFC 7296 section 1.2). Neither list may be empty.
    """
    return _negotiated(
        tuple(proposal.facts for proposal in offer), tuple(proposal.facts for proposal in accept), leave_out, habit
    )


@lru_cache(maxsize=4096)
def _negotiated(
    offer: tuple[ProposalFacts, ...], accept: tuple[ProposalFacts, ...], leave_out: frozenset[TransformType], habit: Habit
) -> Agreement | Refusal:
    """Negotiate. Most tunnels of a design have the same lists: the outcome for each two lists is worked out once."""
    theirs = [(other, accepted.bits, _type_bits(accepted, leave_out)) for other, accepted in enumerate(accept)]
    mine = [(at, offered.bits, _type_bits(offered, leave_out)) for at, offered in enumerate(offer)]
    first_list, second_list = (mine, theirs) if habit is Habit.INITIATOR else (theirs, mine)
    fewest, nearest = len(TransformType) + 1, (0, 0)
    for first, first_bits, first_types in first_list:
        for second, second_bits, second_types in second_list:
            common = first_bits & second_bits
            unmet = 0
            for type_bits in first_types if first_types is second_types else {*first_types, *second_types}:
                if not common & type_bits:
                    unmet += 1
                    if unmet >= fewest:
                        break  # a nearer pair is known
            if unmet >= fewest:
                continue
            at, other = (first, second) if habit is Habit.INITIATOR else (second, first)
            if not unmet:
                preferred, rival = (offer[at], accept[other]) if habit is Habit.INITIATOR else (accept[other], offer[at])
                chosen = _chosen(preferred, rival, leave_out)
                if chosen is not None:
                    return Agreement(at, other, chosen, _guessed_wrong(offer, chosen))
                unmet = 1
            fewest, nearest = unmet, (at, other)
    at, other = nearest
    types = _unmet_types(offer[at], accept[other], leave_out)
    return Refusal(Mismatch(at, other, types or _alike(offer[at], leave_out)))


def _alike(proposal: ProposalFacts, leave_out: frozenset[TransformType]) -> tuple[TransformType, ...]:
    """Return the last additional key exchange of a proposal: the one for which no method is left that differs."""
    return tuple(type_ for type_ in proposal.by_type if type_.is_additional and type_ not in leave_out)[-1:]


@lru_cache(maxsize=1024)
def _bits_of_types(types: frozenset[TransformType]) -> tuple[int, ...]:
    return tuple(BITS_OF_TYPE[type_] for type_ in TransformType if type_ in types)


def _type_bits(proposal: ProposalFacts, leave_out: frozenset[TransformType]) -> tuple[int, ...]:
    """Return the bits of each type that a proposal holds and that is to be compared."""
    return _bits_of_types(proposal.held - leave_out if leave_out else proposal.held)


def _unmet_types(
    one: ProposalFacts, other: ProposalFacts, leave_out: frozenset[TransformType] = frozenset()
) -> tuple[TransformType, ...]:
    """Return the types for which two proposals have no common transform, in the order of display."""
    common = one.bits & other.bits
    return tuple(type_ for type_ in TransformType if type_ not in leave_out and not common & BITS_OF_TYPE[type_])


def _chosen(preferred: ProposalFacts, other: ProposalFacts, leave_out: frozenset[TransformType]) -> tuple[Transform, ...] | None:
    """Return the first common transform of each type that both proposals hold, additional key exchanges of methods that differ.

    None where no such methods are left (RFC 9370 section 2.2.1).
    """
    common = [
        (type_, tuple(t for t in have if (NONE_BIT[type_] if t.is_none else BIT[t.key]) & other.bits))
        for type_, have in preferred.by_type.items()
        if type_ not in leave_out
    ]
    taken = {type_: choice[0] for type_, choice in common if choice and not type_.is_additional}
    additional = [(type_, choice) for type_, choice in common if type_.is_additional and choice]
    if additional:
        differing = distinct_methods([choice for _, choice in additional])
        if differing is None:
            return None
        taken |= dict(zip((type_ for type_, _ in additional), differing, strict=True))
    return tuple(taken[type_] for type_, _ in common if type_ in taken and not taken[type_].is_none)


def _guessed_wrong(offer: Sequence[ProposalFacts], chosen: tuple[Transform, ...]) -> bool:
    """Whether the initiator, which sends a public value for its first group, must send another (RFC 7296 section 1.2)."""
    group = next((transform for transform in chosen if transform.type is TransformType.KE), None)
    guess = next((t for p in offer for t in p.by_type.get(TransformType.KE, ())), None)
    return group is not None and guess is not None and group.key != guess.key


def weakest_link(chosen: Sequence[Transform]) -> tuple[int, Transform] | None:
    """Return the strength in bits of the weakest transform, and that transform (NIST SP 800-57 part 1 section 5.6.2).

    Additional key exchanges strengthen the first one and so don't count; neither does ESN. None when nothing counts.
    """
    rated = [(t.strength_bits, t) for t in chosen if not t.type.is_additional and t.strength_bits]
    return min(rated, key=lambda rating: rating[0], default=None)
