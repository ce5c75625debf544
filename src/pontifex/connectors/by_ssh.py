"""Opening the way to a Linux machine by SSH, once its host key is what was compared."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import anyio
import asyncssh

from pontifex.connectors.connector import Connector, DeviceAccess, DeviceRefused, DeviceSilent, check_shown
from pontifex.connectors.pinned import WITHIN_S, host_and_port
from pontifex.connectors.ssh import SshConnector
from pontifex.core.handover.readings.linux import LinuxNames


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


async def host_key_shown(address: str) -> str:
    """Return the SHA-256 of the host key at an address. Raise DeviceSilent."""
    return (await _host_key(address)).get_fingerprint()


@asynccontextmanager
async def opened_by_ssh(names: LinuxNames, access: DeviceAccess) -> AsyncIterator[Connector]:
    """Open the way to a Linux machine. Raise DeviceSilent, DeviceRefused."""
    key = await _host_key(access.address)
    check_shown(key.get_fingerprint(), access)
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
