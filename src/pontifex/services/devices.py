"""Use cases about devices that are reached from here: read, entered, saved, restarted, and held against what was to be."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Coroutine, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from threading import Lock
from typing import Annotated, Any, Final
from uuid import UUID, uuid4

import structlog
from pydantic import Field

from pontifex.connectors import (
    DeviceAccess,
    DeviceChange,
    DeviceProtocol,
    DeviceRefused,
    DeviceVisit,
    fingerprint_of,
)
from pontifex.core.addressing.address import parse_address_value
from pontifex.core.choice import Choice
from pontifex.core.errors import Conflict, FieldRefused, NotFound
from pontifex.core.handover.observed import MOST_CHARACTERS
from pontifex.core.handover.plan import Step
from pontifex.core.handover.plan.probes import PING
from pontifex.core.handover.readings import Reading, intended
from pontifex.core.handover.readings.linux import LinuxNames
from pontifex.core.handover.readings.setting import text_of
from pontifex.core.handover.run import TickResult
from pontifex.core.kinds import ObjectType
from pontifex.core.model import Design
from pontifex.core.model.written import ABSENT
from pontifex.services.handover import GatewayNotFound
from pontifex.services.runs import ProbePhase, RunService, RunShown, kept_reading
from pontifex.store import Vault
from pontifex.store.device_access import DeviceAccesses, KeptAccess, NewAccess
from pontifex.store.hand_over import HandOverRecords, NewTick

_CONFIRM_WITHIN_S: Final = 30
_MOST_NAMED: Final = 4


class NotReached(NotFound):
    """Nobody has said how this device is reached."""

    title = "No way to this device"


class DeviceBusy(Conflict):
    """Somebody enters something at this device now."""

    title = "Somebody is at this device"


class DeviceAct(Choice):
    """What is done at a device as a whole; each ends in a reading of it."""

    READING = "reading"
    SAVING = "saving"
    RESTART = "restart"


_ACTS: Final[Mapping[DeviceAct, Callable[[DeviceVisit], Coroutine[None, None, Reading]]]] = {
    DeviceAct.READING: DeviceVisit.read,
    DeviceAct.SAVING: DeviceVisit.save,
    DeviceAct.RESTART: DeviceVisit.restart,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class AccessShown:
    """How a gateway is reached, without what opens it."""

    gateway_id: str
    protocol: DeviceProtocol
    address: str
    user: str
    fingerprint: str
    made_by: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class MissedSetting:
    """A setting that isn't as it was entered."""

    path: str
    wanted: str
    runs: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Entered:
    """What came of entering something at a device, as it was read back."""

    read_at: datetime
    missed: Annotated[tuple[MissedSetting, ...], Field(title="What the device didn't take")]


