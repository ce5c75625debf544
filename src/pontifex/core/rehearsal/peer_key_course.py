"""The course of a tunnel with static peer keys: how far its call got, and what its two lists of networks have in common."""

from __future__ import annotations

from pontifex.core.call_effects import CallEnded, CallReached
from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Stage
from pontifex.core.rehearsal.course import Course, StoppedError
from pontifex.core.rehearsal.packets import packet_between
from pontifex.core.rehearsal.probes import networks_between


class PeerKeyCourse(Course):
    """A tunnel with static peer keys."""

    def _has_failed(self) -> bool:
        ended = sum(isinstance(effect, CallEnded) for _, effect in self.world.record.effects)
        return ended >= 2 * len(SIDES)

    def _stage_reached(self) -> Stage:
        """Return the first stage that wasn't passed: a call that can't be opened has arrived, and nothing answers it.

        So whether an answer would have come back is tried.
        """
        heard = [side for side, effect in self.world.record.effects if isinstance(effect, CallReached)]
        return Stage.AUTH if any(self.world.answer_passes(side) for side in dict.fromkeys(heard)) else Stage.REACH

    def _carry(self) -> None:
        """Each end goes by its own lists: where they have nothing in common, nothing passes."""
        if packet_between(*networks_between(self.world, Side.LEFT)) is None:
            raise StoppedError(Stage.CHILD, "neither end takes what the other one sends")
        super()._carry()

    def _rekey(self) -> None:
        """Keys are new with each call, and nothing is renewed by the clock."""

    def _traffic(self, side: Side) -> None:
        """Hosts speak now and then: what isn't answered is how an end learns that the other one has restarted."""
        header = packet_between(*networks_between(self.world, side))
        if header:
            self._speak(side, header)
