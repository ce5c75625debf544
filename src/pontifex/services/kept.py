"""Designs as they stand, kept between questions: a newer state is made of the kept one and what was changed since."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Final

from pontifex.core.model import Design
from pontifex.store import DesignRepository

_MOST_KEPT: Final = 8


class KeptDesigns:
    """The designs that were asked for last."""

    def __init__(self, repository: DesignRepository) -> None:
        self.repository = repository
        self._lock = Lock()
        self._designs: OrderedDict[str, Design] = OrderedDict()

    def get(self, design_id: str) -> Design:
        """Return a design as it stands. Raise DesignNotFound.

        What a change didn't touch is the very same as before, so that whatever was worked out from it still holds.
        """
        kept = self._designs.get(design_id)
        return self.keep(self.repository.advanced(kept) if kept else self.repository.load(design_id))

    def known(self, design_id: str) -> Design | None:
        """Return a design as it was when it was last asked for, if it is kept."""
        return self._designs.get(design_id)

    def keep(self, design: Design) -> Design:
        """Keep a design, unless a newer state of the same incarnation is kept; return it as it was given."""
        with self._lock:
            kept = self._designs.get(design.id)
            if kept is None or kept.incarnation != design.incarnation or kept.revision < design.revision:
                self._designs[design.id] = design
            self._designs.move_to_end(design.id)
            while len(self._designs) > _MOST_KEPT:
                self._designs.popitem(last=False)
        return design

    def __contains__(self, design_id: str) -> bool:
        return design_id in self._designs
