"""How gateways are reached. What opens them stands in the vault, by its reference."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from datetime import datetime
from uuid import UUID

from sqlalchemy import Engine, RowMapping, delete, func, select
from sqlalchemy.dialects.postgresql import insert as upsert

from pontifex.store import tables

_WAY = tables.device_access.c


@dataclass(frozen=True, slots=True, kw_only=True)
class NewAccess:
    """How a gateway is reached."""

    gateway_id: str
    protocol: str
    address: str
    user: str
    fingerprint: str
    secret_reference: UUID
    made_by: str


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptAccess(NewAccess):
    """How a gateway is reached, as it is kept."""

    made_at: datetime


class DeviceAccesses:
    """Reads and writes how gateways are reached."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def keep(self, design_id: str, access: NewAccess) -> None:
        """Keep how a gateway is reached, in the place of what was known."""
        row = asdict(access)
        written = upsert(tables.device_access).values({"design_id": design_id, **row})
        fresh = {**row, "made_at": func.now()}
        with self._engine.begin() as connection:
            connection.execute(written.on_conflict_do_update(index_elements=["design_id", "gateway_id"], set_=fresh))

    def forget(self, design_id: str, gateway_id: str) -> None:
        """Forget how a gateway is reached; its secret leaves the vault when that is purged."""
        mine = (_WAY.design_id == design_id) & (_WAY.gateway_id == gateway_id)
        with self._engine.begin() as connection:
            connection.execute(delete(tables.device_access).where(mine))

    def of(self, design_id: str, gateway_id: str) -> KeptAccess | None:
        """Return how a gateway is reached; None where that isn't known."""
        query = select(tables.device_access).where(_WAY.design_id == design_id, _WAY.gateway_id == gateway_id)
        with self._engine.connect() as connection:
            row = connection.execute(query).mappings().first()
        return _kept(row) if row else None

    def all(self, design_id: str) -> dict[str, KeptAccess]:
        """Return how the gateways of a design are reached, by their ids."""
        query = select(tables.device_access).where(_WAY.design_id == design_id).order_by(_WAY.gateway_id)
        with self._engine.connect() as connection:
            rows = connection.execute(query).mappings().all()
        return {row["gateway_id"]: _kept(row) for row in rows}


def _kept(row: RowMapping) -> KeptAccess:
    return KeptAccess(**{field.name: row[field.name] for field in fields(KeptAccess)})
