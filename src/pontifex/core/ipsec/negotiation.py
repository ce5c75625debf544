"""What two lists of proposals settle on (RFC 7296 sections 2.7 and 3.3)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from itertools import product

from pontifex.core.ipsec.proposal import Proposal, Transform
from pontifex.core.ipsec.registry import DISPLAY_ORDER, TransformType, registered


class Habit(Enum):
    """Whose order of preference a responder follows; RFC 7296 section 2.7 leaves it the choice."""

    INITIATOR = "initiator"
    RESPONDER = "responder"


@dataclass(frozen=True, slots=True)
class Agreement:
    """What the responder takes: one whole proposal of the offer and one transform of each type it holds."""

    offered: int  # position of the initiator's proposal that was taken, from 0
    accepted: int  # position of the responder's proposal that it met, from 0
    chosen: tuple[Transform, ...]
    extra_round_trip: bool = False  # the initiator's first guess of a group was another one (RFC 7296 section 1.2)

    @property
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
    """No pair meets; the pairs are in order of nearness, so the first one needs the smallest change."""

    reasons: tuple[Mismatch, ...]


def negotiate(
    offer: Sequence[Proposal],
    accept: Sequence[Proposal],
    leave_out: frozenset[TransformType] = frozenset(),
    habit: Habit = Habit.INITIATOR,
) -> Agreement | Refusal:
    """Let a responder that accepts `accept` answer an initiator's `offer`, in the order that its habit prefers.

    A type must stand in both proposals or in neither, NONE standing for its absence. Types in `leave_out` are not
    compared: KE of a Child SA that is made inside IKE_AUTH (RFC 7296 section 1.2).
    """
    reasons: list[Mismatch] = []
    mine, theirs = list(enumerate(offer)), list(enumerate(accept))
    pairs = product(mine, theirs) if habit is Habit.INITIATOR else ((a, b) for b, a in product(theirs, mine))
    for (at, offered), (other, accepted) in pairs:
        first, second = (offered, accepted) if habit is Habit.INITIATOR else (accepted, offered)
        chosen, unmet = _common(first, second, leave_out)
        if not unmet:
            return Agreement(at, other, chosen, _guessed_wrong(offer, chosen))
        reasons.append(Mismatch(at, other, tuple(sorted(unmet, key=DISPLAY_ORDER.__getitem__))))
    return Refusal(tuple(sorted(reasons, key=lambda reason: len(reason.unmet))))


def _common(
    preferred: Proposal, other: Proposal, leave_out: frozenset[TransformType]
) -> tuple[tuple[Transform, ...], tuple[TransformType, ...]]:
    """Return the first common transform of each type that either proposal holds, and the types that have none."""
    mine, theirs = preferred.by_type, other.by_type
    chosen: list[Transform] = []
    unmet = [type_ for type_ in theirs if type_ not in mine and type_ not in leave_out and not _may_be_left_out(theirs[type_])]
    for type_, have in mine.items():
        if type_ in leave_out:
            continue
        want = theirs.get(type_)
        if want is None:
            if not _may_be_left_out(have):
                unmet.append(type_)
            continue
        keys = [transform.key for transform in want]
        found = next((transform for transform in have if transform.key in keys), None)
        if found is None:
            unmet.append(type_)
        elif not found.is_none:
            chosen.append(found)
    return tuple(chosen), tuple(unmet)


def _may_be_left_out(held: tuple[Transform, ...]) -> bool:
    return any(transform.is_none for transform in held)


def _guessed_wrong(offer: Sequence[Proposal], chosen: tuple[Transform, ...]) -> bool:
    """Tell whether the initiator, which sends a public value for its first group, must send another (RFC 7296 section 1.2)."""
    group = next((transform for transform in chosen if transform.type is TransformType.KE), None)
    guess = next((t for p in offer for t in p.by_type.get(TransformType.KE, ())), None)
    return group is not None and guess is not None and group.key != guess.key


def weakest_link(chosen: Sequence[Transform]) -> tuple[int, Transform] | None:
    """Return the strength in bits of the weakest transform, and that transform (NIST SP 800-57 part 1 section 5.6.2).

    Additional key exchanges strengthen the first one and so don't count; neither does ESN. None when nothing counts.
    """
    rated = [
        (t.key_length or row.strength_bits, t)
        for t in chosen
        if not t.type.is_additional and (row := registered(t.type, t.id)) and (t.key_length or row.strength_bits)
    ]
    return min(rated, key=lambda one: one[0], default=None)
