"""Web applications of stand-ins: each on a port of its own on loopback, all in one thread."""

from __future__ import annotations

import asyncio
import socket
import ssl
from collections.abc import Callable, Coroutine
from threading import Thread
from typing import Final

import uvicorn
from starlette.types import ASGIApp
from uvicorn.protocols.http.h11_impl import H11Protocol

from pontifex.own_certificate import LOOPBACK

_STOPPED_WITHIN_S: Final = 10


class LoopbackServers:
    """Serves applications over TLS until it is stopped."""

    def __init__(self) -> None:
        self._serving: list[tuple[uvicorn.Server, socket.socket]] = []
        self._thread: Thread | None = None

    def add(self, application: ASGIApp, context: ssl.SSLContext, http: type[H11Protocol] = H11Protocol) -> str:
        """Listen for an application on a free port, and return its host and port. It is served once `start` is called."""
        listening = socket.socket()
        listening.bind((LOOPBACK, 0))
        listening.listen(64)
        config = uvicorn.Config(
            application,
            http=http,
            ws="none",
            access_log=False,
            log_config=None,
            lifespan="off",
            timeout_graceful_shutdown=1,
            ssl_context_factory=lambda _config, _usual: context,
        )
        self._serving.append((uvicorn.Server(config), listening))
        return f"{LOOPBACK}:{listening.getsockname()[1]}"

    def start(self, name: str, meanwhile: Callable[[], Coroutine[None, None, None]] | None = None) -> None:
        """Serve them in a thread of that name, with something that runs beside them."""
        self._thread = Thread(target=lambda: asyncio.run(self._serve(meanwhile)), name=name, daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Stop all of them."""
        for server, _ in self._serving:
            server.should_exit = True
        if self._thread:
            self._thread.join(timeout=_STOPPED_WITHIN_S)

    async def _serve(self, meanwhile: Callable[[], Coroutine[None, None, None]] | None) -> None:
        beside = asyncio.create_task(meanwhile()) if meanwhile else None
        await asyncio.gather(*(server.serve(sockets=[listening]) for server, listening in self._serving))
        if beside:
            beside.cancel()
