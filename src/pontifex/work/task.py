"""What goes to a worker, and what comes back."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

Question = Callable[..., object]  # a function, or a method of a service that every worker has


@dataclass(frozen=True, slots=True)
class Task:
    """A question with its arguments. It goes to the worker that knows the design, where that one isn't busy."""

    question: Question
    arguments: tuple[Any, ...]
    named: Mapping[str, Any]  # further arguments, by name
    design_id: str = ""  # empty where it is about none
    cpu_s: float | None = None  # of computing that it may take; None for as much as any

    @property
    def is_long(self) -> bool:
        """Whether it is given more time than others."""
        return self.cpu_s is not None

    @property
    def name(self) -> str:
        """What the log calls it."""
        return self.question.__qualname__


@dataclass(frozen=True, slots=True)
class Answer:
    """A result as JSON, with the state of the design that it holds for; the state is empty where there is none."""

    octets: bytes
    incarnation: str = ""
    revision: int = -1


@dataclass(frozen=True, slots=True)
class Reply:
    """What a worker says at the end of a task: an answer, or why there is none."""

    answer: Answer | None = None
    error: Exception | None = None
    over_budget: bool = False
    withdrawn: bool = False
    failed_checks: int = 0  # that ended in an error of ours


@dataclass(frozen=True, slots=True)
class TaskProgress:
    """How far a worker has come with its task."""

    done: int
    of: int


class WorkFailed(Exception):
    """A task ended in an error of ours; the worker's log has it. The text is the kind of the error."""


class Withdrawn(Exception):
    """A task was broken off, since nobody waits for it any more."""
