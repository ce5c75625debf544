"""A stand-in cloud over TLS, whose time a test lets pass."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from pontifex.connectors.cloud import CloudAccess, carry_out, read_account
from pontifex.core.clouds.changes import CloudChange
from pontifex.core.clouds.resources import AccountState
from pontifex.demo.clouds import BOOKING, REPORTING
from pontifex.demo.stand_in_cloud import demo_cloud
from pontifex.standins import ServedCloud

BEGIN = datetime(2026, 11, 20, 9, 0, tzinfo=UTC)


@dataclass
class Cloud:
    """The cloud of the demo, reached as the product reaches it."""

    served: ServedCloud
    now: datetime = BEGIN

    def access(self, account: str, **other: str) -> CloudAccess:
        """Return the way to an account, or one that is wrong somewhere."""
        fields = {
            "account": account,
            "address": self.served.address,
            "fingerprint": self.served.fingerprint,
            "token": self.served.tokens.get(account, "none"),
        }
        return CloudAccess(**{**fields, **other})

    def readings(self) -> dict[str, AccountState]:
        """Read both accounts."""
        return {account: read_account(self.access(account)) for account in (BOOKING, REPORTING)}

    def carry_out(self, account: str, change: CloudChange) -> None:
        """Do one thing at an account."""
        carry_out(self.access(account), change)

    def wait(self, time: timedelta) -> None:
        """Let time pass."""
        self.now += time


@pytest.fixture(scope="module")
def cloud(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cloud]:
    """The cloud of the demo, as it is before anybody accepts the peering."""
    file: Path = tmp_path_factory.mktemp("cloud") / "cloud.json"
    times: list[Cloud] = []
    served = demo_cloud(file, lambda: times[0].now if times else BEGIN)
    times.append(Cloud(served))
    served.start()
    yield times[0]
    served.stop()
