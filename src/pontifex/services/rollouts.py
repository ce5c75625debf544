"""Use cases about people's devices and the roll-out of profiles: lists, signed versions, stages, and what came of them."""

from __future__ import annotations

import csv
import io
import secrets
from collections import Counter
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from typing import Annotated, Final
from uuid import UUID, uuid4

import structlog
from joserfc.jwk import ECKey
from pydantic import Field

from pontifex.core.errors import NotFound
from pontifex.core.handover.sheets.profile_page import profile_page
from pontifex.core.kinds import Profile
from pontifex.core.model import Design
from pontifex.core.people.people_list import ListFault, PeopleList, platform_words, read_people
from pontifex.core.people.profile_file import ProfileFile, key_of, key_text, new_signing_key, profile_file, public_part, signed
from pontifex.core.people.rollout import DeviceReport, DeviceState, Rollout, RolloutAct, changed_offer, counted, offers, state_of
from pontifex.core.people.versions import VersionDifference, version_difference
from pontifex.store import Vault
from pontifex.store.rollouts import KeptDevice, KeptVersion, RolloutRecords

TOKEN_OCTETS: Final = 24
MOST_VERSIONS: Final = 20  # of a profile that are shown
MOST_SHOWN: Final = 200  # devices of one answer
USUAL_FIRST: Final = 2


class ProfileNotFound(NotFound):
    """The design has no such profile."""

    title = "No such profile"


class VersionNotFound(NotFound):
    """There is no such version of the profile."""

    title = "No such version"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddedDevices:
    """What came of a list: devices that were added, with their tokens, and lines that weren't taken."""

    added: Annotated[int, Field(title="How many were added")]
    tokens: Annotated[str, Field(title="Device and token, a line each", description="Told once, as a table.")]
    faults: tuple[ListFault, ...]
    faults_count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceShown:
    """A device, what it is offered, and what became of it."""

    id: UUID
    name: str
    person: str
    group: str
    platform: str
    state: DeviceState
    offered: Annotated[int | None, Field(title="Version that it is offered")]
    report: DeviceReport


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionShown:
    """A version as it was signed."""

    number: int
    revision: int
    made_at: datetime
    made_by: str
    remark: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StateCount:
    """How many devices are in a state."""

    state: DeviceState
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PlatformCount:
    """How many devices of a platform have which version active."""

    platform: str
    version: Annotated[int | None, Field(title="Active version", description="Null where none is.")]
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RolloutShown:
    """A roll-out: its versions, what is offered, and its devices."""

    profile_id: str
    groups: tuple[str, ...]
    rollout: Rollout | None
    versions: Annotated[tuple[VersionShown, ...], Field(title="Versions", description="The newest ones, the newest first.")]
    is_signed_as_it_stands: Annotated[bool, Field(title="The newest version is the profile as it stands")]
    states: tuple[StateCount, ...]
    platforms: tuple[PlatformCount, ...]
    devices: Annotated[tuple[DeviceShown, ...], Field(title="Devices", description="Of one page.")]
    devices_count: Annotated[int, Field(title="How many devices there are, of the states that are asked for")]


