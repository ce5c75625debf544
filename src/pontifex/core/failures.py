"""One check that fails never takes the others down: what failed is kept, named with its object, and the rest stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class FailedCheck:
    """A check that ended in an error of ours, and the object that it was about."""

    check: str
    object_id: str
    error: Exception

    @property
    def kind(self) -> str:
        """The kind of the error; its text is for the log alone, since it may hold anything."""
        return type(self.error).__name__


OnFailure = Callable[[FailedCheck], None]


@dataclass
class Failures:
    """What failed while something was worked out."""

    found: list[FailedCheck] = field(default_factory=list)

    def note(self, failed: FailedCheck) -> None:
        """Keep what failed."""
        self.found.append(failed)

    def guard(self, check: str, object_id: str) -> GuardedCheck:
        """Keep an error of a check, instead of passing it on."""
        return GuardedCheck(self, check, object_id)


@dataclass(slots=True)
class GuardedCheck:
    """A check under way; not made of a generator, since thousands of checks are guarded for one edit."""

    failures: Failures
    check: str
    object_id: str

    def __enter__(self) -> None:
        """Begin the check."""

    def __exit__(self, _kind: object, error: BaseException | None, _traceback: object) -> bool:
        """End it; whatever isn't meant to end the program is kept."""
        if not isinstance(error, Exception):
            return False
        self.failures.note(FailedCheck(self.check, self.object_id, error))
        return True
