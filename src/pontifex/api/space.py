"""Address space: how full it is, where there is room, moving and translating networks, and bringing addresses in."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import APIRouter, Depends, Path, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field, field_validator
from pydantic_core import PydanticCustomError

from pontifex.api.answers import REFUSALS, DesignId, answered, json_octets_answer
from pontifex.api.asking import Ask
from pontifex.core.addressing import Family, Prefix
from pontifex.core.importing import ImportPlan
from pontifex.core.importing.read import MOST_CHARACTERS
from pontifex.core.kinds import KIND_BY_TYPE, NO_GRID, ObjectType
from pontifex.core.space import Usage
from pontifex.core.space.renumbering import RenumberPlan
from pontifex.core.space.room import Offer
from pontifex.core.space.translate import TranslationPlan
from pontifex.core.space.ways_out import WaysOut
from pontifex.services.space import SpaceService, TranslationOption
from pontifex.services.spreadsheet import SpreadsheetText, read_spreadsheet

router = APIRouter(prefix="/api", tags=["address space"], responses=REFUSALS)

_EXAMPLE: Final[dict[str, Any]] = {"text": "kiosks 10.65.8.0/24\nprinter 10.65.8.9", "site_id": "ostvik"}
_FAMILIES: Final = {4: Family.V4, 6: Family.V6}


ObjectPath = Annotated[str, Path(max_length=64, examples=["ostvik-cameras"])]


class ImportText(BaseModel):
    """A text that holds addresses."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE]})
    text: str = Field(title="Text", max_length=MOST_CHARACTERS)
    site_id: str = Field(default="", title="Site", description="Of whatever the text names no site for.", max_length=64)
    gateway_id: str = Field(default="", title="Gateway", description="Which printed it, where a gateway did.", max_length=64)
    rows_of: ObjectType | None = Field(
        default=None, title="Rows of", description="Cells in the order of this kind's columns, or under headings."
    )

    @field_validator("rows_of")
    @classmethod
    def _has_a_grid(cls, type_: ObjectType | None) -> ObjectType | None:
        if type_ and (type_ not in KIND_BY_TYPE or KIND_BY_TYPE[type_].group in NO_GRID):
            raise PydanticCustomError("rows_of", "there is no grid of type '{type}'", {"type": type_.value})
        return type_


class WantedMove(BaseModel):
    """Where a network is to go."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"prefix": "10.65.8.0/23"}]})
    prefix: Prefix | None = Field(default=None, title="New prefix", description="Null for the best free block.")
    working_from: str = Field(default="", title="Network where the person sits", max_length=64)


@router.get("/designs/{design_id}/space", responses=answered(Usage), summary="How full the address space is")
async def read_usage(ask: Ask, design_id: DesignId) -> Response:
    """Return how full supernets, sites and networks are, and what breaks the summary of a site."""
    return await ask(SpaceService.usage, design_id)


@router.get("/designs/{design_id}/sites/{site_id}/room", responses=answered(list[Offer]), summary="Free blocks for a site")
async def read_room(
    ask: Ask,
    design_id: DesignId,
    site_id: ObjectPath,
    length: Annotated[int, Query(title="Length", description="In bits.", ge=0, le=128)],
    family: Annotated[int, Query(title="4 or 6", ge=4, le=6)] = 4,
) -> Response:
    """Return free blocks of a length, those first that keep the site in one piece."""
    return await ask(SpaceService.offers, design_id, site_id, _FAMILIES.get(family, Family.V4), length)


@router.post(
    "/designs/{design_id}/networks/{network_id}/renumbering",
    responses=answered(RenumberPlan),
    summary="Plan to renumber a network",
)
async def plan_renumbering(ask: Ask, design_id: DesignId, network_id: ObjectPath, move: WantedMove) -> Response:
    """Return what changes, the steps in their order, what each client must do, and when a connection is lost. Writes nothing."""
    return await ask(SpaceService.renumber, design_id, network_id, move.prefix, move.working_from)


@router.get(
    "/designs/{design_id}/networks/{network_id}/translations",
    responses=answered(list[TranslationOption]),
    summary="Ways to translate a network",
)
async def read_translation_options(ask: Ask, design_id: DesignId, network_id: ObjectPath) -> Response:
    """Return the ways to live with a collision, each with the change and all that it means."""
    return await ask(SpaceService.translations, design_id, network_id)


@router.get(
    "/designs/{design_id}/translations/{translation_id}", responses=answered(TranslationPlan), summary="What a translation means"
)
async def read_translation(ask: Ask, design_id: DesignId, translation_id: ObjectPath) -> Response:
    """Return where a translation is done, what each side sees, and what has to follow."""
    return await ask(SpaceService.translation_plan, design_id, translation_id)


@router.get("/designs/{design_id}/ways-out", responses=answered(WaysOut), summary="The cheapest way out of all collisions")
async def read_ways_out(ask: Ask, design_id: DesignId) -> Response:
    """Return which networks to move, what it costs, what was compared, and the change that does it."""
    return await ask(SpaceService.ways_out, design_id)


@router.post("/designs/{design_id}/import-plan", responses=answered(ImportPlan), summary="What importing a text would change")
async def read_import(ask: Ask, design_id: DesignId, text: ImportText) -> Response:
    """Say line by line what a text becomes, what it would change, and what can't be read. Writes nothing."""
    return await ask(SpaceService.import_plan, design_id, text.text, text.site_id, text.gateway_id, text.rows_of)


_XLSX: Final = "application/octet-stream"
_FILE_BODY: Final = {"required": True, "content": {_XLSX: {"schema": {"type": "string", "format": "binary"}}}}


async def _body(request: Request) -> bytes:
    return await request.body()


@router.post(
    "/spreadsheet",
    responses=answered(SpreadsheetText),
    summary="Read a spreadsheet file",
    openapi_extra={"requestBody": _FILE_BODY},
)
async def read_spreadsheet_file(ask: Ask, content: Annotated[bytes, Depends(_body)]) -> Response:
    """Return the cells of an XLSX file's first filled sheet as text."""
    return json_octets_answer(await ask.answer_of(read_spreadsheet, content))
