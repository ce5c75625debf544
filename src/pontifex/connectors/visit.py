"""What is done at a device in one go: over as many connections as it takes, and no longer than the device would wait."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Awaitable, Callable, Sequence
from contextlib import suppress
from typing import Final, TypeVar

from pontifex.connectors.connector import Connector, DeviceAccess, DeviceChange, DeviceRefused, DeviceSilent
from pontifex.connectors.opened import opened
from pontifex.core.handover.readings import Reading
from pontifex.core.handover.readings.linux import LinuxNames

_ASKED_EVERY_S: Final = 0.5
R = TypeVar("R")


class DeviceVisit:
    """One device, and what is done there. Each method raises DeviceSilent or DeviceRefused."""

    def __init__(self, names: LinuxNames, access: DeviceAccess, confirm_within_s: int) -> None:
        self._names, self._access, self._within_s = names, access, confirm_within_s

    async def read(self) -> Reading:
        """Return what the device runs and what it keeps."""
        return await self._once(lambda connector: connector.read())

    async def ping(self, source: str, destination: str) -> str:
        """Return what `ping` has printed at the device."""
        return await self._once(lambda connector: connector.ping(source, destination))

    async def try_out(self, changes: Sequence[DeviceChange]) -> tuple[str, ...]:
        """Return what would be entered, in the device's own words; nothing is."""
        return await self._once(lambda connector: connector.try_out(changes))

    async def save(self) -> Reading:
        """Let the device keep what it runs, and read it again."""

        async def work(connector: Connector) -> Reading:
            await connector.save()
            return await connector.read()

        return await self._once(work)

    async def enter(self, changes: Sequence[DeviceChange]) -> Reading:
        """Enter something and read it back; a device that is lost meanwhile goes back by itself."""
        until = time.monotonic() + self._within_s
        async with opened(self._names, self._access) as connector:
            before = await connector.read()
            try:
                await connector.apply(changes, self._within_s)
                reading = await connector.read()
                await connector.confirm()
                return reading
            except DeviceSilent:
                pass  # whether it runs what was entered is seen once it answers again

        async def confirmed(connector: Connector) -> Reading:
            if (await connector.read()).running != before.running:
                with suppress(DeviceRefused):  # it was confirmed before the connection broke, or the device has gone back
                    await connector.confirm()
            return await connector.read()

        return await self._back(confirmed, until)

    async def restart(self) -> Reading:
        """Restart the device, and read it once it is back."""
        until = time.monotonic() + self._within_s
        with suppress(DeviceSilent):  # it goes down before it answers
            await self._once(lambda connector: connector.restart())
        return await self._back(lambda connector: connector.read(), until)

    async def _once(self, work: Callable[[Connector], Awaitable[R]]) -> R:
        async with opened(self._names, self._access) as connector:
            return await work(connector)

    async def _back(self, work: Callable[[Connector], Awaitable[R]], until: float) -> R:
        """Do something once the device answers again. Raise DeviceSilent where it doesn't in time."""
        while True:
            try:
                return await self._once(work)
            except DeviceSilent:
                if time.monotonic() > until:
                    lost = f"it hasn't answered for {self._within_s} s; what wasn't confirmed it takes back by itself"
                    raise DeviceSilent(lost) from None
            await asyncio.sleep(_ASKED_EVERY_S)
