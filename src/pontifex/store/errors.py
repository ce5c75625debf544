"""What the store can't find or may not overwrite."""

from __future__ import annotations


class DesignNotFound(Exception):
    """There is no design of this id."""

    def __init__(self, design_id: str) -> None:
        super().__init__(f"there is no design '{design_id}'")


class DesignExists(Exception):
    """A design of this id is there already."""

    def __init__(self, design_id: str) -> None:
        super().__init__(f"there is a design '{design_id}' already")