class DeviceService:
    """All use cases about devices that are reached from here."""

    def __init__(self, accesses: DeviceAccesses, vault: Vault, records: HandOverRecords, runs: RunService) -> None:
        self._accesses, self._vault, self._records, self._runs = accesses, vault, records, runs
        self._busy: dict[tuple[str, str], Lock] = {}
        self._log = structlog.get_logger("devices")

    def accesses(self, design_id: str) -> list[AccessShown]:
        """Return how the gateways of a design are reached."""
        return [_shown(kept) for kept in self._accesses.all(design_id).values()]

    def keep_access(self, design: Design, gateway_id: str, access: DeviceAccess, person: str) -> AccessShown:
        """Keep how a gateway is reached, and what opens it in the vault. Raise GatewayNotFound."""
        if gateway_id not in design.gateway_by_id:
            raise GatewayNotFound(f"there is no gateway '{gateway_id}' in this design")
        reference = uuid4()
        self._vault.keep(design.id, reference, access.secret)
        new = NewAccess(
            gateway_id=gateway_id,
            protocol=access.protocol.value,
            address=access.address,
            user=access.user,
            fingerprint=access.fingerprint,
            secret_reference=reference,
            made_by=person,
        )
        self._accesses.keep(design.id, new)
        self._log.info("way to a device kept", design=design.id, gateway=gateway_id, person=person)
        return _shown(self._kept(design.id, gateway_id))

    def forget_access(self, design_id: str, gateway_id: str) -> None:
        """Forget how a gateway is reached."""
        self._accesses.forget(design_id, gateway_id)

    def fingerprint(self, protocol: DeviceProtocol, address: str) -> str:
        """Return what a device shows, to be compared. Raise DeviceSilent."""
        return asyncio.run(fingerprint_of(protocol, address))

    def act(self, design: Design, gateway_id: str, act: DeviceAct, person: str) -> Reading:
        """Read a device, let it save or restart; keep how it was read then."""
        with self._at(design, gateway_id) as visit:
            self._log.info("at a device", act=act.value, design=design.id, gateway=gateway_id, person=person)
            return self._keep(design.id, asyncio.run(_ACTS[act](visit)), person)

    def enter(self, design: Design, gateway_id: str, paths: Sequence[str], person: str) -> Entered:
        """Enter at a device what the design intends of some settings; what isn't intended is taken out."""
        with self._at(design, gateway_id) as visit:
            wanted = {setting.path: setting.text for setting in intended(design, gateway_id)}
            changes = [DeviceChange(path=path, value=wanted.get(path)) for path in paths]
            reading = asyncio.run(visit.enter(changes))
            self._log.info("entered at a device", design=design.id, gateway=gateway_id, settings=len(changes), person=person)
            return _told(self._keep(design.id, reading, person), changes)

    def apply(self, design: Design, run_id: UUID, number: int, seen: int, back: bool, person: str) -> RunShown:
        """Make a step of a run at its device, or take it back; what was read back is ticked. Raise as RunService.tick does."""
        result = TickResult.UNDONE if back else TickResult.DONE
        step = self._step(design, run_id, number, seen, result)
        with self._at(design, step.device.id) as visit:
            reading, missed = asyncio.run(self._made(step, visit, back))
            if missed and back:
                self._keep(design.id, reading, person)
                raise DeviceRefused(_in_words(missed))
            result = TickResult.FAILED if missed else result
            remark = f"by {reading.source}: {_in_words(missed)}"
            tick = NewTick(step=number, result=result.value, remark=remark)
            return self._runs.tick(design.id, run_id, seen, tick, person, reading.changed(taken_by=person))

    def try_step(self, design: Design, run_id: UUID, number: int, seen: int) -> tuple[str, ...]:
        """Return what a step would enter at its device, in the device's own words; nothing is entered."""
        step = self._step(design, run_id, number, seen, TickResult.DONE)
        with self._at(design, step.device.id) as visit:
            return asyncio.run(visit.try_out(_changes(step, back=False)))

    def _step(self, design: Design, run_id: UUID, number: int, seen: int, result: TickResult) -> Step:
        step = self._runs.step(design.id, run_id, number, seen, result)
        if step.device.type is not ObjectType.GATEWAY:
            raise FieldRefused("step", "this step isn't made at a gateway")
        return step

    def try_pair(self, design: Design, run_id: UUID, tries: str, phase: ProbePhase, person: str) -> RunShown:
        """Try a pair from the gateway at its beginning, and keep what was seen. Raise as RunService.see does."""
        self._runs.check_pair(design.id, run_id, tries)
        found = PING.fullmatch(tries)
        if found is None:
            raise FieldRefused("tries", "this can't be tried from here; type what was seen")
        destination, source = found["destination"], found["source"]
        gateway_id = self._gateway_at(design, source)
        with self._at(design, gateway_id) as visit:
            seen = asyncio.run(visit.ping(source, destination))
        return self._runs.see(design.id, run_id, tries, phase, seen[:MOST_CHARACTERS], person)

    def _gateway_at(self, design: Design, source: str) -> str:
        """Return the gateway of an address's site that is reached from here. Raise NotReached."""
        reached = self._accesses.all(design.id)
        asked = parse_address_value(source)
        sites = [network.site_id for network in design.networks if network.prefix.holds(asked)]
        gateways = (gateway.id for site_id in sites for gateway in design.gateways_of_site(site_id) if gateway.id in reached)
        found = next(gateways, None)
        if found is None:
            raise NotReached(f"no gateway at {source} is reached from here; try it there, and type what was seen")
        return found

    async def _made(self, step: Step, visit: DeviceVisit, back: bool) -> tuple[Reading, tuple[MissedSetting, ...]]:
        if step.action is None:
            reading = await (visit.read() if back else visit.save())
            return reading, () if back else tuple(_unsaved(reading))
        changes = _changes(step, back)
        reading = await visit.enter(changes)
        return reading, tuple(_missed(reading, changes))

    @contextmanager
    def _at(self, design: Design, gateway_id: str) -> Iterator[DeviceVisit]:
        """Let one person at a time be at a device."""
        if gateway_id not in design.gateway_by_id:
            raise GatewayNotFound(f"there is no gateway '{gateway_id}' in this design")
        kept = self._kept(design.id, gateway_id)
        lock = self._busy.setdefault((design.id, gateway_id), Lock())
        if not lock.acquire(blocking=False):
            raise DeviceBusy("something is being entered or read there now; try again in a moment")
        try:
            secret = self._vault.used(design.id, kept.secret_reference)
            yield DeviceVisit(LinuxNames.of(design, gateway_id), _access(kept, secret), _CONFIRM_WITHIN_S)
        finally:
            lock.release()

    def _kept(self, design_id: str, gateway_id: str) -> KeptAccess:
        kept = self._accesses.of(design_id, gateway_id)
        if kept is None:
            raise NotReached("nobody has said how this device is reached; do so under Devices")
        return kept

    def _keep(self, design_id: str, reading: Reading, person: str) -> Reading:
        by_person = reading.changed(taken_by=person)
        self._records.keep_reading(design_id, kept_reading(by_person))
        return by_person


