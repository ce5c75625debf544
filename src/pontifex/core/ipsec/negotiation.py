"""What two lists of proposals settle on (RFC 7296 sections 2.7 and 3.3)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

from pontifex.core.ipsec.proposal import Proposal, Transform
from pontifex.core.ipsec.registry import TransformType


@dataclass(frozen=True, slots=True)
class Agreement:
    """What the responder takes: one whole proposal of the offer and one transform of each type it holds."""

    offered: int  # position of the initiator's proposal that was taken, from 0
    accepted: int  # position of the responder's proposal that it met, from 0
    chosen: tuple[Transform, ...]

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
    offer: Sequence[Proposal], accept: Sequence[Proposal], leave_out: frozenset[TransformType] = frozenset()
) -> Agreement | Refusal:
    """Let a responder that accepts `accept` answer an initiator's `offer`, in the initiator's order.

    A type must stand in both proposals or in neither. Types in `leave_out` are not compared: KE of a Child SA that is
    made inside IKE_AUTH (RFC 7296 section 1.2).
    """
    reasons: list[Mismatch] = []
    for (at, offered), (other, accepted) in product(enumerate(offer), enumerate(accept)):
        common = _common(offered, accepted, leave_out)
        unmet = tuple(type_ for type_, transform in common.items() if transform is None)
        if not unmet:
            return Agreement(at, other, tuple(transform for transform in common.values() if transform))
        reasons.append(Mismatch(at, other, unmet))
    return Refusal(tuple(sorted(reasons, key=lambda reason: len(reason.unmet))))


def _common(offered: Proposal, accepted: Proposal, leave_out: frozenset[TransformType]) -> dict[TransformType, Transform | None]:
    """Return the first common transform of each type that either proposal holds, None where there is none."""
    mine, theirs = offered.by_type, accepted.by_type
    common: dict[TransformType, Transform | None] = {}
    for type_ in TransformType:
        if type_ not in leave_out and (type_ in mine or type_ in theirs):
            keys = [transform.key for transform in theirs.get(type_, ())]
            common[type_] = next((transform for transform in mine.get(type_, ()) if transform.key in keys), None)
    return common
