"""Opening the way to a device, once what it shows is what was compared."""

from __future__ import annotations

import hashlib
import hmac
import ssl
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Final

import anyio
from anyio import to_thread

from pontifex.connectors.connector import Access, Connector, DeviceSilent, Protocol
from pontifex.connectors.restconf import RestconfConnector

_SHOWN_WITHIN_S: Final = 10.0


async def fingerprint_of(protocol: Protocol, address: str) -> str:
    """Return the SHA-256 of what a device shows: its certificate, or its host key. Raise DeviceSilent."""
    return _certificate_fingerprint(await _certificate(address))


async def _certificate(address: str) -> str:
    host, port = host_and_port(address)
    try:
        with anyio.fail_after(_SHOWN_WITHIN_S):
            return await to_thread.run_sync(
                lambda: ssl.get_server_certificate((host, port), timeout=_SHOWN_WITHIN_S), abandon_on_cancel=True
            )
    except (OSError, TimeoutError):
        raise DeviceSilent(f"nothing that speaks TLS answers at {address}") from None


def _certificate_fingerprint(pem: str) -> str:
    digest = hashlib.sha256(ssl.PEM_cert_to_DER_cert(pem)).hexdigest().upper()
    return ":".join(digest[at : at + 2] for at in range(0, len(digest), 2))


def host_and_port(address: str) -> tuple[str, int]:
    """Return host and port of an address as it is written in a URL."""
    host, _, port = address.rpartition(":")
    return host.strip("[]"), int(port)


@asynccontextmanager
async def opened(gateway_id: str, access: Access) -> AsyncIterator[Connector]:
    """Open the way to a device. Raise DeviceSilent, also where it shows something else than what was compared."""
    certificate = await _certificate(access.address)
    if not hmac.compare_digest(_certificate_fingerprint(certificate), access.fingerprint):
        raise DeviceSilent("it shows another certificate than the one that was compared; nothing was sent to it")
    async with RestconfConnector(gateway_id, access, certificate) as connector:
        yield connector
