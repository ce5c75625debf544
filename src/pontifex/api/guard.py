"""What stands before every request: Host and Origin, the session, and the size of the body."""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Any, Final

import structlog
from starlette.datastructures import Headers
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pontifex.api.headers import SAFE_METHODS, add_headers
from pontifex.api.problems import problem
from pontifex.api.session import Sessions

_MOST_BYTES: Final = 4_000_000
_MOST_BYTES_BY_PATH: Final = {  # by how the path ends
    "/changes": 16_000_000,  # ten thousand networks, brought in as one change
    "/api/designs/import": 64_000_000,  # a design file holds everything at once
    "/api/spreadsheet": 64_000_000,
    "/import-plan": 64_000_000,
}
_OPEN_PATHS: Final = ("/api/health",)
_TOO_LARGE: Final = 413


def _most_bytes(path: str) -> int:
    return next((most for end, most in _MOST_BYTES_BY_PATH.items() if path.endswith(end)), _MOST_BYTES)


class _Body:
    """Counts what arrives, for requests that don't say how long they are, and cuts off what is too much."""

    def __init__(self, receive: Receive, most: int) -> None:
        self._receive, self._most, self._taken = receive, most, 0

    @property
    def too_large(self) -> bool:
        """Whether more came than a request may hold."""
        return self._taken > self._most

    async def receive(self) -> Message:
        """Return the next part, or the end of the request once it is too large."""
        message = await self._receive()
        self._taken += len(message.get("body", b""))
        return {"type": "http.disconnect"} if self.too_large else message


@dataclass(frozen=True)
class Guard:
    """ASGI middleware that answers in the application's stead when a request may not pass."""

    app: ASGIApp
    sessions: Sessions
    hosts: frozenset[str]  # Host values that browsers may use
    cookie: str

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let the request pass, or answer why not; log method, path, status and time, and nothing else."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        started = time.perf_counter()
        status = 500
        body = _Body(receive, _most_bytes(scope["path"]))

        async def sending(message: Message) -> None:
            nonlocal status
            if body.too_large:
                return  # what the application says of a body that was cut off
            if message["type"] == "http.response.start":
                status = message["status"]
                add_headers(message.setdefault("headers", []), scope["path"])
            await send(message)

        async def answering(message: Message) -> None:
            if message["type"] == "http.response.start":
                add_headers(message.setdefault("headers", []), scope["path"])
            await send(message)

        refusal = self._refusal(HTTPConnection(scope))
        await (refusal or self.app)(scope, body.receive, sending)
        if body.too_large:
            await _too_large(scope["path"])(scope, receive, answering)
            status = _TOO_LARGE
        path = "/open/…" if scope["path"].startswith("/open/") else scope["path"]
        milliseconds = round((time.perf_counter() - started) * 1000, 1)
        structlog.get_logger("http").debug("request", method=scope["method"], path=path, status=status, ms=milliseconds)

    def _refusal(self, connection: HTTPConnection) -> Any:
        headers, path, method = connection.headers, connection.url.path, connection.scope["method"]
        if headers.get("host", "") not in self.hosts:
            return problem(421, "Foreign host", "This server doesn't answer for that host name; use the address it printed.")
        origin = headers.get("origin")
        if origin is not None and origin not in {f"{scheme}://{host}" for host in self.hosts for scheme in ("http", "https")}:
            return problem(403, "Foreign origin", "A page of another origin may not use this server.")
        if method not in SAFE_METHODS and headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return problem(403, "Foreign origin", "A page of another origin may not change anything here.")
        if path.startswith("/api/") and path not in _OPEN_PATHS:
            person = self.sessions.person_of(connection.cookies.get(self.cookie, ""))
            if person is None:
                return problem(401, "No session", "Open the address that the server printed when it started.")
            connection.scope["person"] = person
        return _too_large(path) if _declared_length(headers) > _most_bytes(path) else None


def _declared_length(headers: Headers) -> int:
    text = headers.get("content-length", "0")
    return int(text) if text.isdigit() else 0


def _too_large(path: str) -> Any:
    most = _most_bytes(path) // 1_000_000
    return problem(_TOO_LARGE, "Too much at once", f"A request may hold {most} MB at most. Split the paste or the file.")
