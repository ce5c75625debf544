"""What the store can't find or may not overwrite, and what keeps the database from its work."""

from __future__ import annotations

from typing import Final

from sqlalchemy.exc import DBAPIError

from pontifex.core.errors import Conflict, NotFound, Unavailable


class DesignNotFound(NotFound):
    """There is no design of this id."""

    title = "No such design"

    def __init__(self, design_id: str) -> None:
        super().__init__(f"there is no design '{design_id}'")


class DesignExists(Conflict):
    """A design of this id is there already."""

    title = "The design exists"

    def __init__(self, design_id: str) -> None:
        super().__init__(f"there is a design '{design_id}' already")


class DatabaseGone(Unavailable):
    """The connection to the database broke, or there is none."""

    title = "The database is not reachable"


class DatabaseFull(Unavailable):
    """The database has no room left."""

    title = "The database has no room left"


_FULL: Final = frozenset({"53100", "53200", "54000", "54001"})  # disk, memory, limits of a statement (PostgreSQL appendix A)
_GONE: Final = ("08", "57P")  # connection exceptions, and operator intervention: classes of SQLSTATE


def unavailable(error: DBAPIError, said: str) -> Unavailable | None:
    """Return what keeps the database from its work, as an error whose text ends in what was `said`; None for other errors."""
    state = getattr(error.orig, "sqlstate", None)
    if state in _FULL:
        return DatabaseFull(f"the disk or memory of the database's machine is full: make room, then try again. {said}")
    if error.connection_invalidated or state is None or state.startswith(_GONE):
        return DatabaseGone(f"the server tries again with the next request. {said}")
    return None
