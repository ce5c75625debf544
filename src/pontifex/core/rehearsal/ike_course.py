"""The course of a tunnel of IPsec with IKEv2: how far its call got, and its rekeys."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from pontifex.core.ike.effects import IkeEnded, IkeEstablished, IkeKeyed
from pontifex.core.ike.message import ExchangeType, Message
from pontifex.core.ike.settings import EndSettings
from pontifex.core.kinds import SIDES
from pontifex.core.matching.row import Stage
from pontifex.core.rehearsal.course import Course, StoppedError
from pontifex.core.rehearsal.events import MarkKind
from pontifex.core.rehearsal.world import Record

_SHORTEST_LIFETIME_S: Final = 30.0  # that anybody asks for, its margin taken off
_TOO_MANY_REKEYS: Final = 8  # more than these lifetimes explain: the margin leaves no pause


def stage_reached(record: Record, *, was_answered: bool) -> Stage:
    """Return the first stage that a call didn't pass: whether its first request was answered, and what has happened since."""
    if not was_answered:
        return Stage.REACH
    if not all(record.has(side, IkeKeyed) for side in SIDES):
        return Stage.INIT
    return Stage.CHILD if all(record.has(side, IkeEstablished) for side in SIDES) else Stage.AUTH


class IkeCourse(Course):
    """A tunnel of IPsec with IKEv2."""

    def _has_failed(self) -> bool:
        """Whether calls have come to nothing often enough: each end had its try, and another one."""
        ended = sum(isinstance(effect, IkeEnded) for _, effect in self.world.record.effects)
        return ended >= 2 * len(SIDES)

    def _stage_reached(self) -> Stage:
        """Return the first stage that wasn't passed, by what has happened."""
        record = self.world.record
        answered = any(
            sent.arrived and isinstance(sent.message, Message) and sent.message.header.is_response
            and sent.message.header.exchange == ExchangeType.IKE_SA_INIT and sent.at_s >= self._dialled_at
            for sent in record.sent
        )  # fmt: skip
        return stage_reached(record, was_answered=answered)

    def _rekey(self) -> None:
        """Wait for the first rekey of the Child SA and of the IKE SA; the tunnel must stay up meanwhile."""
        settings = [end.settings for end in self._ends.values() if isinstance(end.settings, EndSettings)]
        child = _first_due([(setting.child_lifetime_s, setting.margin_s) for setting in settings])
        ike = _first_due([(setting.ike_lifetime_s, setting.margin_s) for setting in settings])
        renewed = [setting.ike_lifetime_s for setting in settings if setting.reauthenticate and setting.ike_lifetime_s]
        seconds = max([child or 0, ike or 0, *(lifetime + 2 for lifetime in renewed)])
        if not seconds:
            return
        if self._is_without_pause(seconds + 1):
            raise StoppedError(Stage.REKEY, "an end rekeys without a pause")
        gateways = [self.world.gateways[side] for side in SIDES]
        downs = [mark for mark in self.world.record.marks if mark.kind is MarkKind.DOWN]
        if downs or not self._both_up():
            raise StoppedError(Stage.REKEY, self._first_fault() or "no Child SA stands any more")
        if child and not all(gateway.counters.child_rekeys for gateway in gateways):
            raise StoppedError(Stage.REKEY, "the Child SA wasn't rekeyed")
        if ike and not all(gateway.counters.established > 1 for gateway in gateways):
            raise StoppedError(Stage.REKEY, "the IKE SA was neither rekeyed nor made anew")
        self._check_across(Stage.REKEY, "after the rekey")

    def _is_without_pause(self, seconds: float) -> bool:
        """Let time pass without traffic; break off and say so where an end rekeys without a pause."""
        world, end = self.world, self.world.clock.now + seconds
        counters = [gateway.counters for gateway in world.gateways.values()]
        while world.clock.next_due <= end:
            world.clock.step()
            rekeys = max(counter.child_rekeys + counter.ike_rekeys for counter in counters)
            if rekeys > _TOO_MANY_REKEYS + world.clock.now / _SHORTEST_LIFETIME_S:
                return True
        world.run_until(end)
        return False


def _first_due(lifetimes: Sequence[tuple[float, float]]) -> float | None:
    """Return after how many seconds the first SA of a kind is rekeyed; None where no lifetime is known."""
    return min((max(lifetime - margin, 1.0) for lifetime, margin in lifetimes if lifetime), default=None)