class RolloutService:
    """All use cases about roll-outs."""

    def __init__(self, records: RolloutRecords, vault: Vault) -> None:
        self._records, self._vault = records, vault
        self._log = structlog.get_logger("people")

    def add(self, design: Design, text: str, person: str) -> AddedDevices:
        """Add the devices of a list; lines with a fault are left out, and told."""
        with self._records.alone(design.id):  # two who add at once would give one name twice
            platforms = platform_words(design.platforms)
            found: PeopleList = read_people(text, platforms, self._records.names(design.id))
            rows, lines = [], io.StringIO()
            writer = csv.writer(lines, lineterminator="\n")
            writer.writerow(("device", "token"))
            for device in found.devices:
                token = secrets.token_urlsafe(TOKEN_OCTETS)
                rows.append((uuid4(), device, token_hash(token)))
                writer.writerow((device.device, token))
            if rows:
                self._records.add_devices(design.id, rows, person)
                self._log.info("devices added", design=design.id, count=len(rows), person=person)
            return AddedDevices(
                added=len(rows), tokens=lines.getvalue() if rows else "", faults=found.faults, faults_count=found.faults_count
            )

    def alone(self, design_id: str) -> AbstractContextManager[None]:
        """Let nobody else begin the roll-outs of a design meanwhile."""
        return self._records.alone(design_id, "begin")

    def remove(self, design: Design, ids: tuple[UUID, ...], person: str) -> int:
        """Remove devices, and return how many there were: their tokens open nothing any more."""
        removed = self._records.remove_devices(design.id, ids)
        self._log.info("devices removed", design=design.id, count=removed, person=person)
        return removed

    def new_token(self, design_id: str, name: str) -> str | None:
        """Return a new token of a device in the place of its own; None where there is no such device."""
        token = secrets.token_urlsafe(TOKEN_OCTETS)
        return token if self._records.new_token(design_id, name, token_hash(token)) else None

    def public_key(self, design: Design) -> ECKey:
        """Return the public half of what a design's profiles are signed with; made where there is none yet."""
        kept = self._records.signer(design.id)
        if kept is None:
            key, reference = new_signing_key(), uuid4()
            self._vault.keep(design.id, reference, key_text(key))
            self._records.keep_signer(design.id, reference, public_part(key))
            kept = self._records.signer(design.id)
        assert kept
        return ECKey.import_key(kept[1])

    def sign(self, design: Design, profile_id: str, remark: str, person: str) -> VersionShown:
        """Make a version of a profile as it stands, and sign it. Raise ProfileNotFound."""
        with self._records.alone(design.id):  # two who sign at once would give one number twice
            profile = profile_of(design, profile_id)
            self.public_key(design)
            signer = self._records.signer(design.id)
            assert signer
            number = max(self._records.numbers(design.id, profile_id), default=0) + 1
            file = profile_file(design, profile, number, datetime.now(UTC).replace(microsecond=0))
            token = signed(file, key_of(self._vault.used(design.id, signer[0])))
            kept = KeptVersion(
                number=number, document=file.model_dump(mode="json"), signed=token, remark=remark.strip(), made_by=person
            )
            self._records.keep_version(design.id, profile_id, kept)
            self._log.info("profile signed", design=design.id, profile=profile_id, version=number, person=person)
            return _version(kept)

    def file(self, design: Design, profile_id: str, number: int) -> str:
        """Return a version as it was signed. Raise VersionNotFound."""
        return self._version(design, profile_id, number).signed

    def page(self, design: Design, profile_id: str, number: int) -> str:
        """Return the page of a version that one signs by hand. Raise VersionNotFound."""
        kept = self._version(design, profile_id, number)
        return profile_page(read_version(kept), kept.signed)

    def difference(self, design: Design, profile_id: str, since: int, until: int) -> VersionDifference:
        """Return what differs between two versions, and what it means. Raise VersionNotFound."""
        before, after = (self._version(design, profile_id, number) for number in (since, until))
        return version_difference(read_version(before), read_version(after))

    def act(
        self, design: Design, profile_id: str, act: RolloutAct, person: str, version: int | None = None, first: int = USUAL_FIRST
    ) -> Rollout:
        """Begin, widen, stop or take back a roll-out. Raise ProfileNotFound, VersionNotFound, NothingRolledOut."""
        profile_of(design, profile_id)
        now = self._records.rollout(design.id, profile_id)
        known = self._records.numbers(design.id, profile_id)
        offer = changed_offer(now, act, version or (now.version if now and act is RolloutAct.ALL else max(known, default=0)))
        if offer.version not in known:
            raise VersionNotFound("there is no such version of this profile; sign one first")
        self._records.keep_rollout(design.id, profile_id, offer, first, person)
        self._log.info("roll-out", design=design.id, profile=profile_id, act=act.value, version=offer.version, person=person)
        rollout = self._records.rollout(design.id, profile_id)
        assert rollout
        return rollout

    def _version(self, design: Design, profile_id: str, number: int) -> KeptVersion:
        found = self._records.version(design.id, profile_id, number)
        if found is None:
            raise VersionNotFound(f"there is no version {number} of this profile")
        return found

    def shown(self, design: Design, profile_id: str, state: DeviceState | None = None, begin: int = 0) -> RolloutShown:
        """Return a roll-out with a page of its devices. Raise ProfileNotFound."""
        profile = profile_of(design, profile_id)
        rollout = self._records.rollout(design.id, profile_id)
        versions = self._records.versions(design.id, profile_id, MOST_VERSIONS)
        signed_for = read_version(self._version(design, profile_id, rollout.version)).groups if rollout else ()
        heard = self._records.reported(design.id, profile_id, {*profile.groups, *signed_for})
        of_each = offers(rollout, signed_for, ((device.team, report) for device, report in heard))
        states = [state_of(offer, report) for offer, (_, report) in zip(of_each, heard, strict=True)]
        wanted = [place for place, device_state in enumerate(states) if state in (None, device_state)]
        by_platform = Counter((device.platform, report.active) for device, report in heard)
        return RolloutShown(
            profile_id=profile_id,
            groups=profile.groups,
            rollout=rollout,
            versions=tuple(map(_version, versions)),
            is_signed_as_it_stands=bool(versions) and _is_as_it_stands(design, profile, versions[0]),
            states=tuple(StateCount(state=device_state, count=count) for device_state, count in counted(states).items()),
            platforms=tuple(
                PlatformCount(platform=platform, version=version, count=count)
                for (platform, version), count in sorted(by_platform.items(), key=lambda entry: (entry[0][0], entry[0][1] or 0))
            ),
            devices=tuple(_device(*heard[place], states[place], of_each[place]) for place in wanted[begin : begin + MOST_SHOWN]),
            devices_count=len(wanted),
        )


def token_hash(token: str) -> bytes:
    """Return what is kept of a token: it is drawn at random, so that a plain hash gives nothing away."""
    return sha256(token.encode()).digest()


def profile_of(design: Design, profile_id: str) -> Profile:
    """Return a profile of a design. Raise ProfileNotFound."""
    found = next((profile for profile in design.profiles if profile.id == profile_id), None)
    if found is None:
        raise ProfileNotFound(f"there is no profile '{profile_id}' in this design")
    return found


def read_version(kept: KeptVersion) -> ProfileFile:
    """Return the file of a version that was kept."""
    return ProfileFile.model_validate(kept.document)


def _is_as_it_stands(design: Design, profile: Profile, newest: KeptVersion) -> bool:
    file = read_version(newest)
    now = profile_file(design, profile, file.version, file.made_at)
    return now.changed(revision=file.revision) == file


def _version(kept: KeptVersion) -> VersionShown:
    file = read_version(kept)
    return VersionShown(
        number=kept.number, revision=file.revision, made_at=file.made_at, made_by=kept.made_by, remark=kept.remark
    )


def _device(device: KeptDevice, report: DeviceReport, state: DeviceState, offer: int | None) -> DeviceShown:
    return DeviceShown(
        id=device.id,
        name=device.name,
        person=device.person,
        group=device.team,
        platform=device.platform,
        state=state,
        offered=offer,
        report=report,
    )
