"""A stand-in gateway: candidate, running and startup, and one habit of real devices. It knows no web and no clock of its own."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Final

from pontifex.core.choice import Choice

Settings = dict[str, str]
_LONGEST: Final = 20_000
_DROPPED: Final = "dead_peer_s"
_REFUSED_FIELDS: Final = ("ike_proposals", "child_proposals")
_UNKNOWN_TRANSFORM: Final = "ML-KEM"


class GatewayHabit(Choice):
    """What a device does that nobody expects of it."""

    FORGETS = "forgets"  # what isn't saved is gone after a restart: all of them do, and this one does nothing else
    DROPS = "drops"  # of several values at once, one isn't taken, and nobody is told
    SLOW = "slow"  # answers late
    CUTS = "cuts"  # loses its connections when something begins to run, and answers again after a while
    REFUSES = "refuses"  # doesn't know newer key exchanges, and says so


class SettingRefused(ValueError):
    """What the device doesn't take; the message says why."""


@dataclass
class StandInGateway:
    """A device. Times are seconds of the clock that it is given."""

    gateway_id: str
    habit: GatewayHabit
    startup: Settings
    clock: Callable[[], float]
    running: Settings = field(default_factory=dict)
    candidate: Settings = field(default_factory=dict)
    _before: Settings | None = None  # what runs again unless a commit is confirmed
    _back_at: float = 0.0
    _persist: str = ""

    def __post_init__(self) -> None:
        self.restart()

    def settings(self, datastore: str) -> Mapping[str, str]:
        """Return a datastore. Raise KeyError for one that the device doesn't have."""
        self._tick()
        return {"candidate": self.candidate, "running": self.running, "startup": self.startup}[datastore]

    def enter(self, path: str, value: str | None) -> None:
        """Put a value into the candidate, or take it out. Raise KeyError for what isn't there, Refused for what can't be."""
        self._tick()
        if value is None:
            del self.candidate[path]
            return
        if len(value) > _LONGEST:
            raise SettingRefused("the value is too long")
        self.candidate[path] = value

    def validate(self) -> None:
        """Raise Refused where the candidate could not run."""
        self._tick()
        if self.habit is not GatewayHabit.REFUSES:
            return
        for path, value in self.candidate.items():
            if path.rpartition("/")[2] in _REFUSED_FIELDS and _UNKNOWN_TRANSFORM in value:
                raise SettingRefused(
                    f"{path.rpartition('/')[2].replace('_', ' ')}: there is no key exchange {_UNKNOWN_TRANSFORM} here"
                )

    def commit(self, confirm_within_s: float, persist: str) -> None:
        """Let the candidate run for a time, unless that is confirmed (RFC 6241 section 8.4). Raise Refused."""
        self.validate()
        if self._before is None:
            self._before = dict(self.running)
        self._back_at, self._persist = self.clock() + confirm_within_s, persist
        self._run_candidate()

    def confirm(self, persist: str) -> None:
        """Let stay what was committed for a time. Raise Refused where nothing waits, or it is somebody else's."""
        self._tick()
        if self._before is None or persist != self._persist:
            raise SettingRefused("no commit waits to be confirmed")
        self._before = None

    def _run_candidate(self) -> None:
        changed = [path for path in {**self.candidate, **self.running} if self.candidate.get(path) != self.running.get(path)]
        taken = dict(self.candidate)
        if self.habit is GatewayHabit.DROPS and len(changed) > 1:
            for path in changed:
                if path.endswith(f"/{_DROPPED}"):
                    taken.pop(path, None)
                    if path in self.running:
                        taken[path] = self.running[path]
        self.running = taken
        self.candidate = dict(taken)

    def discard(self) -> None:
        """Let the candidate be what runs."""
        self._tick()
        self.candidate = dict(self.running)

    def save(self) -> None:
        """Keep what runs."""
        self._tick()
        self.startup = dict(self.running)

    def restart(self) -> None:
        """Run what was kept; what waits to be confirmed is gone with everything else."""
        self.running, self.candidate, self._before = dict(self.startup), dict(self.startup), None

    def _tick(self) -> None:
        """Go back to what ran before, where nobody confirmed in time."""
        if self._before is not None and self.clock() >= self._back_at:
            self.running, self.candidate, self._before = dict(self._before), dict(self._before), None
