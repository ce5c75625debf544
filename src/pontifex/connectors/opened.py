"""Opening the way to a device, once what it shows is what was compared."""

from __future__ import annotations

import hmac
from collections.abc import AsyncIterator, Awaitable, Callable, Mapping
from contextlib import AbstractAsyncContextManager, asynccontextmanager
from typing import Final

import anyio
import asyncssh
from anyio import to_thread

from pontifex.connectors.connector import Connector, DeviceAccess, DeviceProtocol, DeviceRefused, DeviceSilent
from pontifex.connectors.pinned import WITHIN_S, certificate_at, fingerprint, host_and_port
from pontifex.connectors.restconf import RestconfConnector
from pontifex.connectors.ssh import SshConnector
from pontifex.core.handover.readings.linux import LinuxNames


async def fingerprint_of(protocol: DeviceProtocol, address: str) -> str:
    """Return the SHA-256 of what a device shows: its certificate, or its host key. Raise DeviceSilent."""
    return await _SHOWN[protocol](address)


@asynccontextmanager
async def opened(names: LinuxNames, access: DeviceAccess) -> AsyncIterator[Connector]:
    """Open the way to a device. Raise DeviceSilent, also where it shows something else than what was compared."""
    async with _OPENED[access.protocol](names, access) as connector:
        yield connector


def _check(shown: str, access: DeviceAccess) -> None:
    if not hmac.compare_digest(shown, access.fingerprint):
        raise DeviceSilent("it shows another certificate or host key than what was compared; nothing was sent to it")


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
    _check(fingerprint(certificate), access)
    async with RestconfConnector(names.gateway_id, access, certificate) as connector:
        yield connector


# SSH: the host key


async def _host_key(address: str) -> asyncssh.SSHKey:
    try:
        host, port = host_and_port(address)
        with anyio.fail_after(WITHIN_S):
            key = await asyncssh.get_server_host_key(host, port, config=None)
    except (OSError, asyncssh.Error, TimeoutError, OverflowError):
        key = None
    if key is None:
        raise DeviceSilent(f"nothing that speaks SSH answers at {address}")
    return key


async def _host_key_shown(address: str) -> str:
    return (await _host_key(address)).get_fingerprint()


@asynccontextmanager
async def _by_ssh(names: LinuxNames, access: DeviceAccess) -> AsyncIterator[Connector]:
    key = await _host_key(access.address)
    _check(key.get_fingerprint(), access)
    host, port = host_and_port(access.address)
    by_key = access.secret.lstrip().startswith("-----BEGIN")
    try:
        connection = await asyncssh.connect(
            host,
            port,
            username=access.user,
            known_hosts=([key], [], []),
            server_host_key_algs=[key.get_algorithm()],
            client_keys=[asyncssh.import_private_key(access.secret)] if by_key else [],
            password=None if by_key else access.secret,
            agent_path=None,
            config=None,
            connect_timeout=WITHIN_S,
            login_timeout=WITHIN_S,
        )
    except asyncssh.PermissionDenied:
        raise DeviceRefused("it doesn't let this user in") from None
    except asyncssh.KeyImportError:
        raise DeviceRefused("the private key can't be read: it is cut off, or needs a passphrase") from None
    except (OSError, asyncssh.Error):
        raise DeviceSilent("the connection can't be made") from None
    async with connection:
        yield SshConnector(connection, access.user, names)


_SHOWN: Final[Mapping[DeviceProtocol, Callable[[str], Awaitable[str]]]] = {
    DeviceProtocol.RESTCONF: _certificate_shown,
    DeviceProtocol.SSH: _host_key_shown,
}
_OPENED: Final[Mapping[DeviceProtocol, Callable[[LinuxNames, DeviceAccess], AbstractAsyncContextManager[Connector]]]] = {
    DeviceProtocol.RESTCONF: _by_restconf,
    DeviceProtocol.SSH: _by_ssh,
}
