"""Designs: list, make, read, import, export, rename, delete, archive and copy."""

from __future__ import annotations

from typing import Annotated, Final

from fastapi import APIRouter, Depends, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from pontifex.api.answers import REFUSALS, UNCHANGED, DesignId, Designs, Keys, Person, answered, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.core.design_file import DesignFile, FileProblem, UnreadableDesign
from pontifex.core.kinds import Name
from pontifex.core.model import Design
from pontifex.services import DesignService
from pontifex.services.duplicates import duplicate
from pontifex.store import DesignSummary

router = APIRouter(prefix="/api/designs", tags=["designs"], responses=REFUSALS)


class NewDesign(BaseModel):
    """An empty design to be made."""

    model_config = ConfigDict(extra="forbid")
    name: Name


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
