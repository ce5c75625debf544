"""What requests bring along, and how they are answered."""

from __future__ import annotations

from types import NoneType, UnionType
from typing import Annotated, Any, Final, Literal, get_args, get_origin

from fastapi import Depends, Path, Request
from fastapi.responses import Response
from pydantic import TypeAdapter

from pontifex.api.problems import MEDIA_TYPE, Problem
from pontifex.core.as_json import json_octets
from pontifex.core.design_file import DesignFile
from pontifex.services import DesignService, KeyService
from pontifex.services.day import utc_day
from pontifex.work import Answer

_REFERENCE: Final = "#/components/schemas/{model}"
_ANSWERS: Final[dict[str, Any]] = {}  # every model that an address answers by, by how it is written


def answered(model: Any, status: int = 200) -> dict[int | str, dict[str, Any]]:
    """Return the description of an answer, which the endpoint makes itself.

    It names its model by reference: FastAPI would make an adapter of it for each address, and only the description needs that.
    """
    _ANSWERS[str(model)] = model
    return {status: {"content": {"application/json": {"schema": _reference(model)}}}}


def _reference(model: Any) -> dict[str, Any]:
    """Return the schema of a model, of a list of one, or of one that may be absent."""
    if get_origin(model) is list:
        return {"type": "array", "items": _reference(*get_args(model))}
    if get_origin(model) is UnionType:
        return {"anyOf": [{"type": "null"} if part is NoneType else _reference(part) for part in get_args(model)]}
    return {"$ref": _REFERENCE.format(model=getattr(model, "__name__", model))}


def definitions() -> dict[str, Any]:
    """Return the schemas that descriptions of answers and refusals refer to, by their names."""
    models = [*_ANSWERS.values(), Problem, DesignFile]  # import reads its body itself, to tell line and column of what is wrong
    adapters: list[tuple[str, Literal["serialization"], TypeAdapter[Any]]] = [
        (str(model), "serialization", TypeAdapter(model)) for model in models
    ]
    _, document = TypeAdapter.json_schemas(adapters, ref_template=_REFERENCE)
    schemas: dict[str, Any] = document["$defs"]
    return schemas


def _refused(description: str) -> dict[str, Any]:
    return {"description": description, "content": {MEDIA_TYPE: {"schema": _reference(Problem)}}}


REFUSALS: Final[dict[int | str, dict[str, Any]]] = {
    401: _refused("No session"),
    403: _refused("Foreign origin"),
    404: _refused("Not found"),
    413: _refused("Too much at once"),
    421: _refused("Foreign host"),
    422: _refused("Refused, with the field and the reason"),
    503: _refused("The database is not reachable"),
}
CONFLICT: Final[dict[int | str, dict[str, Any]]] = {409: _refused("Somebody was quicker")}
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


def json_octets_answer(answer: Answer, status: int = 200) -> Response:
    """Return what a worker has written as JSON."""
    return Response(answer.octets, status, media_type="application/json", headers={"Cache-Control": "no-store"})


def etag_of(request: Request, design_id: str, incarnation: str, revision: int) -> str:
    """Return the entity tag of what is derived from a state of a design, by this build."""
    day = utc_day().toordinal()  # certificates and exceptions are judged for a day
    return f'"{request.app.state.build}-{design_id}-{incarnation}-{revision}-{day}"'
