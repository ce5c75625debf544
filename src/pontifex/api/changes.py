"""Changes of a design: made, undone, redone, and read again."""

from __future__ import annotations

from typing import Annotated, Any, Final
from uuid import UUID

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import CONFLICT, REFUSALS, DesignId, Designs, Person, answered, json_answer
from pontifex.api.asking import Ask
from pontifex.api.changing import BaseRevision, ChangeAnswer, ChangeId, Incarnation, answer_change
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.core.model import Operation
from pontifex.services import ChangeResult, DesignService, History
from pontifex.services.designs import OPERATIONS
from pontifex.store import DesignState, LoggedChange

router = APIRouter(prefix="/api/designs/{design_id}", tags=["designs"], responses=REFUSALS)

_EXAMPLE_CHANGE: Final[dict[str, Any]] = {
    "base_revision": 3,
    "note": "Add the yard",
    "operations": [{"op": "put-site", "object": {"id": "yard", "name": "Yard", "kind": "office"}}],
}


class Change(BaseModel):
    """A change: all of its operations, or none."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE_CHANGE]})
    base_revision: BaseRevision
    incarnation: Incarnation = ""
    change_id: ChangeId = None
    note: str = Field(
        title="Note", description="What the change is for, in the log.", min_length=1, max_length=200, pattern=ONE_LINE
    )
    operations: list[Operation] = Field(title="Operations", min_length=1, max_length=20_000)
    dry_run: bool = Field(default=False, title="Only try", description="Say what would change, and write nothing.", strict=True)


class StepRequest(BaseModel):
    """An undo or redo."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"base_revision": 4}]})
    base_revision: BaseRevision
    incarnation: Incarnation = ""
    change_id: ChangeId = None

    def base(self, design_id: str) -> DesignState:
        """Return the state that the person saw."""
        return DesignState(design_id, self.base_revision, self.incarnation)


@router.post("/changes", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Change a design")
async def change_design(ask: Ask, designs: Designs, person: Person, design_id: DesignId, change: Change) -> Response:
    """Apply all operations in one transaction, or refuse the change whole with the reason for each operation."""
    if change.dry_run:
        return await ask(DesignService.try_change, design_id, OPERATIONS.dump_json(change.operations))
    base = DesignState(design_id, change.base_revision, change.incarnation)
    written = await run_in_threadpool(designs.change, base, change.operations, change.note, person, change.change_id)
    return await answer_change(ask, design_id, written)


@router.get("/changes/{change_id}", responses=answered(LoggedChange), summary="Was a change written?")
def read_change(designs: Designs, design_id: DesignId, change_id: UUID) -> Response:
    """Return the change that its maker gave this id; where there is none, it was not written."""
    return json_answer(designs.written(design_id, change_id))


@router.get("/changes", responses=answered(History), summary="Read the change log")
def read_changes(
    designs: Designs,
    design_id: DesignId,
    tunnel: Annotated[str | None, Query(title="Tunnel", description="Only changes of this tunnel.", max_length=64)] = None,
) -> Response:
    """Return the newest hundred changes, newest first."""
    return json_answer(designs.history(design_id, tunnel))


@router.get("/revisions/{revision}/way-back", responses=answered(ChangeResult), summary="What leads back to a revision?")
async def read_way_back(
    ask: Ask, design_id: DesignId, revision: Annotated[int, Path(title="Revision", ge=0, le=2**31 - 1)]
) -> Response:
    """Return the operations that lead from the design as it stands to an earlier revision; nothing is written."""
    return await ask(DesignService.way_back, design_id, revision)


@router.post("/undo", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Undo the last change that stands")
async def undo_change(ask: Ask, designs: Designs, person: Person, design_id: DesignId, step: StepRequest) -> Response:
    """Take a change back, as a change of its own."""
    written = await run_in_threadpool(designs.undo, step.base(design_id), person, step.change_id)
    return await answer_change(ask, design_id, written)


@router.post("/redo", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Redo the last change undone")
async def redo_change(ask: Ask, designs: Designs, person: Person, design_id: DesignId, step: StepRequest) -> Response:
    """Make an undone change again, as a change of its own."""
    written = await run_in_threadpool(designs.redo, step.base(design_id), person, step.change_id)
    return await answer_change(ask, design_id, written)
