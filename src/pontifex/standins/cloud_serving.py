"""Serving a stand-in cloud on loopback; what it holds stands in a file, and so outlives this process."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Collection
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from pydantic import ValidationError

from pontifex.own_certificate import own_certificate
from pontifex.standins.cloud import CloudState, StandInCloud
from pontifex.standins.cloud_api import CloudApi
from pontifex.standins.loopback import LoopbackServers

_SETTLES_AFTER: Final = timedelta(seconds=3)


def _now() -> datetime:
    return datetime.now(UTC)


class ServedCloud:
    """A cloud at an address, with a token for each account."""

    def __init__(
        self,
        file: Path,
        first: Callable[[], CloudState],
        accounts: Collection[str],
        settles_after: timedelta = _SETTLES_AFTER,
        clock: Callable[[], datetime] = _now,
    ) -> None:
        """Begin with what the file holds, or with a first state where nothing was kept there."""
        self._file = file
        self.cloud = StandInCloud(_kept(file) or first(), clock, settles_after)
        self.tokens = {account: secrets.token_urlsafe(24) for account in accounts}
        certificate = own_certificate("stand-in cloud")
        self.fingerprint = certificate.fingerprint
        self._servers = LoopbackServers()
        self.address = self._servers.add(CloudApi(self.cloud, self.tokens, self._keep).application, certificate.context)

    def start(self) -> None:
        """Begin to answer."""
        self._servers.start("stand-in cloud")

    def stop(self) -> None:
        """Answer no more; what it holds is written down."""
        self._servers.stop()
        self._keep()

    def _keep(self) -> None:
        self._file.parent.mkdir(parents=True, exist_ok=True)
        whole = self._file.with_suffix(".new")
        whole.write_text(self.cloud.state.model_dump_json(indent=1))
        whole.replace(self._file)


def _kept(file: Path) -> CloudState | None:
    try:
        return CloudState.model_validate_json(file.read_bytes())
    except (FileNotFoundError, ValidationError):
        return None
