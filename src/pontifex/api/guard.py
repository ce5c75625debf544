"""What stands before every request: Host and Origin, the session, rates, and the size of the body and the time it takes."""

from __future__ import annotations

import asyncio
import time
from dataclasses import dataclass, field
from typing import Any, Final
from urllib.parse import urlsplit

import structlog
from starlette.datastructures import Headers
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pontifex.api.headers import LINKED_PATHS, SAFE_METHODS, add_headers
from pontifex.api.problems import problem
from pontifex.api.rates import Rates
from pontifex.api.session import Session, Sessions

_MOST_BYTES: Final = 4_000_000
_MOST_BYTES_BY_PATH: Final = {  # by how the path ends
    "/changes": 16_000_000,  # ten thousand networks, brought in as one change
    "/api/designs/import": 64_000_000,  # a design file holds everything at once
    "/api/spreadsheet": 64_000_000,
    "/import-plan": 64_000_000,
    "/people": 16_000_000,  # a hundred thousand lines
}
_BODY_S: Final = 60.0  # for a body to arrive
_OPEN_PATHS: Final = ("/api/health",)
_SECRET_PATHS: Final = ("/open/", *LINKED_PATHS)  # what follows opens something


def _most_bytes(path: str) -> int:
    return next((most for end, most in _MOST_BYTES_BY_PATH.items() if path.endswith(end)), _MOST_BYTES)


class _Body:
    """Counts what arrives, for requests that don't say how long they are, and cuts off what is too much or too slow."""

    def __init__(self, receive: Receive, path: str) -> None:
        self._receive, self._path = receive, path
        self._taken, self._ends_at = 0, time.monotonic() + _BODY_S
        self._is_whole = False
        self.refusal: Any = None  # the answer to a body that was cut off

    async def receive(self) -> Message:
        """Return the next part, or the end of the request once it is cut off."""
        if self._is_whole:
            return await self._receive()  # the end of the connection, whenever that is
        try:
            message = await asyncio.wait_for(self._receive(), max(0.0, self._ends_at - time.monotonic()))
        except TimeoutError:
            self.refusal = problem(408, "Too slow", f"A request has to arrive within {_BODY_S:.0f} s. Send it again.")
            return {"type": "http.disconnect"}
        self._taken += len(message.get("body", b""))
        self._is_whole = not message.get("more_body", False)
        if self._taken > _most_bytes(self._path):
            self.refusal = _too_large(self._path)
            return {"type": "http.disconnect"}
        return message


@dataclass(frozen=True)
class Guard:
    """ASGI middleware that answers in the application's stead when a request may not pass."""

    app: ASGIApp
    sessions: Sessions
    hosts: frozenset[str]  # Host values that browsers may use
    cookie: str
    rates: Rates = field(default_factory=Rates)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let the request pass, or answer why not; log method, path, status and time, and nothing else."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        started = time.perf_counter()
        status = 500
        body = _Body(receive, scope["path"])

        async def answering(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                add_headers(message.setdefault("headers", []), scope["path"])
            await send(message)

        async def sending(message: Message) -> None:
            if body.refusal is None:  # else it is what the application says of a body that was cut off
                await answering(message)

        refusal = self._refusal(HTTPConnection(scope))
        await (refusal or self.app)(scope, body.receive, sending)
        if body.refusal is not None:
            await body.refusal(scope, receive, answering)
        path = next((f"{secret}…" for secret in _SECRET_PATHS if scope["path"].startswith(secret)), scope["path"])
        milliseconds = round((time.perf_counter() - started) * 1000, 1)
        structlog.get_logger("http").debug("request", method=scope["method"], path=path, status=status, ms=milliseconds)

    def _refusal(self, connection: HTTPConnection) -> Any:
        headers, path = connection.headers, connection.url.path
        session = self.sessions.session_of(connection.cookies.get(self.cookie, ""))
        foreign = self._foreign(headers, connection.scope["method"])
        if foreign:
            return foreign
        wait_s = self.rates.wait_s(_who(connection, session))
        if wait_s:
            answer = problem(429, "Too many requests", f"Ask again in {wait_s} s.")
            answer.headers["Retry-After"] = str(wait_s)
            return answer
        if path.startswith("/api/") and path not in _OPEN_PATHS:
            if session is None:
                return problem(
                    401, "No session", "Open the address that the server printed, or have 'pontifex ticket' print another."
                )
            connection.scope["person"] = session.person
        return _too_large(path) if _declared_length(headers) > _most_bytes(path) else None

    def _foreign(self, headers: Headers, method: str) -> Any:
        """Return the refusal of what comes from elsewhere; a page on another port of this host is elsewhere, too."""
        host = headers.get("host", "")
        if host not in self.hosts:
            return problem(421, "Foreign host", "This server doesn't answer for that host name; use the address it printed.")
        origin = headers.get("origin")
        if origin is not None and (urlsplit(origin).scheme not in ("http", "https") or urlsplit(origin).netloc != host):
            return problem(403, "Foreign origin", "A page of another origin may not use this server.")
        if method not in SAFE_METHODS and headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return problem(403, "Foreign origin", "A page of another origin may not change anything here.")
        return None


def _who(connection: HTTPConnection, session: Session | None) -> str:
    if session:
        return f"session {session.id}"
    return f"address {connection.client.host if connection.client else ''}"


def _declared_length(headers: Headers) -> int:
    text = headers.get("content-length", "0")
    return int(text) if text.isdigit() else 0


def _too_large(path: str) -> Any:
    most = _most_bytes(path) // 1_000_000
    return problem(413, "Too much at once", f"A request may hold {most} MB at most. Split the paste or the file.")
