"""Problem details (RFC 9457): one place turns exceptions into answers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException

from pontifex.api.headers import SAFE_METHODS, SECURITY_HEADERS
from pontifex.core.design_file import UnreadableDesign
from pontifex.core.errors import FieldRefused, NotDone
from pontifex.core.model import ChangeRefused
from pontifex.core.validation_reasons import reason_of
from pontifex.store import ChangeConflict, LoggedChange
from pontifex.store.errors import unavailable
from pontifex.work import Withdrawn

MEDIA_TYPE: Final = "application/problem+json"
_MOST_NAMED: Final = 5  # objects that a conflict names
_MOST_MEANWHILE: Final = 20  # changes that it tells one by one


class FieldProblem(BaseModel):
    """What is wrong with one field."""

    pointer: str = Field(title="JSON pointer into the request", examples=["/operations/0/object/prefix"])
    detail: str = Field(title="Reason", examples=["host bits are set in 10.64.0.1/22; did you mean 10.64.0.0/22?"])


class Problem(BaseModel):
    """Why a request was refused. Nothing of it was carried out."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"title": "The change was refused", "status": 422, "detail": "One field."}]}
    )

    type: str = Field(default="about:blank", title="Type")
    title: str = Field(title="Title")
    status: int = Field(title="HTTP status")
    detail: str = Field(title="Detail")
    errors: list[FieldProblem] = Field(default=[], title="Fields that are refused")
    meanwhile: list[LoggedChange] = Field(
        default=[], title="Changes that stand in the way", description="The newest ones, with what they did. Only with 409."
    )
    meanwhile_count: int = Field(default=0, title="How many changes stand in the way")


def problem(
    status: int,
    title: str,
    detail: str,
    *,
    errors: Sequence[FieldProblem] = (),
    meanwhile: Sequence[LoggedChange] = (),
    meanwhile_count: int = 0,
) -> Response:
    """Return an answer with problem details."""
    body = Problem(
        title=title,
        status=status,
        detail=detail,
        errors=list(errors),
        meanwhile=list(meanwhile),
        meanwhile_count=meanwhile_count,
    )
    return Response(body.model_dump_json(), status, media_type=MEDIA_TYPE, headers={"Cache-Control": "no-store"})


def add_problem_handlers(app: FastAPI) -> None:
    """Register the answer to every exception that a request may end in."""
    app.add_exception_handler(NotDone, _not_done)
    app.add_exception_handler(ChangeConflict, _conflict)
    app.add_exception_handler(ChangeRefused, _refused)
    app.add_exception_handler(FieldRefused, _field)
    app.add_exception_handler(UnreadableDesign, _unreadable)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(HTTPException, _plain)
    app.add_exception_handler(DBAPIError, _database)
    app.add_exception_handler(Withdrawn, _gone)
    app.add_exception_handler(Exception, _unforeseen)


def _not_done(_request: Request, error: Any) -> Response:
    text = str(error)
    return problem(error.status, error.title, f"{text[:1].upper()}{text[1:]}.")


def _not_accepted(error: NotDone, errors: list[FieldProblem]) -> Response:
    return problem(error.status, error.title, _counted(errors), errors=errors)


def _conflict(_request: Request, error: Any) -> Response:
    names = sorted({f"{field.type.value} '{field.name}'" for change in error.meanwhile for field in change.fields})
    more = f" and {len(names) - _MOST_NAMED} more" if len(names) > _MOST_NAMED else ""
    what = f"{', '.join(names[:_MOST_NAMED])}{more}" if names else "the design"
    if error.is_other_history:
        detail = "This design has been replaced since: it has another history now. Read it again; nothing was written."
        return problem(error.status, error.title, detail)
    detail = f"Changed meanwhile: {what}. The design is at revision {error.revision} now; nothing of this change was written."
    newest, count = error.meanwhile[-_MOST_MEANWHILE:], len(error.meanwhile)
    return problem(error.status, error.title, detail, meanwhile=newest, meanwhile_count=count)


def _refused(_request: Request, error: Any) -> Response:
    errors = [
        FieldProblem(pointer=f"/operations/{fault.index}/{_object_path(fault.field)}".rstrip("/"), detail=fault.reason)
        for fault in error.problems
    ]
    return _not_accepted(error, errors)


def _field(_request: Request, error: Any) -> Response:
    return _not_accepted(error, [FieldProblem(pointer=f"/{error.field}", detail=error.reason)])


def _object_path(field: str) -> str:
    return field if field in ("", "id") else f"object/{field}"


def _unreadable(_request: Request, error: Any) -> Response:
    return _not_accepted(error, [FieldProblem(pointer=fault.place, detail=fault.reason) for fault in error.problems])


def _invalid(request: Request, error: Any) -> Response:
    """Say what is wrong with each field; where secrets are sent, without the name of one that shouldn't be there."""
    holds_secrets = "/keys" in getattr(request.scope.get("route"), "path", "")
    errors = [
        FieldProblem(
            pointer=_pointer(refusal["loc"][:-1] if holds_secrets and refusal["type"] == "extra_forbidden" else refusal["loc"]),
            detail=reason_of(refusal),
        )
        for refusal in error.errors()
    ]
    return problem(422, "The request was refused", _counted(errors), errors=errors)


_NOT_IN_REQUEST: Final = ("body", "remove", "renumber-network", "translate", "set", "generate")


def _pointer(location: Sequence[int | str]) -> str:
    """Write a Pydantic location as JSON pointer; names of union members ("put-site") are no part of the request."""
    parts = [str(part) for part in location if not str(part).startswith("put-") and part not in _NOT_IN_REQUEST]
    return "".join(f"/{part}" for part in parts)


def _counted(errors: Sequence[FieldProblem]) -> str:
    first = f"{errors[0].pointer or 'The request'}: {errors[0].detail}."
    return first if len(errors) == 1 else f"{first} {len(errors) - 1} more in the list of errors."


def _plain(_request: Request, error: Any) -> Response:
    if error.status_code == 400:
        return problem(400, "The body can't be read", "It is not JSON, or holds a number of thousands of digits.")
    return problem(error.status_code, str(error.detail), f"{error.detail}.")


def _gone(_request: Request, _error: Exception) -> Response:
    """Whoever asked has closed the connection: the status is for the log."""
    return Response(status_code=499)


def _database(request: Request, error: Any) -> Response:
    """Tell trouble of the database from an error of ours. The pool connects anew by itself."""
    said = "Nothing was written." if request.method in SAFE_METHODS else "Whether this was written isn't known; read it again."
    trouble = unavailable(error, said)
    if trouble is None:
        raise error
    structlog.get_logger("api").error("database error", kind=type(error.orig).__name__)
    return _not_done(request, trouble)


def _unforeseen(_request: Request, error: Exception) -> Response:
    """Answer for an error of ours. It stands outside of the guard, so that it brings the headers itself."""
    structlog.get_logger("api").error("unforeseen error", kind=type(error).__name__, exc_info=error)
    answer = problem(500, "This should not happen", "The server's log says where. Nothing was written.")
    answer.raw_headers.extend(SECURITY_HEADERS)
    return answer
