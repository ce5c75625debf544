"""Designs: list, read, change, undo, history, import and export."""

from __future__ import annotations

from typing import Annotated, Any, Final
from uuid import UUID

from fastapi import APIRouter, Depends, Path, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import (
    CONFLICT,
    REFUSALS,
    UNCHANGED,
    DesignId,
    Designs,
    Keys,
    Person,
    answered,
    json_answer,
    json_octets_answer,
)
from pontifex.api.asking import Ask
from pontifex.api.changing import BaseRevision, ChangeAnswer, ChangeId, Incarnation, answer_change
from pontifex.core.design_file import DesignFile, FileProblem, UnreadableDesign
from pontifex.core.find import Hit
from pontifex.core.findings import Analysis, FindingKey
from pontifex.core.kinds import Name, ObjectType
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.core.matching import Match
from pontifex.core.model import Design, Operation
from pontifex.services import AnalysisService, ChangeResult, DesignService, History
from pontifex.services.analyses import Mending
from pontifex.services.designs import OPERATIONS
from pontifex.services.duplicates import duplicate
from pontifex.store import DesignState, DesignSummary, LoggedChange

router = APIRouter(prefix="/api/designs", tags=["designs"], responses=REFUSALS)

_EXAMPLE_CHANGE: Final[dict[str, Any]] = {
    "base_revision": 3,
    "note": "Add the yard",
    "operations": [{"op": "put-site", "object": {"id": "yard", "name": "Yard", "kind": "office"}}],
}


class NewDesign(BaseModel):
    """An empty design to be made."""

    model_config = ConfigDict(extra="forbid")
    name: Name


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


async def _body_text(request: Request) -> str:
    """Return the body as it came: places in a wrong file are told by line and column, or by path."""
    try:
        return (await request.body()).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnreadableDesign([FileProblem(f"octet {error.start}", "not UTF-8")]) from None


_FILE_BODY: Final = {
    "required": True,
    "content": {"application/json": {"schema": {"$ref": "#/components/schemas/DesignFile"}}},
}


@router.get("", summary="List the designs")
def list_designs(
    designs: Designs, deleted: Annotated[bool, Query(description="Those that were deleted and can be restored.")] = False
) -> list[DesignSummary]:
    """Return all designs by name."""
    return designs.list(deleted=deleted)


@router.post("", status_code=201, summary="Make an empty design")
def create_design(designs: Designs, new: NewDesign) -> DesignSummary:
    """Make a design without objects. Its id is made of its name."""
    return designs.create(new.name)


@router.post(
    "/import",
    status_code=201,
    summary="Import a design file",
    responses=answered(DesignSummary, 201),
    openapi_extra={"requestBody": _FILE_BODY},
)
async def import_design(ask: Ask, text: Annotated[str, Depends(_body_text)]) -> Response:
    """Make a design of a design file; nothing is made when any place of it is wrong."""
    return json_octets_answer(await ask.answer_of(DesignService.import_text, text), 201)


@router.get("/{design_id}", responses={**answered(Design), **UNCHANGED}, summary="Read a design")
async def read_design(ask: Ask, design_id: DesignId) -> Response:
    """Return the design as it stands. With the ETag of a revision that still stands, the answer is 304 without a body."""
    return await ask.design(design_id)


@router.get("/{design_id}/analysis", responses={**answered(Analysis), **UNCHANGED}, summary="Forecasts and findings")
async def read_analysis(ask: Ask, design_id: DesignId) -> Response:
    """Return the forecasts of all tunnels, the collisions of networks and all findings with their remedies."""
    return await ask.revised(AnalysisService.analysis, design_id)


@router.get(
    "/{design_id}/tunnels/{tunnel_id}/match", responses={**answered(Match), **UNCHANGED}, summary="Compare the ends of a tunnel"
)
async def read_match(
    ask: Ask,
    design_id: DesignId,
    tunnel_id: Annotated[str, Path(title="Tunnel", max_length=64, examples=["harbour-ostvik"])],
) -> Response:
    """Return the two ends of a tunnel side by side, row by row."""
    return await ask.revised(AnalysisService.match, design_id, tunnel_id)


class FindingName(BaseModel):
    """A finding, by what it is known by."""

    model_config = ConfigDict(extra="forbid")
    code: str = Field(title="Code", max_length=64)
    type: ObjectType = Field(title="Type of its first place")
    id: str = Field(title="Id", max_length=64)
    field: str = Field(default="", title="Field", max_length=120)


class ToMend(BaseModel):
    """Findings that are to be mended by one change."""

    model_config = ConfigDict(extra="forbid")
    findings: list[FindingName] = Field(title="Findings", min_length=1, max_length=200)


@router.post("/{design_id}/mending", responses=answered(Mending), summary="Mend several findings at once")
async def mend_together(ask: Ask, design_id: DesignId, to_mend: ToMend) -> Response:
    """Return the one change that carries out the first remedy of each finding; nothing is written."""
    keys = [FindingKey(finding.code, finding.type, finding.id, finding.field) for finding in to_mend.findings]
    return await ask(AnalysisService.mending, design_id, keys)


