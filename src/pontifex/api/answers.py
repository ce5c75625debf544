"""Answers that cost no body while a design stays at its revision."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import Depends, Path, Request
from fastapi.responses import Response

from pontifex.api.problems import Problem
from pontifex.core.as_json import json_octets
from pontifex.services import DesignService, KeyService

REFUSALS: Final[dict[int | str, dict[str, Any]]] = {
    status: {"model": Problem, "description": text}
    for status, text in {
        401: "No session",
        403: "Foreign origin",
        404: "Not found",
        413: "Too much at once",
        421: "Foreign host",
        422: "Refused, with the field and the reason",
        503: "The database is not reachable",
    }.items()
}
CONFLICT: Final[dict[int | str, dict[str, Any]]] = {409: {"model": Problem, "description": "Somebody was quicker"}}
UNCHANGED: Final[dict[int | str, dict[str, Any]]] = {304: {"description": "Unchanged since the ETag given"}}

DesignId = Annotated[str, Path(title="Design", max_length=64, pattern=r"^[a-z0-9-]+$", examples=["skerry-line"])]


def _designs(request: Request) -> DesignService:
    service: DesignService = request.app.state.designs
    return service


def _keys(request: Request) -> KeyService:
    service: KeyService = request.app.state.keys
    return service


def _person(request: Request) -> str:
    person: str = request.scope["person"]
    return person


Designs = Annotated[DesignService, Depends(_designs)]
Keys = Annotated[KeyService, Depends(_keys)]
Person = Annotated[str, Depends(_person)]


def json_answer(result: object, status: int = 200) -> Response:
    """Return a result as JSON."""
    return Response(json_octets(result), status, media_type="application/json", headers={"Cache-Control": "no-store"})


def etag_of(request: Request, design_id: str, revision: int) -> str:
    """Return the entity tag of what is derived from a design at a revision, by this build."""
    day = request.app.state.designs.today.toordinal()  # certificates and exceptions are judged for a day
    return f'"{request.app.state.build}-{design_id}-{revision}-{day}"'


def unchanged(request: Request, design_id: str, revision: int) -> Response | None:
    """Return the empty answer when the client has this revision already."""
    tag = etag_of(request, design_id, revision)
    if tag in request.headers.get("if-none-match", ""):
        return Response(status_code=304, headers={"ETag": tag, "Cache-Control": "no-cache"})
    return None


def revised_answer(request: Request, design_id: str, revision: int, result: object) -> Response:
    """Return a result that holds for a revision, with its entity tag."""
    tag = etag_of(request, design_id, revision)
    headers = {"ETag": tag, "Cache-Control": "no-cache"}
    return Response(json_octets(result), media_type="application/json", headers=headers)
