"""What the store can't find or may not overwrite."""

from __future__ import annotations

from pontifex.core.errors import Conflict, NotFound


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
