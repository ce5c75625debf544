"""Opening the way to a device, once what it shows is what was compared."""

from __future__ import annotations

from collections.abc import AsyncIterator, Awaitable, Callable, Mapping
from contextlib import AbstractAsyncContextManager, asynccontextmanager
from typing import Final

import anyio
from anyio import to_thread

from pontifex.connectors.connector import Connector, DeviceAccess, DeviceProtocol, DeviceSilent, check_shown
from pontifex.connectors.pinned import WITHIN_S, certificate_at, fingerprint
from pontifex.connectors.restconf import RestconfConnector
from pontifex.core.handover.readings.linux import LinuxNames


async def fingerprint_of(protocol: DeviceProtocol, address: str) -> str:
    """Return the SHA-256 of what a device shows: its certificate, or its host key. Raise DeviceSilent."""
    return await _SHOWN[protocol](address)


@asynccontextmanager
async def opened(names: LinuxNames, access: DeviceAccess) -> AsyncIterator[Connector]:
    """Open the way to a device. Raise DeviceSilent, also where it shows something else than what was compared."""
    async with _OPENED[access.protocol](names, access) as connector:
        yield connector


# RESTCONF: the certificate


async def _certificate(address: str) -> str:
    try:
        with anyio.fail_after(WITHIN_S):
            return await to_thread.run_sync(certificate_at, address, abandon_on_cancel=True)
    except (OSError, TimeoutError, OverflowError):
        raise DeviceSilent(f"nothing that speaks TLS answers at {address}") from None


async def _certificate_shown(address: str) -> str:
    return fingerprint(await _certificate(address))


@asynccontextmanager
async def _by_restconf(names: LinuxNames, access: DeviceAccess) -> AsyncIterator[Connector]:
    certificate = await _certificate(access.address)
    check_shown(fingerprint(certificate), access)
    async with RestconfConnector(names.gateway_id, access, certificate) as connector:
        yield connector


# SSH: the host key. What speaks SSH is loaded where it is used: it is slow to load


async def _host_key_shown(address: str) -> str:
    from pontifex.connectors.by_ssh import host_key_shown

    return await host_key_shown(address)


@asynccontextmanager
async def _by_ssh(names: LinuxNames, access: DeviceAccess) -> AsyncIterator[Connector]:
    from pontifex.connectors.by_ssh import opened_by_ssh

    async with opened_by_ssh(names, access) as connector:
        yield connector


_SHOWN: Final[Mapping[DeviceProtocol, Callable[[str], Awaitable[str]]]] = {
    DeviceProtocol.RESTCONF: _certificate_shown,
    DeviceProtocol.SSH: _host_key_shown,
}
_OPENED: Final[Mapping[DeviceProtocol, Callable[[LinuxNames, DeviceAccess], AbstractAsyncContextManager[Connector]]]] = {
    DeviceProtocol.RESTCONF: _by_restconf,
    DeviceProtocol.SSH: _by_ssh,
}
