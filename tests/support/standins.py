"""Stand-in gateways for tests: served on loopback, quick to answer late and to come back."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from pontifex.connectors import DeviceAccess, DeviceProtocol
from pontifex.standins import GatewayHabit, ServedGateway, StandInServers


@contextmanager
def served(
    directory: Path,
    habits: dict[str, GatewayHabit],
    settings: dict[str, dict[str, str]],
    away_s: float = 0.4,
    late_s: float = 0.05,
) -> Iterator[StandInServers]:
    """Serve gateways with their first settings."""
    servers = StandInServers(directory, late_s=late_s, away_s=away_s)
    servers.start(habits, lambda gateway_id: dict(settings[gateway_id]))
    try:
        yield servers
    finally:
        servers.stop()


def access_to(gateway: ServedGateway) -> DeviceAccess:
    """Return what it takes to reach a stand-in."""
    return DeviceAccess(
        protocol=DeviceProtocol.RESTCONF,
        address=gateway.address,
        user=gateway.login.user,
        secret=gateway.login.password,
        fingerprint=gateway.fingerprint,
    )
