"""Serving people's devices: over TLS, on a port of its own, in a thread of its own."""

from __future__ import annotations

import asyncio
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from threading import Thread

import uvicorn

from pontifex.api.provisioning import create_provisioning_app
from pontifex.own_certificate import OwnCertificate, kept_certificate
from pontifex.services.provisioning import ProvisioningService
from pontifex.settings import Settings

_END_S = 10.0


@dataclass(frozen=True, slots=True)
class DeviceServer:
    """Where devices fetch their profiles, and the certificate that they find there."""

    address: str
    certificate: OwnCertificate


@contextmanager
def device_server(provisioning: ProvisioningService, settings: Settings, listening: socket.socket) -> Iterator[DeviceServer]:
    """Serve devices on a socket until left. The certificate stays the same over restarts: devices have compared it."""
    certificate = kept_certificate("Pontifex, for devices", settings.state / "devices.pem")
    config = uvicorn.Config(
        create_provisioning_app(provisioning),
        ws="none",
        access_log=False,
        log_config=None,
        lifespan="off",
        timeout_graceful_shutdown=1,
        ssl_context_factory=lambda _config, _usual: certificate.context,
    )
    server = uvicorn.Server(config)
    thread = Thread(target=lambda: asyncio.run(server.serve(sockets=[listening])), name="devices", daemon=True)
    thread.start()
    host = f"[{settings.host}]" if settings.host.version == 6 else str(settings.host)
    try:
        yield DeviceServer(f"https://{host}:{listening.getsockname()[1]}", certificate)
    finally:
        server.should_exit = True
        thread.join(timeout=_END_S)
