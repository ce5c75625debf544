"""One device as the outside sees it."""

from __future__ import annotations

import hmac
import typing
from dataclasses import dataclass, field
from typing import Annotated, Any

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.errors import NotAccepted, Unavailable
from pontifex.core.handover.readings import Reading


class DeviceProtocol(Choice):
    """How a device is reached."""

    RESTCONF = "restconf"  # RFC 8040, with the datastores of RFC 8527
    SSH = "ssh"  # a Linux machine


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceAccess:
    """What it takes to reach a device. The secret shows in no representation."""

    protocol: DeviceProtocol
    address: Annotated[str, Field(title="Host and port", examples=["192.0.2.130:443"])]
    user: str
    secret: str = field(repr=False)
    fingerprint: Annotated[str, Field(title="SHA-256 of its certificate or host key")]


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceChange:
    """A setting that is to be entered; None takes it out."""

    path: str
    value: Any


class DeviceSilent(Unavailable):
    """The device doesn't answer, or not in time."""

    title = "The device doesn't answer"


class DeviceRefused(NotAccepted):
    """The device answers, and doesn't take what it is given; nothing of it is entered."""

    title = "The device refuses it"


class Connector(typing.Protocol):
    """One device. Every call ends within its time limit, and raises DeviceSilent or DeviceRefused."""

    async def read(self) -> Reading:
        """Return what the device runs and what it keeps."""

    async def try_out(self, changes: typing.Sequence[DeviceChange]) -> tuple[str, ...]:
        """Return what would be entered, in the device's own words, where the device would take it; nothing is."""

    async def apply(self, changes: typing.Sequence[DeviceChange], confirm_within_s: int) -> None:
        """Try all of it, then let it run at once; the device goes back by itself unless this is confirmed in time."""

    async def confirm(self) -> None:
        """Let stay what was applied."""

    async def save(self) -> None:
        """Let the device keep what it runs over a restart."""

    async def restart(self) -> None:
        """Restart the device."""

    async def ping(self, source: str, destination: str) -> str:
        """Try an address from the device's own address in the network of `source`; return what `ping` has printed."""


def check_shown(shown: str, access: DeviceAccess) -> None:
    """Raise DeviceSilent where a device shows something else than what was compared."""
    if not hmac.compare_digest(shown, access.fingerprint):
        raise DeviceSilent("it shows another certificate or host key than what was compared; nothing was sent to it")
