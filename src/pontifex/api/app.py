"""The application: routes, guard, and the built front end."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, RedirectResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from pontifex.api import (
    clouds,
    connecting,
    designs,
    devices,
    handover,
    key_links,
    keys,
    partners,
    paths,
    people,
    reading,
    reference,
    rehearsing,
    space,
)
from pontifex.api.answers import REFUSALS, definitions
from pontifex.api.guard import Guard
from pontifex.api.problems import add_problem_handlers, problem
from pontifex.api.session import LIFETIME_S, Sessions
from pontifex.services import DesignService, KeyService, RecordServices
from pontifex.work import WorkerPool


def create_app(
    design_service: DesignService,
    key_service: KeyService,
    records: RecordServices,
    workers: WorkerPool,
    sessions: Sessions,
    hosts: frozenset[str],
    cookie: str,
    front_end: Path,
    build: str,
) -> FastAPI:
    """Return the application. `hosts` are the Host values to answer for, `cookie` is the name of the session's cookie."""
    app = _routed(sessions, cookie, front_end)
    app.state.designs, app.state.keys, app.state.build = design_service, key_service, build
    app.state.workers, app.state.runs = workers, records.runs
    app.state.partners, app.state.key_links, app.state.devices = records.partners, records.key_links, records.devices
    app.state.rollouts, app.state.device_server = records.rollouts, None
    app.state.cloud_accounts = records.cloud_accounts
    app.add_middleware(Guard, sessions=sessions, hosts=hosts, cookie=cookie)
    return app


def described() -> dict[str, Any]:
    """Return the description of the API (OpenAPI), which takes no services."""
    return _routed(Sessions(b"", ""), "", Path()).openapi()


def _routed(sessions: Sessions, cookie: str, front_end: Path) -> FastAPI:
    """Return the application with all its addresses, and nothing behind them yet."""
    app = _Application(
        title="Pontifex",
        version="1",
        description="Design VPN tunnels with both ends in view. All writes to a design go through its changes.",
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
    )
    parts = (reference, reading, designs, connecting, space, paths)
    others = (rehearsing, handover, devices, people, clouds, partners, keys, key_links)
    for part in (*parts, *others):
        app.include_router(part.router)
    add_problem_handlers(app)
    _add_entrance(app, sessions, cookie)
    _add_front_end(app, front_end)
    return app


class _Application(FastAPI):
    """An application that adds to its description the models that answers and refusals name by reference."""

    def openapi(self) -> dict[str, Any]:
        """Return the description of the API (OpenAPI)."""
        document = super().openapi()
        schemas = document["components"]["schemas"]
        for name, definition in definitions().items():
            schemas.setdefault(name, definition)
        return document


def _add_entrance(app: FastAPI, sessions: Sessions, cookie: str) -> None:
    @app.get("/open/{ticket}", include_in_schema=False)
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

    @app.delete("/api/session", status_code=204, tags=["reference"], summary="Sign out", responses=REFUSALS)
    def end_session(request: Request) -> Response:
        """End the session of the request: its cookie opens nothing any more."""
        sessions.end(request.cookies.get(cookie, ""))
        answer = Response(status_code=204)
        answer.delete_cookie(cookie, path="/")
        return answer


def _add_front_end(app: FastAPI, front_end: Path) -> None:
    """Serve the built front end; every path that is no file is a view of it."""
    if (front_end / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=front_end / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def view(path: str) -> Response:
        if path.startswith("api/"):
            raise HTTPException(404, "No such address")
        icon = front_end / "favicon.svg"
        if path == "favicon.svg" and icon.is_file():
            return FileResponse(icon)
        page = front_end / "index.html"
        if not page.is_file():
            return problem(503, "The front end is not built", "Run 'make setup'.")
        return FileResponse(page, headers={"Cache-Control": "no-cache"})
