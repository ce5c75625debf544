"""The people of the demo: two groups with eight stand-in devices, which fetch their profile and dial with it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from threading import Event, Thread
from typing import Final

import httpx
import structlog
from pydantic import TypeAdapter, ValidationError

from pontifex.core.kinds import Profile
from pontifex.core.model import Design
from pontifex.core.people import dialled_in, place_named
from pontifex.core.people.profile_file import ProfileFile
from pontifex.core.people.rollout import RolloutAct
from pontifex.core.rehearsal import Rehearsal, RehearsalConditions, rehearse_dial_in
from pontifex.demo.scenario import DEMO_ID
from pontifex.services import DesignService
from pontifex.services.rollouts import RolloutService
from pontifex.standins import DeviceHabit, PersonDevice, ProfileSource
from pontifex.store import DesignNotFound

_WHO: Final = "make demo"
_EVERY_S: Final = 3.0
_PATIENCE_S: Final = 10.0
_DIALLED_S: Final = 20.0  # of virtual time: a call that comes through has done so by then
_LIST: Final = """\
person,group,device,platform
Runa Falk,Deck crew,aurelia-bridge-1,tablet
Eskil Dahl,Deck crew,aurelia-bridge-2,tablet
Marit Sund,Deck crew,corvina-bridge-1,tablet
Jorun Vik,Deck crew,corvina-bridge-2,tablet
Odd Lien,Deck crew,engine-laptop-1,laptop
Tove Berg,Deck crew,engine-laptop-2,laptop
Siv Moen,Rota clerks,rota-laptop-1,laptop
Arne Holm,Rota clerks,rota-laptop-2,laptop
"""
_APPLIED: Final = TypeAdapter(dict[str, dict[str, ProfileFile]])  # by device, by profile
_HABITS: Final = {"corvina-bridge-2": DeviceHabit.OLD_SYSTEM, "engine-laptop-2": DeviceHabit.KEEPS_OLD}


def _first_version(design: Design) -> Design:
    """The design as it was when the first version was signed: sessions without an end, and no search list."""
    return design.changed(profiles=tuple(profile.changed(session_limit_s=None, search=()) for profile in design.profiles))


class DemoPeople:
    """Eight devices that ask again every few seconds."""

    def __init__(self, designs: DesignService, rollouts: RolloutService, file: Path) -> None:
        """What the devices have applied outlives this process in a file."""
        self._designs, self._rollouts, self._file = designs, rollouts, file
        self._end = Event()
        self._thread: Thread | None = None
        self._log = structlog.get_logger("stand-ins")

    def start(self, address: str, certificate: str) -> None:
        """Add the devices where they aren't there, roll out two versions, and let the devices ask."""
        try:
            design = self._designs.get(DEMO_ID)
        except DesignNotFound:
            return
        crew = next((profile for profile in design.profiles if profile.id == "crew"), None)
        if crew is None:
            return
        with self._rollouts.alone(DEMO_ID):  # several servers may begin over one database
            self._begin(design, crew, address, certificate)

    def _begin(self, design: Design, crew: Profile, address: str, certificate: str) -> None:
        is_new = self._rollouts.shown(design, crew.id).rollout is None
        if is_new:
            self._rollouts.add(design, _LIST, _WHO)
            self._rollouts.sign(_first_version(design), crew.id, "as it was begun", _WHO)
            self._rollouts.act(design, crew.id, RolloutAct.ALL, _WHO)
        devices = list(self._devices(design))
        source = ProfileSource(address, certificate, self._rollouts.public_key(design))
        if is_new:
            self._visit(devices, source)
            self._rollouts.sign(design, crew.id, "sessions end after twelve hours", _WHO)
            self._rollouts.act(design, crew.id, RolloutAct.ALL, _WHO, version=2)
            self._visit(devices, source)
        self._thread = Thread(target=self._keep_asking, args=(devices, source), name="stand-in devices", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Let the devices be, once what they are about is done."""
        self._end.set()
        if self._thread:
            self._thread.join(timeout=_PATIENCE_S)

    def _devices(self, design: Design) -> Iterator[PersonDevice]:
        """Yield the devices that are still there, each with a new token: the old ones are kept nowhere."""
        platforms = {known.id: known for known in design.platforms}
        applied = self._kept()
        for line in _LIST.splitlines()[1:]:
            _, _, name, platform = line.split(",")
            token = self._rollouts.new_token(DEMO_ID, name)
            if token and platform in platforms:
                yield PersonDevice(name, platforms[platform], _HABITS.get(name, DeviceHabit.NONE), token, applied.get(name, {}))

    def _visit(self, devices: list[PersonDevice], source: ProfileSource) -> None:
        with source.client() as client:
            for device in devices:
                try:
                    for line in device.visit(source, client, self._dial):
                        self._log.debug("device", what=line)
                except httpx.HTTPError as error:
                    self._log.debug("device not served", device=device.name, kind=type(error).__name__)

        text = _APPLIED.dump_json({device.name: device.applied for device in devices})
        if not self._file.is_file() or self._file.read_bytes() != text:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            self._file.write_bytes(text)

    def _kept(self) -> dict[str, dict[str, ProfileFile]]:
        """Return what the devices had applied; nothing where that can't be read."""
        try:
            return _APPLIED.validate_json(self._file.read_bytes())
        except (FileNotFoundError, ValidationError):
            return {}

    def _keep_asking(self, devices: list[PersonDevice], source: ProfileSource) -> None:
        self._visit(devices, source)
        while not self._end.wait(_EVERY_S):
            self._visit(devices, source)

    def _dial(self, file: ProfileFile) -> bool:
        """Call the stand-in gateway with the end of a file, from home."""
        design = self._designs.get(DEMO_ID)
        profile = next((candidate for candidate in design.profiles if candidate.id == file.profile), None)
        return profile is not None and dials(design, profile, file)


def dials(design: Design, profile: Profile, file: ProfileFile) -> bool:
    """Whether a call with the end of a file comes through to the gateway as the design has it; in octets, in virtual time."""
    own = file.device_end.changed(certificates=profile.device_end.certificates, local_identity=profile.device_end.local_identity)
    asked = profile.changed(device_end=own, servers=file.servers)
    today, under = datetime.now(UTC).date(), RehearsalConditions(until_s=_DIALLED_S)
    course = rehearse_dial_in(dialled_in(design, asked, place_named(design, asked, "home")), asked, today, under)
    return isinstance(course, Rehearsal) and course.outcome.up


@contextmanager
def demo_people(designs: DesignService, rollouts: RolloutService, file: Path, address: str, certificate: str) -> Iterator[None]:
    """Let the devices of the demo ask at an address, where that certificate is found, until left."""
    people = DemoPeople(designs, rollouts, file)
    people.start(address, certificate)
    try:
        yield
    finally:
        people.stop()
