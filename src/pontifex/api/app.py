"""The application: the addresses of its first page, the guard, the built front end, and the rest of the API once it is there."""

from __future__ import annotations

import asyncio
from concurrent.futures import Future
from pathlib import Path
from typing import Final

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.routing import BaseRoute, Match
from starlette.types import ASGIApp, Receive, Scope, Send

from pontifex.api import designs
from pontifex.api.entrance import entrance
from pontifex.api.guard import Guard
from pontifex.api.headers import LINKED_PATHS
from pontifex.api.problems import add_problem_handlers, problem
from pontifex.api.session import Sessions
from pontifex.services import DesignService, KeyService
from pontifex.work import WorkerPool


def create_app(
    design_service: DesignService,
    key_service: KeyService,
    workers: WorkerPool,
    sessions: Sessions,
    hosts: frozenset[str],
    cookie: str,
    front_end: Path,
    build: str,
) -> FastAPI:
    """Return the application. `hosts` are the Host values to answer for, `cookie` is the name of the session's cookie.

    It answers what the first page asks for. Whatever else is asked waits until `complete` has added the rest of the API, which
    loads the computing core: that takes as long as all before it.
    """
    app = FastAPI(openapi_url=None)
    app.state.designs, app.state.keys, app.state.workers, app.state.build = design_service, key_service, workers, build
    app.state.entrance, app.state.rest, app.state.device_server = entrance(sessions, cookie), Future(), None
    app.include_router(app.state.entrance)
    app.include_router(designs.router)
    app.router.routes.append(_Rest(app.state.rest))
    add_problem_handlers(app)
    _add_front_end(app, front_end)
    app.add_middleware(Guard, sessions=sessions, hosts=hosts, cookie=cookie)
    return app


_OF_THE_REST: Final = ("/api/", *LINKED_PATHS)


class _Rest(BaseRoute):
    """All other addresses of the API, and the pages for whoever holds a link."""

    def __init__(self, rest: Future[ASGIApp]) -> None:
        self._rest = rest

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        """Return whether it is one of them."""
        return (Match.FULL if scope["path"].startswith(_OF_THE_REST) else Match.NONE), {}

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer once the rest is there. Whoever leaves meanwhile breaks nothing off but his own request."""
        rest = await asyncio.shield(asyncio.wrap_future(self._rest))
        await rest(scope, receive, send)


def _add_front_end(app: FastAPI, front_end: Path) -> None:
    """Serve the built front end; every path that is no file is a view of it."""
    if (front_end / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=front_end / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def view(path: str) -> Response:
        icon = front_end / "favicon.svg"
        if path == "favicon.svg" and icon.is_file():
            return FileResponse(icon)
        page = front_end / "index.html"
        if not page.is_file():
            return problem(503, "The front end is not built", "Run 'make setup'.")
        return FileResponse(page, headers={"Cache-Control": "no-cache"})
