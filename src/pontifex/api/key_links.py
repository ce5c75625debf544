"""Links to keys: made by us, opened once by whoever has the spoken code as well."""

from __future__ import annotations

from typing import Any, Final
from urllib.parse import parse_qs
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import REFUSALS, DesignId, Designs, Person, answered, json_answer
from pontifex.core.errors import NotDone
from pontifex.core.handover.sheets.partner_page import closed_html, key_html
from pontifex.services.key_links import KeyLinkService, MadeKeyLink
from pontifex.store.key_links import Opening

router = APIRouter(tags=["keys"])
_NO_STORE: Final = {"Cache-Control": "no-store"}
_EXAMPLE: Final[dict[str, Any]] = {"reference": "8f14e45f-ceea-467f-a8e5-0f6d0a1b2c3d", "hours": 24}
_CLOSED: Final = "It was opened already, has ended, or was tried too often."
_MOST_OCTETS: Final = 4000


class NewKeyLink(BaseModel):
    """A link to a key of the vault."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE]})
    reference: UUID = Field(title="Reference of the key")
    hours: int = Field(default=24, title="Ends after, hours", ge=1, le=168)


def _links(request: Request) -> KeyLinkService:
    service: KeyLinkService = request.app.state.key_links
    return service


@router.post(
    "/api/designs/{design_id}/key-links",
    status_code=201,
    responses={**answered(MadeKeyLink, 201), **REFUSALS},
    summary="Hand over a key",
)
async def make_key_link(request: Request, designs: Designs, design_id: DesignId, person: Person, new: NewKeyLink) -> Response:
    """Make a link that shows a key once, and a code to be spoken on another way; both are told once."""

    def made() -> MadeKeyLink:
        return _links(request).make(designs.get(design_id), new.reference, new.hours, person)

    return json_answer(await run_in_threadpool(made), 201)


@router.get("/key/{token}", include_in_schema=False)
async def ask_for_code(request: Request, token: str) -> Response:
    """Ask for the code; nothing is shown by the link alone."""
    if await run_in_threadpool(_links(request).is_open, token):
        return HTMLResponse(key_html(None), headers=_NO_STORE)
    return HTMLResponse(closed_html(_CLOSED), 410, headers=_NO_STORE)


@router.post("/key/{token}", include_in_schema=False)
async def open_key(request: Request, designs: Designs, token: str) -> Response:
    """Show the key to whoever has the code, once."""
    body = (await request.body())[:_MOST_OCTETS]
    code = parse_qs(body.decode("utf-8", "replace"), max_num_fields=8).get("code", [""])[0]
    opening, opened = await run_in_threadpool(_links(request).opened, token, code)
    if opening is Opening.WRONG:
        return HTMLResponse(key_html(None, is_wrong=True), 403, headers=_NO_STORE)
    if opened is None:
        return HTMLResponse(closed_html(_CLOSED), 410, headers=_NO_STORE)
    try:
        secret = await run_in_threadpool(lambda: _links(request).secret(designs.get(opened.design_id), opened))
    except NotDone as refused:
        return HTMLResponse(closed_html(f"{str(refused)[:1].upper()}{str(refused)[1:]}."), 410, headers=_NO_STORE)
    return HTMLResponse(key_html(secret), headers=_NO_STORE)
