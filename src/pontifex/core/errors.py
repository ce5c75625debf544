"""Why something that was asked can't be done: a small tree, whose branches say what a request is answered with."""

from __future__ import annotations

from typing import ClassVar


class NotDone(Exception):
    """Something that was asked and can't be done. Its text is a clause that says why; nothing of it was done."""

    status: ClassVar[int]  # of the answer over HTTP (RFC 9110 section 15)
    title: ClassVar[str] = "It can't be done"

    def __reduce__(self) -> tuple[object, ...]:
        """Let it pass between processes, however its class is made of what it is told."""
        return _restored, (type(self), self.args), self.__dict__


def _restored(class_: type[NotDone], arguments: tuple[object, ...]) -> NotDone:
    restored = class_.__new__(class_)
    restored.args = arguments
    return restored


class NotFound(NotDone):
    """What is asked about isn't there."""

    status = 404
    title = "Not found"


class Conflict(NotDone):
    """It stands against something that is there already."""

    status = 409
    title = "It stands against something else"


class NotAccepted(NotDone):
    """What was given can't be taken as it is."""

    status = 422
    title = "The request was refused"


class FieldRefused(NotAccepted):
    """A field of what was given, and why it can't be taken."""

    def __init__(self, field: str, reason: str) -> None:
        super().__init__(reason)
        self.field, self.reason = field, reason


class TooLarge(NotAccepted):
    """More than can be answered at once; the text says what makes it large."""

    title = "Too much at once"


class Unavailable(NotDone):
    """What it takes to do it isn't there now."""

    status = 503
    title = "Not now"
