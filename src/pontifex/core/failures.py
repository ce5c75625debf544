"""One check that fails never takes the others down: what failed is kept, named with its object, and the rest stands."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
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

    @contextmanager
    def guard(self, check: str, object_id: str) -> Iterator[None]:
        """Keep an error of a check, instead of passing it on."""
        try:
            yield
        except Exception as error:
            self.found.append(FailedCheck(check, object_id, error))
