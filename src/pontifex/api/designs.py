"""Designs: list, read, change, undo, history, import and export."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter, Depends, Path, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from pontifex.api.answers import CONFLICT, REFUSALS, UNCHANGED, DesignId, Designs, Person, json_answer, revised_answer, unchanged
from pontifex.core.design_file import DesignFile, FileProblem, UnreadableDesign, write_design_file
from pontifex.core.find import Hit, find
from pontifex.core.findings import Analysis
from pontifex.core.kinds import Name
from pontifex.core.kinds.fields import ONE_LINE
from pontifex.core.matching import Match
from pontifex.core.model import Design, Operation
from pontifex.services import ChangeResult, DesignSummary, History

router = APIRouter(prefix="/api/designs", tags=["designs"], responses=REFUSALS)

_EXAMPLE_CHANGE: Final[dict[str, Any]] = {
    "base_revision": 3,
    "note": "Add the yard",
    "operations": [{"op": "put-site", "object": {"id": "yard", "name": "Yard", "kind": "office"}}],
}


BaseRevision = Annotated[
    int, Field(title="Base revision", description="The revision that the person saw.", ge=0, le=2**31 - 1, strict=True)
]


class NewDesign(BaseModel):
    """An empty design to be made."""

    model_config = ConfigDict(extra="forbid")
    name: Name


class Change(BaseModel):
    """A change: all of its operations, or none."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE_CHANGE]})
    base_revision: BaseRevision
    note: str = Field(
        title="Note", description="What the change is for, in the log.", min_length=1, max_length=200, pattern=ONE_LINE
    )
    operations: list[Operation] = Field(title="Operations", min_length=1, max_length=20_000)
    dry_run: bool = Field(default=False, title="Only try", description="Say what would change, and write nothing.", strict=True)


class StepRequest(BaseModel):
    """An undo or redo."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"base_revision": 4}]})
    base_revision: BaseRevision


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
def list_designs(designs: Designs) -> list[DesignSummary]:
    """Return all designs by name."""
    return designs.list()


@router.post("", status_code=201, summary="Make an empty design", response_model=DesignSummary)
def create_design(designs: Designs, new: NewDesign) -> DesignSummary:
    """Make a design without objects. Its id is made of its name."""
    design = designs.create(new.name)
    return DesignSummary(id=design.id, name=design.name, revision=design.revision)


@router.post("/import", status_code=201, summary="Import a design file", openapi_extra={"requestBody": _FILE_BODY})
def import_design(designs: Designs, text: Annotated[str, Depends(_body_text)]) -> DesignSummary:
    """Make a design of a design file; nothing is made when any place of it is wrong."""
    design = designs.import_text(text)
    return DesignSummary(id=design.id, name=design.name, revision=design.revision)


@router.get("/{design_id}", response_model=Design, responses=UNCHANGED, summary="Read a design")
def read_design(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return the design as it stands. With the ETag of a revision that still stands, the answer is 304 without a body."""
    same = unchanged(request, design_id, designs.revision(design_id))
    if same:
        return same
    design = designs.get(design_id)
    return revised_answer(request, design_id, design.revision, design)


@router.get("/{design_id}/analysis", response_model=Analysis, responses=UNCHANGED, summary="Forecasts and findings")
def read_analysis(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return the forecasts of all tunnels, the collisions of networks and all findings with their remedies."""
    same = unchanged(request, design_id, designs.revision(design_id))
    if same:
        return same
    analysis = designs.analysis(design_id)
    return revised_answer(request, design_id, analysis.revision, analysis)


@router.get(
    "/{design_id}/tunnels/{tunnel_id}/match", response_model=Match, responses=UNCHANGED, summary="Compare the ends of a tunnel"
)
def read_match(
    request: Request,
    designs: Designs,
    design_id: DesignId,
    tunnel_id: Annotated[str, Path(title="Tunnel", max_length=64, examples=["harbour-ostvik"])],
) -> Response:
    """Return the two ends of a tunnel side by side, row by row."""
    same = unchanged(request, design_id, designs.revision(design_id))
    if same:
        return same
    revision, match = designs.match(design_id, tunnel_id)
    return revised_answer(request, design_id, revision, match)


@router.get("/{design_id}/find", summary="Find or ask")
def find_in_design(
    designs: Designs, design_id: DesignId, q: Annotated[str, Query(title="Name, prefix or address", max_length=100)]
) -> list[Hit]:
    """Return what a name, a prefix or an address is in this design."""
    return list(find(designs.get(design_id), q))


@router.post("/{design_id}/changes", response_model=ChangeResult, responses=CONFLICT, summary="Change a design")
def change_design(designs: Designs, person: Person, design_id: DesignId, change: Change) -> Response:
    """Apply all operations in one transaction, or refuse the change whole with the reason for each operation."""
    if change.dry_run:
        return json_answer(designs.try_change(design_id, change.operations))
    return json_answer(designs.change(design_id, change.base_revision, change.operations, change.note, person))


@router.get("/{design_id}/changes", response_model=History, summary="Read the change log")
def read_changes(
    designs: Designs,
    design_id: DesignId,
    tunnel: Annotated[str | None, Query(title="Tunnel", description="Only changes of this tunnel.", max_length=64)] = None,
) -> Response:
    """Return the newest hundred changes, newest first."""
    return json_answer(designs.history(design_id, tunnel))


@router.post("/{design_id}/undo", response_model=ChangeResult, responses=CONFLICT, summary="Undo the last change that stands")
def undo_change(designs: Designs, person: Person, design_id: DesignId, step: StepRequest) -> Response:
    """Take a change back, as a change of its own."""
    return json_answer(designs.undo(design_id, step.base_revision, person))


@router.post("/{design_id}/redo", response_model=ChangeResult, responses=CONFLICT, summary="Redo the last change undone")
def redo_change(designs: Designs, person: Person, design_id: DesignId, step: StepRequest) -> Response:
    """Make an undone change again, as a change of its own."""
    return json_answer(designs.redo(design_id, step.base_revision, person))


@router.get("/{design_id}/export", response_model=DesignFile, summary="Export a design file")
def export_design(designs: Designs, design_id: DesignId) -> Response:
    """Return the design as a file. It holds no keys: only their references, fingerprints and strength."""
    text = write_design_file(designs.get(design_id))
    disposition = f'attachment; filename="{design_id}.pontifex.json"'
    return Response(
        text, media_type="application/json", headers={"Content-Disposition": disposition, "Cache-Control": "no-store"}
    )
