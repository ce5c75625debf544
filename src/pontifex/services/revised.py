"""Results that hold for one state of a design."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

from pontifex.core.model import Design

R = TypeVar("R")


@dataclass(frozen=True, slots=True)
class Revised(Generic[R]):
    """A result with the state that it holds for."""

    incarnation: str
    revision: int
    result: R

    @classmethod
    def of(cls, design: Design, result: R) -> Revised[R]:
        """Return a result that was worked out from a design."""
        return cls(design.incarnation, design.revision, result)
