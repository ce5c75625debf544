"""What all tests share: how hard hypothesis tries, and a private PostgreSQL cluster with a fresh database for each test."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from itertools import count
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings

from pontifex.kernel import why_not
from pontifex.services import DesignService, KeptDesigns, KeyService
from pontifex.services.records import RecordServices
from pontifex.store import DesignListing, DesignRepository, Vault
from pontifex.store.cluster import Cluster
from pontifex.store.database import connect, migrate
from pontifex.work import WorkerPool
from tests.support.sessions import MASTER_KEY

# No time limits: a test that is slow on a busy machine is not wrong. Failing examples are printed to be pasted.
# The suite draws the same examples in each run, so that a change is judged by itself; `make truth` draws new ones.
settings.register_profile("search", deadline=None, max_examples=60, print_blob=True)
settings.register_profile("pontifex", settings.get_profile("search"), derandomize=True)
settings.load_profile("pontifex")

FAST = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")
_numbers = count()


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A private cluster, one for each worker of the run, with a migrated template database."""
    with tempfile.TemporaryDirectory(prefix="pontifex-test-") as directory:
        Path(directory).chmod(0o711)  # the user postgres must be able to enter
        private = Cluster(Path(directory) / "postgresql", FAST)
        private.start()
        engine = connect(private.url("template"))
        migrate(engine)
        engine.dispose()
        yield private
        private.stop()


@pytest.fixture(scope="session")
def namespaces() -> None:
    """Network namespaces of the kernel; where they aren't permitted, what needs them is skipped, and says why."""
    reason = why_not()
    if reason:
        pytest.skip(reason)


@pytest.fixture
def url(cluster: Cluster) -> str:
    """The address of a fresh database."""
    name = f"test{next(_numbers)}"
    with psycopg.connect(cluster.admin_url(), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE template")
    return cluster.url(name)


@pytest.fixture
def engine(url):
    """An engine on a fresh database."""
    opened = connect(url)
    yield opened
    opened.dispose()


@pytest.fixture
def repository(engine) -> DesignRepository:
    """The repository of a fresh database."""
    return DesignRepository(engine)


@pytest.fixture
def kept(repository) -> KeptDesigns:
    """What is kept of the designs of a fresh database."""
    return KeptDesigns(repository)


@pytest.fixture
def designs(kept, engine) -> DesignService:
    """The use cases about designs, on a fresh database."""
    return DesignService(kept, DesignListing(engine))


@pytest.fixture
def workers(url, designs) -> Iterator[WorkerPool]:
    """Worker processes over a fresh database."""
    pool = WorkerPool(url, largest=designs.largest)
    yield pool
    pool.close()


@pytest.fixture
def keys(engine) -> KeyService:
    """The use cases about keys, on a fresh database."""
    return KeyService(Vault(engine, MASTER_KEY))


@pytest.fixture
def records(engine, keys) -> RecordServices:
    """The services that write beside the designs, on a fresh database."""
    return RecordServices.over(engine, keys, MASTER_KEY)
