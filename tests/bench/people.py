"""People: a roll-out to very many devices, all flows of a profile, and a thousand devices that fetch and report."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

from pontifex.core.kinds import Platform, PlatformFamily, Profile, TrafficRule
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.people import all_flows
from pontifex.core.people.profile_file import ProfileFile
from pontifex.core.people.rollout import RolloutAct
from pontifex.core.routing import Tables
from pontifex.demo import demo_design
from pontifex.device_server import device_server
from pontifex.server import listen_for_devices
from pontifex.services import KeptDesigns, KeyService
from pontifex.services.records import RecordServices
from pontifex.settings import Settings
from pontifex.standins import DeviceHabit, PersonDevice, ProfileSource
from pontifex.store import DesignRepository, Vault
from pontifex.store.cluster import Cluster
from pontifex.store.database import connect, migrate
from tests.bench.figures import median_s, row
from tests.support.designs import TODAY

_PEOPLE = 10_000
_FETCHING = 1000
_AT_ONCE = 8
_MASTER_KEY = bytes(32)


@contextmanager
def _services(state: Path) -> Iterator[tuple[Design, RecordServices]]:
    cluster = Cluster(state / "postgresql")
    cluster.start()
    engine = connect(cluster.url())
    try:
        migrate(engine)
        kept = KeptDesigns(DesignRepository(engine))
        kept.repository.create(demo_design())
        yield kept.get("skerry-line"), RecordServices.over(engine, KeyService(Vault(engine, _MASTER_KEY)), _MASTER_KEY)
    finally:
        engine.dispose()
        cluster.stop()


def _every_rule() -> tuple[Design, Profile]:
    """The demo with a profile of very many rules, for all families."""
    demo = demo_design()
    rules = tuple(
        TrafficRule.model_validate({"domain": f"*.site-{k}.example", "way": ("through", "beside", "blocked")[k % 3]})
        for k in range(100)
    )
    profile = demo.profiles[0].changed(rules=rules, families=())
    return apply_operations(demo, [put(profile)]), profile


def people() -> list[bool]:
    """Measure what people cost."""
    design, profile = _every_rule()
    tables = Tables(design)
    flows = median_s(lambda: all_flows(tables, profile, TODAY), 5)
    cells = len(all_flows(tables, profile, TODAY).destinations) * len(all_flows(tables, profile, TODAY).columns)
    with tempfile.TemporaryDirectory(prefix="pontifex-bench-") as directory:
        state = Path(directory)
        state.chmod(0o711)
        with _services(state) as (demo, records):
            lines = (f"Person {k // 2},Deck crew,device-{k},{'tablet' if k % 3 else 'laptop'}" for k in range(2 * _PEOPLE))
            started = time.perf_counter()
            added = records.rollouts.add(demo, "\n".join(lines), "bench")
            assigned = time.perf_counter() - started
            records.rollouts.sign(demo, "crew", "", "bench")
            records.rollouts.act(demo, "crew", RolloutAct.ALL, "bench")
            shown = median_s(lambda: records.rollouts.shown(demo, "crew"), 3)
            settings = Settings(state=state)
            with device_server(records.provisioning, settings, listen_for_devices(settings)) as server:
                source = ProfileSource(server.address, server.certificate.pem, records.rollouts.public_key(demo))
                fetching, errors = _fetched(source, added.tokens)
    return [
        row(f"all flows of a profile, {cells} cells", f"{flows * 1000:.0f} ms", "<= 200 ms", flows <= 0.2),
        row(f"{2 * _PEOPLE:,} devices of {_PEOPLE:,} people added by a list", f"{assigned:.1f} s", "", True),
        row("  their roll-out shown", f"{shown * 1000:.0f} ms", "<= 1000 ms", shown <= 1),
        row(f"{_FETCHING} devices fetch, apply and report", f"{fetching:.0f} s", "<= 60 s", fetching <= 60 and not errors),
        row("  errors", str(errors), "0", not errors),
    ]


def _fetched(source: ProfileSource, tokens: str) -> tuple[float, int]:
    """Let a thousand devices fetch over TLS, several at once; return how long it took, and how many did not get there."""
    tablet = Platform(id="tablet", name="tablet", family=PlatformFamily.TABLET)
    lines = [line.split(",") for line in tokens.splitlines()[1 : _FETCHING + 1]]
    devices = [PersonDevice(name, tablet, DeviceHabit.NONE, token) for name, token in lines]
    started = time.perf_counter()
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        done = list(pool.map(lambda some: _visited(source, some), (devices[at::_AT_ONCE] for at in range(_AT_ONCE))))
    return time.perf_counter() - started, _FETCHING - sum(done)


def _visited(source: ProfileSource, devices: list[PersonDevice]) -> int:
    def dials(_file: ProfileFile) -> bool:
        return True

    with source.client() as client:
        return sum(device.visit(source, client, dials) == [f"{device.name}: version 1 active"] for device in devices)