@router.get("/{design_id}/find", responses=answered(list[Hit]), summary="Find or ask")
async def find_in_design(
    ask: Ask, design_id: DesignId, q: Annotated[str, Query(title="Name, prefix or address", max_length=100)]
) -> Response:
    """Return what a name, a prefix or an address is in this design."""
    return await ask(AnalysisService.find, design_id, q)


@router.post("/{design_id}/changes", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Change a design")
async def change_design(ask: Ask, designs: Designs, person: Person, design_id: DesignId, change: Change) -> Response:
    """Apply all operations in one transaction, or refuse the change whole with the reason for each operation."""
    if change.dry_run:
        return await ask(DesignService.try_change, design_id, OPERATIONS.dump_json(change.operations))
    base = DesignState(design_id, change.base_revision, change.incarnation)
    written = await run_in_threadpool(designs.change, base, change.operations, change.note, person, change.change_id)
    return await answer_change(ask, design_id, written)


@router.get("/{design_id}/changes/{change_id}", responses=answered(LoggedChange), summary="Was a change written?")
def read_change(designs: Designs, design_id: DesignId, change_id: UUID) -> Response:
    """Return the change that its maker gave this id; where there is none, it was not written."""
    return json_answer(designs.written(design_id, change_id))


@router.get("/{design_id}/changes", responses=answered(History), summary="Read the change log")
def read_changes(
    designs: Designs,
    design_id: DesignId,
    tunnel: Annotated[str | None, Query(title="Tunnel", description="Only changes of this tunnel.", max_length=64)] = None,
) -> Response:
    """Return the newest hundred changes, newest first."""
    return json_answer(designs.history(design_id, tunnel))


@router.get(
    "/{design_id}/revisions/{revision}/way-back", responses=answered(ChangeResult), summary="What leads back to a revision?"
)
async def read_way_back(
    ask: Ask, design_id: DesignId, revision: Annotated[int, Path(title="Revision", ge=0, le=2**31 - 1)]
) -> Response:
    """Return the operations that lead from the design as it stands to an earlier revision; nothing is written."""
    return await ask(DesignService.way_back, design_id, revision)


@router.post("/{design_id}/undo", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Undo the last change that stands")
async def undo_change(ask: Ask, designs: Designs, person: Person, design_id: DesignId, step: StepRequest) -> Response:
    """Take a change back, as a change of its own."""
    written = await run_in_threadpool(designs.undo, step.base(design_id), person, step.change_id)
    return await answer_change(ask, design_id, written)


@router.post("/{design_id}/redo", responses={**answered(ChangeAnswer), **CONFLICT}, summary="Redo the last change undone")
async def redo_change(ask: Ask, designs: Designs, person: Person, design_id: DesignId, step: StepRequest) -> Response:
    """Make an undone change again, as a change of its own."""
    written = await run_in_threadpool(designs.redo, step.base(design_id), person, step.change_id)
    return await answer_change(ask, design_id, written)


@router.get("/{design_id}/export", responses=answered(DesignFile), summary="Export a design file")
async def export_design(
    ask: Ask,
    design_id: DesignId,
    weak_secrets: Annotated[bool, Query(description="Whether it tells what could give weak secrets away.")] = True,
) -> Response:
    """Return the design as a file. It holds no keys: only their references, fingerprints and strength.

    A weak secret could be guessed from its fingerprint and strength, so that it may be left out.
    """
    answer = await ask.answer(DesignService.export, design_id, weak_secrets=weak_secrets)
    disposition = f'attachment; filename="{design_id}.pontifex.json"'
    headers = {"Content-Disposition": disposition, "Cache-Control": "no-store"}
    return Response(answer.octets, media_type="application/json", headers=headers)


class Archiving(BaseModel):
    """Whether a design is put aside."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"archived": True}]})
    archived: bool = Field(title="Archived", strict=True)


@router.put("/{design_id}/name", status_code=204, summary="Rename a design")
def rename_design(designs: Designs, person: Person, design_id: DesignId, new: NewDesign) -> None:
    """Give a design another name, as a change. Its address stays."""
    designs.rename(design_id, new.name, person)


@router.delete("/{design_id}", status_code=204, summary="Delete a design")
def delete_design(designs: Designs, design_id: DesignId) -> None:
    """Delete a design. It can be restored within 30 days, with its history and keys."""
    designs.delete(design_id)


@router.post("/{design_id}/restore", status_code=204, summary="Restore a deleted design")
def restore_design(designs: Designs, design_id: DesignId) -> None:
    """Bring a deleted design back, with its history and keys."""
    designs.restore(design_id)


@router.put("/{design_id}/archived", status_code=204, summary="Archive a design")
def archive_design(designs: Designs, design_id: DesignId, archiving: Archiving) -> None:
    """Put a design aside, so that it is read and not changed; or take it out again."""
    designs.archive(design_id, archived=archiving.archived)


@router.post("/{design_id}/copies", status_code=201, summary="Duplicate a design")
def duplicate_design(designs: Designs, keys: Keys, design_id: DesignId, new: NewDesign) -> DesignSummary:
    """Copy a design with its keys under another name, without its history."""
    return duplicate(designs, keys, design_id, new.name)
