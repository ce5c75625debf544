"""How accounts of clouds are reached, and what was read there last. What opens them stands in the vault, by its reference."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Engine, delete, func, select
from sqlalchemy.dialects.postgresql import insert as upsert

from pontifex.store import tables

_ACCESS, _READING = tables.cloud_access.c, tables.cloud_reading.c
_KEY = ["design_id", "account"]


@dataclass(frozen=True, slots=True, kw_only=True)
class NewCloudAccess:
    """How an account is reached."""

    account: str
    address: str
    fingerprint: str
    secret_reference: UUID
    made_by: str


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptCloudAccess(NewCloudAccess):
    """How an account is reached, as it is kept."""

    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptCloudReading:
    """What an account held, as it was read."""

    account: str
    document: dict[str, Any]
    taken_by: str
    taken_at: datetime


class CloudRecords:
    """Reads and writes how accounts are reached, and what was read there."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def keep_access(self, design_id: str, access: NewCloudAccess) -> None:
        """Keep how an account is reached, in the place of what was known."""
        row = asdict(access)
        written = upsert(tables.cloud_access).values({"design_id": design_id, **row})
        fresh = {**row, "made_at": func.now()}
        with self._engine.begin() as connection:
            connection.execute(written.on_conflict_do_update(index_elements=_KEY, set_=fresh))

    def forget_access(self, design_id: str, account: str) -> None:
        """Forget how an account is reached; its token leaves the vault when that is purged."""
        with self._engine.begin() as connection:
            mine = (_ACCESS.design_id == design_id) & (_ACCESS.account == account)
            connection.execute(delete(tables.cloud_access).where(mine))

    def accesses(self, design_id: str) -> dict[str, KeptCloudAccess]:
        """Return how the accounts of a design are reached, by account."""
        query = select(tables.cloud_access).where(_ACCESS.design_id == design_id).order_by(_ACCESS.account)
        names = [field.name for field in fields(KeptCloudAccess)]
        with self._engine.connect() as connection:
            rows = connection.execute(query).mappings().all()
        return {row["account"]: KeptCloudAccess(**{name: row[name] for name in names}) for row in rows}

    def keep_reading(self, design_id: str, account: str, document: dict[str, Any], person: str) -> None:
        """Keep what an account holds, in the place of what it held before."""
        row = {"document": document, "taken_by": person}
        written = upsert(tables.cloud_reading).values({"design_id": design_id, "account": account, **row})
        with self._engine.begin() as connection:
            connection.execute(written.on_conflict_do_update(index_elements=_KEY, set_={**row, "taken_at": func.now()}))

    def readings(self, design_id: str) -> dict[str, KeptCloudReading]:
        """Return what was read last of each account, by account."""
        query = select(tables.cloud_reading).where(_READING.design_id == design_id).order_by(_READING.account)
        names = [field.name for field in fields(KeptCloudReading)]
        with self._engine.connect() as connection:
            rows = connection.execute(query).mappings().all()
        return {row["account"]: KeptCloudReading(**{name: row[name] for name in names}) for row in rows}
