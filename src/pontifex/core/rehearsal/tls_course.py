"""The course of a tunnel over TLS: how far its call got, and its renegotiation."""

from __future__ import annotations

from pontifex.core.call_effects import CallEnded, CallReached, CallStep
from pontifex.core.kinds import SIDES
from pontifex.core.matching.row import Stage
from pontifex.core.rehearsal.course import Course, StoppedError
from pontifex.core.tls.settings import TlsSettings


class TlsCourse(Course):
    """A tunnel over TLS."""

    def _has_failed(self) -> bool:
        ended = sum(isinstance(effect, CallEnded) for _, effect in self.world.record.effects)
        return ended >= 2 * len(SIDES)

    def _stage_reached(self) -> Stage:
        """Return the first stage that wasn't passed: both must have heard of the other one, and of its proof."""
        reached = {(side, effect.step) for side, effect in self.world.record.effects if isinstance(effect, CallReached)}
        if not all((side, CallStep.ANSWERED) in reached for side in SIDES):
            return Stage.REACH
        if not any((side, CallStep.CIPHER_TAKEN) in reached for side in SIDES):
            return Stage.INIT
        return Stage.CHILD if all((side, CallStep.PROVED) in reached for side in SIDES) else Stage.AUTH

    def _rekey(self) -> None:
        """Wait for the first renegotiation (RFC 8446 has none of its own: it is a session anew)."""
        due = [end.settings.renegotiation_s for end in self._ends.values() if isinstance(end.settings, TlsSettings)]
        first = min(filter(None, due), default=None)
        if first is None:
            return
        self.world.run_until(self.world.clock.now + first + 1)
        if not self._both_up():
            raise StoppedError(Stage.REKEY, self._first_fault() or "no connection stands any more")
        if not all(gateway.counters.ike_rekeys for gateway in self.world.gateways.values()):
            raise StoppedError(Stage.REKEY, "the session wasn't renegotiated")
        self._check_across(Stage.REKEY, "after the renegotiation")
