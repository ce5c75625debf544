"""What is kept of a hand-over: readings of devices, and plans that are walked with their logs."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import Connection, Engine, func, insert, select
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.exc import IntegrityError

from pontifex.core.errors import Conflict, NotFound
from pontifex.store import tables
from pontifex.store.errors import DesignNotFound

_READING = tables.reading.c
_RUN = tables.plan_run.c
_TICK = tables.run_tick.c
_PROBE = tables.run_probe.c


class RunNotFound(NotFound):
    """The design has no such run."""

    title = "No such run"


class OlderReading(Conflict):
    """A reading that is not newer than the last one of its device."""

    title = "Older than the last reading"


class TickedMeanwhile(Conflict):
    """Somebody else ticked a step since."""

    title = "Somebody was quicker"

    def __init__(self) -> None:
        super().__init__("a step was ticked meanwhile: look again, then tick")


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptReading:
    """A reading of a device, as JSON."""

    gateway_id: str
    taken_at: datetime
    document: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class NewTick:
    """What somebody says of a step."""

    step: int
    result: str
    remark: str


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptTick:
    """A line of a run's log."""

    step: int
    result: str
    remark: str
    author: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptProbe:
    """What was seen of a pair, as it was typed or pasted."""

    tries: str
    phase: str
    seen: str
    author: str
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptRun:
    """A plan that is walked."""

    id: UUID
    title: str
    since: str
    revision: int
    started_by: str
    started_at: datetime
    plan: dict[str, Any]
    ticks: tuple[KeptTick, ...]
    probes: tuple[KeptProbe, ...]


@dataclass(frozen=True, slots=True)
class ListedRun:
    """A run in a list: how many steps it has, and what was said of which."""

    id: UUID
    title: str
    started_by: str
    started_at: datetime
    steps: int
    ticks: tuple[tuple[int, str], ...]


