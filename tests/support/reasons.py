"""What is said, compared as values: the kind of a reason, some of its parameters, or the reason as a whole."""

from __future__ import annotations

from collections.abc import Callable

from pontifex.core.reasons import Reason
from pontifex.core.reasons.outcome import LessAt, NotKnownAt, StopsAt, StopsLaterAt
from pontifex.core.reasons.tunnels import InTunnel

Expected = type[Reason] | Reason | Callable[[Reason], bool]


def innermost(said: Reason) -> Reason:
    """Return what is said of a tunnel, or of a stage."""
    return said.reason if isinstance(said, (InTunnel, StopsAt, StopsLaterAt, LessAt, NotKnownAt)) else said


def is_said(expected: Expected, said: Reason) -> bool:
    """Whether a reason, or what it says of a tunnel, is what is expected."""
    inner = innermost(said)
    if isinstance(expected, Reason):
        return inner == expected
    return isinstance(inner, expected) if isinstance(expected, type) else expected(inner)


def like(kind: type[Reason], **texts: str) -> Callable[[Reason], bool]:
    """Expect a reason of a kind, some of whose parameters are these, as they are written in short."""

    def fits(said: Reason) -> bool:
        return isinstance(said, kind) and {name: _short(getattr(said, name)) for name in texts} == texts

    return fits


def _short(value: object) -> str:
    return str(getattr(value, "value", value))
