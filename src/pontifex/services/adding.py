"""Writing what a worker has planned: many things as one change, with keys of the vault."""

from __future__ import annotations

from typing import Final
from uuid import UUID

from pydantic import TypeAdapter

from pontifex.core.connecting.keys import with_keys
from pontifex.services.connecting import Addition
from pontifex.services.designs import ChangeResult, DesignService
from pontifex.services.keys import KeyService
from pontifex.store import DesignState

_ADDITION: Final = TypeAdapter(Addition)


def add(
    designs: DesignService, keys: KeyService, base: DesignState, planned: bytes, author: str, change_id: UUID | None = None
) -> ChangeResult:
    """Write an addition that is given as JSON. Raise what a change may end in."""
    addition = _ADDITION.validate_json(planned)
    made = keys.generate_several(designs.get(base.design_id), addition.keys) if addition.keys else []
    return designs.change(base, with_keys(addition.operations, made), addition.note, author, change_id)
