"""Serving stand-in gateways: each on a port of its own on loopback, all in one thread, with certificates made at the start."""

from __future__ import annotations

import asyncio
import json
import secrets
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from uvicorn.protocols.http.h11_impl import H11Protocol

from pontifex.own_certificate import own_certificate
from pontifex.standins.gateway import GatewayHabit, Settings, StandInGateway
from pontifex.standins.loopback import LoopbackServers
from pontifex.standins.restconf import CONNECTIONS, RestconfGateway, StandInLogin

USER: Final = "stand-in"
_LATE_S: Final = 1.5
_AWAY_S: Final = 2.0
_SAVED_EVERY_S: Final = 1.0


@dataclass(frozen=True, slots=True)
class ServedGateway:
    """Where a stand-in gateway is, and who is let in."""

    device: StandInGateway
    address: str
    login: StandInLogin
    fingerprint: str


class StandInServers:
    """All stand-in gateways of a design. What they keep over a restart stands in a directory, and so outlives this process."""

    def __init__(self, directory: Path, late_s: float = _LATE_S, away_s: float = _AWAY_S) -> None:
        self._directory, self._late_s, self._away_s = directory, late_s, away_s
        self.gateways: dict[str, ServedGateway] = {}
        self._servers = LoopbackServers()

    def start(self, habits: Mapping[str, GatewayHabit], first: Callable[[str], Settings]) -> None:
        """Start a gateway for each id, with what it kept, or with its `first` settings where it was never there."""
        self._directory.mkdir(parents=True, exist_ok=True)
        for gateway_id, habit in habits.items():
            self._serve(gateway_id, habit, self._kept(gateway_id) or first(gateway_id))
        self._servers.start("stand-ins", self._keep)

    def stop(self) -> None:
        """Stop all of them; what each keeps is written down."""
        self._servers.stop()
        self._write()

    def _serve(self, gateway_id: str, habit: GatewayHabit, settings: Settings) -> None:
        device = StandInGateway(gateway_id, habit, settings, time.monotonic)
        login = StandInLogin(USER, secrets.token_urlsafe(18))
        certificate = own_certificate(gateway_id)
        application = RestconfGateway(device, login, self._late_s, self._away_s).application
        address = self._servers.add(application, certificate.context, _CuttableProtocol)
        self.gateways[gateway_id] = ServedGateway(device, address, login, certificate.fingerprint)

    def _kept(self, gateway_id: str) -> Settings | None:
        """Return what a gateway kept when it was last stopped; None where there is nothing, or nothing that can be read."""
        try:
            found = json.loads((self._directory / f"{gateway_id}.json").read_text())
        except (FileNotFoundError, ValueError):
            return None
        return {str(path): str(text) for path, text in found.items()} if isinstance(found, dict) else None

    async def _keep(self) -> None:
        while True:
            await asyncio.sleep(_SAVED_EVERY_S)
            self._write()

    def _write(self) -> None:
        for gateway_id, served in self.gateways.items():
            text = json.dumps(served.device.startup, indent=1, sort_keys=True)
            file = self._directory / f"{gateway_id}.json"
            if not file.is_file() or file.read_text() != text:
                whole = file.with_suffix(".new")
                whole.write_text(text)
                whole.replace(file)


class _CuttableProtocol(H11Protocol):
    """HTTP whose connections a device can cut in the middle of an answer."""

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Remember the connection by its client."""
        assert isinstance(transport, asyncio.Transport)  # as that of every stream is
        super().connection_made(transport)
        if self.client:
            CONNECTIONS[self.client] = transport

    def connection_lost(self, exc: Exception | None) -> None:
        """Forget the connection."""
        if self.client:
            CONNECTIONS.pop(self.client, None)
        super().connection_lost(exc)