class HandOverRecords:
    """Reads and writes what is kept of hand-overs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def keep_reading(self, design_id: str, reading: KeptReading) -> None:
        """Keep a reading of a device. Raise DesignNotFound, or OlderReading."""
        with self._engine.begin() as connection:
            _lock(connection, design_id)
            _keep(connection, design_id, reading)

    def readings(self, design_id: str) -> dict[str, dict[str, Any]]:
        """Return the last reading of each device, by the ids of gateways."""
        last = select(_READING.gateway_id, func.max(_READING.taken_at).label("taken_at")).where(_READING.design_id == design_id)
        newest = last.group_by(_READING.gateway_id).subquery()
        is_newest = (_READING.gateway_id == newest.c.gateway_id) & (_READING.taken_at == newest.c.taken_at)
        query = select(_READING.gateway_id, _READING.document).join(newest, is_newest).where(_READING.design_id == design_id)
        with self._engine.connect() as connection:
            return {row.gateway_id: row.document for row in connection.execute(query)}

    def reading(self, design_id: str, gateway_id: str) -> dict[str, Any] | None:
        """Return the last reading of a device, None where it was never read."""
        is_of_it = (_READING.design_id == design_id) & (_READING.gateway_id == gateway_id)
        query = select(_READING.document).where(is_of_it).order_by(_READING.taken_at.desc()).limit(1)
        with self._engine.connect() as connection:
            return connection.scalar(query)

    def start_run(self, design_id: str, title: str, since: str, revision: int, plan: dict[str, Any], author: str) -> UUID:
        """Keep a plan that is to be walked, and return the id of its run. Raise DesignNotFound."""
        run_id = uuid4()
        row = {"design_id": design_id, "id": run_id, "title": title, "since": since, "revision": revision}
        with self._engine.begin() as connection:
            _lock(connection, design_id)
            connection.execute(insert(tables.plan_run), {**row, "started_by": author, "plan": plan})
        return run_id

    def runs(self, design_id: str) -> list[ListedRun]:
        """Return the runs of a design, the newest first, without their plans."""
        steps = func.jsonb_array_length(_RUN.plan["steps"])
        query = select(_RUN.id, _RUN.title, _RUN.started_by, _RUN.started_at, steps).where(_RUN.design_id == design_id)
        ticks = select(_TICK.run_id, _TICK.step, _TICK.result).join(tables.plan_run, _RUN.id == _TICK.run_id)
        with self._engine.connect() as connection:
            ticked: dict[UUID, list[tuple[int, str]]] = {}
            for run_id, step, result in connection.execute(ticks.where(_RUN.design_id == design_id).order_by(_TICK.position)):
                ticked.setdefault(run_id, []).append((step, result))
            rows = connection.execute(query.order_by(_RUN.started_at.desc()))
            return [ListedRun(*row, tuple(ticked.get(row.id, ()))) for row in rows]

    def run(self, design_id: str, run_id: UUID) -> KeptRun:
        """Return a run. Raise RunNotFound."""
        with self._engine.connect() as connection:
            return _run(connection, design_id, run_id)

    def tick(
        self, design_id: str, run_id: UUID, seen: int, tick: NewTick, author: str, reading: KeptReading | None = None
    ) -> KeptRun:
        """Write a line into the log of a run, and what is known of the device by it, or neither.

        Whoever writes it has `seen` so many lines. Raise RunNotFound, or TickedMeanwhile where there are more.
        """
        row = {"run_id": run_id, "position": seen, "author": author, **asdict(tick)}
        try:
            with self._engine.begin() as connection:
                _lock(connection, design_id)
                if len(_run(connection, design_id, run_id).ticks) != seen:
                    raise TickedMeanwhile
                connection.execute(insert(tables.run_tick), row)
                if reading:
                    _keep(connection, design_id, reading)
                return _run(connection, design_id, run_id)
        except IntegrityError:
            raise TickedMeanwhile from None

    def see(self, design_id: str, run_id: UUID, tries: str, phase: str, seen: str, author: str) -> KeptRun:
        """Keep what somebody has seen of a pair, in the place of what was seen before. Raise RunNotFound."""
        row = {"run_id": run_id, "tries": tries, "phase": phase, "seen": seen, "author": author}
        fresh = {"seen": seen, "author": author, "made_at": func.now()}
        written = upsert(tables.run_probe).values(row)
        with self._engine.begin() as connection:
            _run(connection, design_id, run_id)
            connection.execute(written.on_conflict_do_update(index_elements=["run_id", "tries", "phase"], set_=fresh))
            return _run(connection, design_id, run_id)


def _keep(connection: Connection, design_id: str, reading: KeptReading) -> None:
    is_of_it = (_READING.design_id == design_id) & (_READING.gateway_id == reading.gateway_id)
    last = connection.scalar(select(func.max(_READING.taken_at)).where(is_of_it))
    if last is not None and reading.taken_at <= last:
        raise OlderReading(f"the last reading of this device is of {last:%Y-%m-%d %H:%M:%S} UTC; this one isn't newer")
    connection.execute(insert(tables.reading), {"design_id": design_id, **asdict(reading)})


def _lock(connection: Connection, design_id: str) -> None:
    columns = tables.design.c
    query = select(columns.id).where(columns.id == design_id, columns.deleted_at.is_(None)).with_for_update()
    if connection.scalar(query) is None:
        raise DesignNotFound(design_id)


def _run(connection: Connection, design_id: str, run_id: UUID) -> KeptRun:
    query = select(tables.plan_run).where(_RUN.design_id == design_id, _RUN.id == run_id)
    row = connection.execute(query).mappings().first()
    if row is None:
        raise RunNotFound("this design has no such run")
    return _kept(connection, row)


def _kept(connection: Connection, row: Any) -> KeptRun:
    query = select(tables.run_tick).where(_TICK.run_id == row["id"]).order_by(_TICK.position)
    fields = ("step", "result", "remark", "author", "made_at")
    ticks = [KeptTick(**{field: tick[field] for field in fields}) for tick in connection.execute(query).mappings()]
    names = ("id", "title", "since", "revision", "started_by", "started_at", "plan")
    seen = select(tables.run_probe).where(_PROBE.run_id == row["id"]).order_by(_PROBE.made_at)
    known = ("tries", "phase", "seen", "author", "made_at")
    probes = [KeptProbe(**{field: probe[field] for field in known}) for probe in connection.execute(seen).mappings()]
    return KeptRun(**{name: row[name] for name in names}, ticks=tuple(ticks), probes=tuple(probes))
