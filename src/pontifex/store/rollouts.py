"""People's devices, signed versions of profiles, what is offered to whom, and what devices have asked and said."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from typing import Any, TypedDict
from uuid import UUID

from sqlalchemy import Engine, RowMapping, and_, delete, func, insert, select
from sqlalchemy.dialects.postgresql import insert as upsert

from pontifex.core.people.people_list import ListedDevice
from pontifex.core.people.rollout import UNHEARD, DeviceReport, Rollout, RolloutStage, VersionOffer
from pontifex.store import tables

_DEVICE, _REPORT = tables.person_device.c, tables.device_report.c
_VERSION, _ROLLOUT = tables.profile_version.c, tables.profile_rollout.c
_SAID = ("fetched", "active", "refused", "reason", "dialled", "platform_version", "reported_at")


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptDevice:
    """A device of a person."""

    id: UUID
    name: str
    person: str
    team: str
    platform: str


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptVersion:
    """A version of a profile, as it was signed."""

    number: int
    document: dict[str, Any]
    signed: str
    remark: str
    made_by: str


class DeviceStatement(TypedDict, total=False):
    """What a device has asked or said this time."""

    fetched: int
    active: int
    refused: int | None
    reason: str
    dialled: bool | None
    platform_version: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Offering:
    """What is offered of a profile, for which groups, and what one device has said of it."""

    profile_id: str
    rollout: Rollout
    groups: tuple[str, ...]
    report: DeviceReport


@dataclass(frozen=True, slots=True)
class DeviceIdentity:
    """Whose token it is."""

    design_id: str
    device: KeptDevice


class RolloutRecords:
    """Reads and writes roll-outs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    @contextmanager
    def alone(self, design_id: str, act: str = "") -> Iterator[None]:
        """Let nobody else be at an act of a design, in this process or another one over the same database."""
        key = func.hashtext(f"roll-out {design_id} {act}")
        with self._engine.connect() as connection:
            connection.execute(select(func.pg_advisory_lock(key)))
            try:
                yield
            finally:
                connection.execute(select(func.pg_advisory_unlock(key)))

    def signer(self, design_id: str) -> tuple[UUID, dict[str, Any]] | None:
        """Return the reference of the signing key's private half, and its public half; None where there is none yet."""
        signer = tables.profile_signer.c
        with self._engine.connect() as connection:
            row = connection.execute(
                select(signer.secret_reference, signer.public_key).where(signer.design_id == design_id)
            ).first()
        return (row[0], row[1]) if row else None

    def keep_signer(self, design_id: str, reference: UUID, public_key: dict[str, Any]) -> None:
        """Keep the key that a design's profiles are signed with; one that is there already stays."""
        row = {"design_id": design_id, "secret_reference": reference, "public_key": public_key}
        with self._engine.begin() as connection:
            connection.execute(upsert(tables.profile_signer).values(row).on_conflict_do_nothing())

    def add_devices(self, design_id: str, rows: Sequence[tuple[UUID, ListedDevice, bytes]], person: str) -> None:
        """Add devices, all or none, each with the hash of its token."""
        values = [
            {
                "design_id": design_id,
                "id": id_,
                "name": device.device,
                "person": device.person,
                "team": device.group,
                "platform": device.platform,
                "token_hash": token_hash,
                "added_by": person,
            }
            for id_, device, token_hash in rows
        ]
        with self._engine.begin() as connection:
            connection.execute(insert(tables.person_device), values)

    def remove_devices(self, design_id: str, ids: Iterable[UUID]) -> int:
        """Remove devices; their tokens open nothing any more. Return how many there were."""
        mine = (_DEVICE.design_id == design_id) & _DEVICE.id.in_(list(ids))
        with self._engine.begin() as connection:
            return connection.execute(delete(tables.person_device).where(mine)).rowcount

    def new_token(self, design_id: str, name: str, token_hash: bytes) -> bool:
        """Give the device of a name another token in the place of its own; whether there is such a device."""
        mine = (_DEVICE.design_id == design_id) & (_DEVICE.name == name)
        with self._engine.begin() as connection:
            changed = connection.execute(tables.person_device.update().where(mine).values(token_hash=token_hash))
        return bool(changed.rowcount)

    def names(self, design_id: str) -> frozenset[str]:
        """Return the names of all devices of a design."""
        with self._engine.connect() as connection:
            return frozenset(connection.scalars(select(_DEVICE.name).where(_DEVICE.design_id == design_id)))

    def device_of_token(self, token_hash: bytes) -> DeviceIdentity | None:
        """Return whose token it is; None where it is nobody's."""
        query = select(tables.person_device).where(_DEVICE.token_hash == token_hash)
        with self._engine.connect() as connection:
            row = connection.execute(query).mappings().first()
        if row is None:
            return None
        return DeviceIdentity(row["design_id"], _device(row))

    def reported(self, design_id: str, profile_id: str, teams: Iterable[str]) -> list[tuple[KeptDevice, DeviceReport]]:
        """Return the devices of some groups, in the order in which they were added, with what each said of a profile."""
        heard = and_(_REPORT.design_id == _DEVICE.design_id, _REPORT.device_id == _DEVICE.id, _REPORT.profile_id == profile_id)
        columns = [_DEVICE[name] for name in KeptDevice.__slots__] + [_REPORT[name] for name in _SAID]
        query = (
            select(*columns)
            .select_from(tables.person_device.outerjoin(tables.device_report, heard))
            .where(_DEVICE.design_id == design_id, _DEVICE.team.in_(list(teams)))
            .order_by(_DEVICE.place)
        )
        with self._engine.connect() as connection:
            return [(_device(row), _report(row)) for row in connection.execute(query).mappings()]

    def report(self, design_id: str, device_id: UUID, profile_id: str, said: DeviceStatement) -> None:
        """Keep what a device has asked or said; what it doesn't say this time stays."""
        key = {"design_id": design_id, "device_id": device_id, "profile_id": profile_id}
        first = {"reason": "", "platform_version": "", **said}
        written = upsert(tables.device_report).values({**key, **first})
        with self._engine.begin() as connection:
            connection.execute(written.on_conflict_do_update(index_elements=list(key), set_={**said, "reported_at": func.now()}))

    def keep_version(self, design_id: str, profile_id: str, version: KeptVersion) -> None:
        """Keep a version as it was signed."""
        row = {"design_id": design_id, "profile_id": profile_id, **asdict(version)}
        with self._engine.begin() as connection:
            connection.execute(insert(tables.profile_version), row)

    def numbers(self, design_id: str, profile_id: str) -> frozenset[int]:
        """Return the numbers of all versions of a profile."""
        mine = (_VERSION.design_id == design_id) & (_VERSION.profile_id == profile_id)
        with self._engine.connect() as connection:
            return frozenset(connection.scalars(select(_VERSION.number).where(mine)))

    def versions(self, design_id: str, profile_id: str, most: int) -> list[KeptVersion]:
        """Return the newest versions of a profile, the newest first."""
        columns = [_VERSION[name] for name in KeptVersion.__slots__]
        mine = (_VERSION.design_id == design_id) & (_VERSION.profile_id == profile_id)
        with self._engine.connect() as connection:
            rows = connection.execute(select(*columns).where(mine).order_by(_VERSION.number.desc()).limit(most)).mappings()
            return [KeptVersion(**row) for row in rows]

    def version(self, design_id: str, profile_id: str, number: int) -> KeptVersion | None:
        """Return one version; None where there is none of that number."""
        columns = [_VERSION[name] for name in KeptVersion.__slots__]
        mine = and_(_VERSION.design_id == design_id, _VERSION.profile_id == profile_id, _VERSION.number == number)
        with self._engine.connect() as connection:
            row = connection.execute(select(*columns).where(mine)).mappings().first()
        return KeptVersion(**row) if row else None

    def rollout(self, design_id: str, profile_id: str) -> Rollout | None:
        """Return what is offered of a profile; None where nothing is yet."""
        mine = (_ROLLOUT.design_id == design_id) & (_ROLLOUT.profile_id == profile_id)
        with self._engine.connect() as connection:
            row = connection.execute(select(tables.profile_rollout).where(mine)).mappings().first()
        return _rollout(row) if row else None

    def place_of(self, design_id: str, device_id: UUID, teams: Iterable[str]) -> int:
        """Return the place of a device among those of some groups, from 0, in the order in which they were added."""
        own = select(_DEVICE.place).where(_DEVICE.design_id == design_id, _DEVICE.id == device_id).scalar_subquery()
        before = (_DEVICE.design_id == design_id, _DEVICE.team.in_(list(teams)), _DEVICE.place < own)
        with self._engine.connect() as connection:
            return connection.scalar(select(func.count()).select_from(tables.person_device).where(*before)) or 0

    def offerings(self, design_id: str, device_id: UUID) -> list[Offering]:
        """Return what is offered of each profile of a design, with what a device has said of it."""
        version = and_(
            _VERSION.design_id == _ROLLOUT.design_id,
            _VERSION.profile_id == _ROLLOUT.profile_id,
            _VERSION.number == _ROLLOUT.version,
        )
        heard = and_(
            _REPORT.design_id == _ROLLOUT.design_id,
            _REPORT.profile_id == _ROLLOUT.profile_id,
            _REPORT.device_id == device_id,
        )
        query = (
            select(tables.profile_rollout, _VERSION.document["groups"].label("groups"), *(_REPORT[name] for name in _SAID))
            .select_from(tables.profile_rollout.join(tables.profile_version, version).outerjoin(tables.device_report, heard))
            .where(_ROLLOUT.design_id == design_id)
        )
        with self._engine.connect() as connection:
            return [
                Offering(profile_id=row["profile_id"], rollout=_rollout(row), groups=tuple(row["groups"]), report=_report(row))
                for row in connection.execute(query).mappings()
            ]

    def keep_rollout(self, design_id: str, profile_id: str, offer: VersionOffer, first: int, person: str) -> None:
        """Offer a version, in the place of what was offered."""
        offers = {"version": offer.version, "before": offer.before, "stage": offer.stage.value}
        fresh = {**offers, "first": first, "changed_by": person}
        written = upsert(tables.profile_rollout).values({"design_id": design_id, "profile_id": profile_id, **fresh})
        changed = {**fresh, "changed_at": func.now()}
        with self._engine.begin() as connection:
            connection.execute(written.on_conflict_do_update(index_elements=["design_id", "profile_id"], set_=changed))


def _device(row: RowMapping) -> KeptDevice:
    return KeptDevice(**{name: row[name] for name in KeptDevice.__slots__})


def _report(row: RowMapping) -> DeviceReport:
    """What a device has said; nothing where no row was found for it."""
    return UNHEARD if row["reported_at"] is None else DeviceReport(**{name: row[name] for name in _SAID})


def _rollout(row: RowMapping) -> Rollout:
    return Rollout(
        version=row["version"],
        before=row["before"],
        stage=RolloutStage(row["stage"]),
        first=row["first"],
        changed_by=row["changed_by"],
        changed_at=row["changed_at"],
    )
