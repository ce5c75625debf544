"""Links for partners: made and ended by us; opened and filled in by whoever holds one, without an account."""

from __future__ import annotations

from typing import Annotated, Any, Final
from urllib.parse import parse_qs
from uuid import UUID

from fastapi import APIRouter, Path, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import REFUSALS, DesignId, Designs, Person, answered, json_answer
from pontifex.api.asking import Ask
from pontifex.api.handover import worksheet_answer
from pontifex.core.errors import NotFound
from pontifex.core.handover.sheets.partner_page import closed_html
from pontifex.core.kinds import Side
from pontifex.services.handover import HandoverService, WorksheetForm
from pontifex.services.partners import LinkClosed, LinkShown, MadeLink, PartnerService
from pontifex.store.partner_links import PartnerLink

router = APIRouter(tags=["handing over"])
_OURS: Final = "/api/designs/{design_id}/partner-links"
_EXAMPLE: Final[dict[str, Any]] = {"tunnel_id": "harbour-tarn", "side": "right", "days": 14}
_MOST_FORM: Final = 100_000  # octets
_NO_STORE: Final = {"Cache-Control": "no-store"}


class NewLink(BaseModel):
    """A link to one end of a tunnel."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE]})
    tunnel_id: str = Field(title="Tunnel", max_length=64)
    side: Side = Field(title="Whose end the partner fills in")
    days: int = Field(default=14, title="Ends after, days", ge=1, le=90)


def _partners(request: Request) -> PartnerService:
    service: PartnerService = request.app.state.partners
    return service


@router.get(_OURS, responses={**answered(list[LinkShown]), **REFUSALS}, summary="Links for partners")
async def read_links(request: Request, designs: Designs, design_id: DesignId) -> Response:
    """Return the links of a design with what came back, the newest first."""
    await run_in_threadpool(designs.standing, design_id)
    return json_answer(await run_in_threadpool(_partners(request).links, design_id))


@router.post(_OURS, status_code=201, responses={**answered(MadeLink, 201), **REFUSALS}, summary="Make a link for a partner")
async def make_link(request: Request, designs: Designs, design_id: DesignId, person: Person, new: NewLink) -> Response:
    """Make a link to one end of a tunnel; where it leads is told once."""

    def made() -> MadeLink:
        return _partners(request).make(designs.get(design_id), new.tunnel_id, new.side, new.days, person)

    return json_answer(await run_in_threadpool(made), 201)


@router.delete(f"{_OURS}/{{link_id}}", status_code=204, summary="End a link", responses=REFUSALS)
async def end_link(request: Request, design_id: DesignId, link_id: Annotated[UUID, Path(title="Link")]) -> Response:
    """End a link before its time."""
    await run_in_threadpool(_partners(request).revoke, design_id, link_id)
    return Response(status_code=204)


@router.get("/partner/{token}", include_in_schema=False)
async def open_link(ask: Ask, request: Request, token: str) -> Response:
    """Show a partner what we use, and ask for what they do."""
    service = _partners(request)
    try:
        link = await run_in_threadpool(service.opened, token)
        return HTMLResponse(await _page(ask, service, link, token), headers=_NO_STORE)
    except LinkClosed as closed:
        return HTMLResponse(closed_html(str(closed)), closed.code, headers=_NO_STORE)
    except NotFound:
        return HTMLResponse(closed_html("The tunnel that it was about is gone."), 410, headers=_NO_STORE)


@router.get("/partner/{token}/worksheet.{form}", include_in_schema=False)
async def read_worksheet(ask: Ask, request: Request, token: str, form: WorksheetForm) -> Response:
    """Give a partner the same as a file, to be filled in and sent back."""
    try:
        link = await run_in_threadpool(_partners(request).opened, token)
        written = await ask.answer(HandoverService.worksheet, link.design_id, link.tunnel_id, Side(link.side), form)
    except LinkClosed as closed:
        return HTMLResponse(closed_html(str(closed)), closed.code, headers=_NO_STORE)
    except NotFound:
        return HTMLResponse(closed_html("The tunnel that it was about is gone."), 410, headers=_NO_STORE)
    return worksheet_answer(written, form)


@router.post("/partner/{token}", include_in_schema=False)
async def fill_in(request: Request, token: str) -> Response:
    """Keep what a partner sends; it changes nothing until somebody reads it into the design."""
    service = _partners(request)
    body = await request.body()
    try:
        link = await run_in_threadpool(service.opened, token)
    except LinkClosed as closed:
        return HTMLResponse(closed_html(str(closed)), closed.code, headers=_NO_STORE)
    if len(body) > _MOST_FORM:
        return HTMLResponse(closed_html("This is more than the page asks for; nothing was kept."), 413, headers=_NO_STORE)
    read = parse_qs(body.decode("utf-8", "replace"), max_num_fields=64)
    await run_in_threadpool(service.answer, link, {name: values[0] for name, values in read.items()})
    return RedirectResponse(request.url.path, 303, headers=_NO_STORE)


async def _page(ask: Ask, service: PartnerService, link: PartnerLink, token: str) -> str:
    side = Side(link.side)
    ours = await ask.answer(HandoverService.sheet, link.design_id, link.tunnel_id, side.other)
    partner = await ask.answer(HandoverService.keeper, link.design_id, link.tunnel_id, side)
    return await run_in_threadpool(service.page, link, token, ours.octets, partner.octets.decode())