def _access(kept: KeptAccess, secret: str) -> DeviceAccess:
    return DeviceAccess(
        protocol=DeviceProtocol(kept.protocol), address=kept.address, user=kept.user, secret=secret, fingerprint=kept.fingerprint
    )


def _changes(step: Step, back: bool) -> list[DeviceChange]:
    return [DeviceChange(path=setting.path, value=setting.before if back else setting.after) for setting in step.settings]


def _missed(reading: Reading, changes: Sequence[DeviceChange]) -> Iterator[MissedSetting]:
    for change in changes:
        runs, wanted = _text(change.path, reading.running.get(change.path)), _text(change.path, change.value)
        if runs != wanted:
            yield MissedSetting(path=change.path, wanted=wanted, runs=runs)


def _unsaved(reading: Reading) -> Iterator[MissedSetting]:
    kept = reading.after_restart or {}
    for path in sorted(reading.running.keys() | kept.keys()):
        wanted, stays = _text(path, reading.running.get(path)), _text(path, kept.get(path))
        if wanted != stays:
            yield MissedSetting(path=path, wanted=wanted, runs=stays)


def _text(path: str, value: Any) -> str:
    return ABSENT if value is None else text_of(path, value)


def _in_words(missed: Sequence[MissedSetting]) -> str:
    """Return what was read back, within the length of a remark and on one line."""
    if not missed:
        return "read back as it was entered"
    named = [
        f"{setting.path.rpartition('/')[2].replace('_', ' ')} is {setting.runs[:40]}, not {setting.wanted[:40]}"
        for setting in missed
    ]
    rest = f" and {len(missed) - _MOST_NAMED} more" if len(missed) > _MOST_NAMED else ""
    return f"read back otherwise: {'; '.join(named[:_MOST_NAMED])}{rest}"


def _told(reading: Reading, changes: Sequence[DeviceChange]) -> Entered:
    return Entered(read_at=reading.taken_at, missed=tuple(_missed(reading, changes)))


def _shown(kept: KeptAccess) -> AccessShown:
    return AccessShown(
        gateway_id=kept.gateway_id,
        protocol=DeviceProtocol(kept.protocol),
        address=kept.address,
        user=kept.user,
        fingerprint=kept.fingerprint,
        made_by=kept.made_by,
        made_at=kept.made_at,
    )
