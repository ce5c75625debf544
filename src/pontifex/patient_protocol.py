"""Connections that say nothing, or only half of a request's head, are closed after a time."""

from __future__ import annotations

import asyncio
from typing import Any, Final

from uvicorn.config import Config
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol
from uvicorn.server import ServerState

HEAD_S: Final = 20.0


class PatientProtocol(HttpToolsProtocol):
    """HTTP/1.1 as uvicorn speaks it, with a time for the head of a request to arrive. The body's time is the guard's."""

    _waits: asyncio.TimerHandle | None = None

    def __init__(
        self,
        config: Config,
        server_state: ServerState,
        app_state: dict[str, Any],
        _loop: asyncio.AbstractEventLoop | None = None,
    ) -> None:
        """Begin to wait for a request: a protocol is made for a connection that is there."""
        super().__init__(config, server_state, app_state, _loop)
        self._wait()

    def on_message_begin(self) -> None:
        """Begin to wait for the rest of a head."""
        super().on_message_begin()
        self._wait()

    def on_headers_complete(self) -> None:
        """Wait no more."""
        self._wait_no_more()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """Wait no more."""
        self._wait_no_more()
        super().connection_lost(exc)

    def _wait(self) -> None:
        self._wait_no_more()
        self._waits = asyncio.get_running_loop().call_later(HEAD_S, self._close)

    def _close(self) -> None:
        self.transport.close()

    def _wait_no_more(self) -> None:
        if self._waits:
            self._waits.cancel()
            self._waits = None
