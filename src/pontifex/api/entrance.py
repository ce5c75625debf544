"""The way in and out: the address that opens a session, whose session it is, and that the server is alive."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, Field

from pontifex.api.answers import REFUSALS, Person
from pontifex.api.problems import problem
from pontifex.api.session import LIFETIME_S, Sessions


class SessionShown(BaseModel):
    """The session of the request."""

    person: str = Field(title="Who the change log names")


class Health(BaseModel):
    """That the server answers."""

    alive: bool
    failed_checks: int = Field(title="Checks that ended in an error of Pontifex itself", description="Since it started.")


def entrance(sessions: Sessions, cookie: str) -> APIRouter:
    """Return the addresses that open, show and end sessions, which `cookie` carries."""
    router = APIRouter(tags=["reference"])

    @router.get("/api/health", summary="Is the server alive?", responses=REFUSALS)
    async def read_health(request: Request) -> Health:
        """Answer without a session, without the database, and without anything that other requests wait for."""
        return Health(alive=True, failed_checks=request.app.state.workers.failed_checks)

    @router.get("/api/session", summary="Whose session is this?", responses=REFUSALS)
    def read_session(person: Person) -> SessionShown:
        """Return the person of the session."""
        return SessionShown(person=person)

    @router.get("/open/{ticket}", include_in_schema=False)
    def open_session(request: Request, ticket: str) -> Response:
        """Open a session for whoever holds the printed address, once; who has a session already goes on in it."""
        answer = RedirectResponse(sessions.start, 303, headers={"Cache-Control": "no-store"})
        if sessions.session_of(request.cookies.get(cookie, "")):
            return answer
        opened = sessions.redeem(ticket)
        if opened is None:
            what_to_do = "It opens one session, within an hour. Have 'pontifex ticket' print another one."
            return problem(403, "This address has been used or has expired", what_to_do)
        is_secure = request.url.scheme == "https"
        answer.set_cookie(cookie, opened, max_age=LIFETIME_S, httponly=True, secure=is_secure, samesite="lax", path="/")
        return answer

    @router.delete("/api/session", status_code=204, summary="Sign out", responses=REFUSALS)
    def end_session(request: Request) -> Response:
        """End the session of the request: its cookie opens nothing any more."""
        sessions.end(request.cookies.get(cookie, ""))
        answer = Response(status_code=204)
        answer.delete_cookie(cookie, path="/")
        return answer

    return router
