"""Running the product: database, vault, application and the socket that it listens on."""

from __future__ import annotations

import hashlib
import os
import resource
import socket
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv6Address
from pathlib import Path
from typing import Final

import uvicorn
from anyio import to_thread
from fastapi import FastAPI
from sqlalchemy import Engine

from pontifex.api import Sessions, create_app
from pontifex.patient_protocol import PatientProtocol
from pontifex.process import Alongside, Repeated
from pontifex.services import DesignService, KeptDesigns, KeyService
from pontifex.settings import Settings
from pontifex.state import StateInUseError, cluster_directory, held_state, master_key_file, tell_address
from pontifex.store import DesignListing, DesignRepository, Vault
from pontifex.store.cluster import Cluster
from pontifex.store.cluster_watch import watched
from pontifex.store.database import connect, migrate
from pontifex.store.master_key import decoded, opened_master_key
from pontifex.store.programs import ClusterError
from pontifex.store.spent_tokens import SpentTokens
from pontifex.work import WorkerPool, prepare_workers

_SECRET_SETTINGS: Final = ("PONTIFEX_MASTER_KEY", "PONTIFEX_NEW_MASTER_KEY", "PONTIFEX_DATABASE_URL")
_DAY_S: Final = 24 * 3600
_MOST_THREADS: Final = 200
USUAL_PORT: Final = 8470
FRONT_END: Final = Path(__file__).parents[2] / "web" / "dist"


@dataclass(frozen=True)
class Product:
    """The services over an open database."""

    designs: DesignService
    keys: KeyService
    workers: WorkerPool
    spent: SpentTokens
    master_key: bytes
    engine: Engine


@contextmanager
def database_url(settings: Settings) -> Iterator[str]:
    """Give the address of the database: the one of the settings, or a private cluster that is stopped again if we started it.

    A private cluster that dies meanwhile is started again.
    """
    if settings.database_url:
        yield settings.database_url.get_secret_value()
        return
    cluster = Cluster(cluster_directory(settings.state.absolute()))
    started = cluster.start()
    watch = watched(cluster)
    try:
        yield cluster.url()
    finally:
        watch.end()
        if started:
            cluster.stop()


@contextmanager
def open_database(settings: Settings, *, alongside: bool = False) -> Iterator[tuple[str, Engine]]:
    """Hold the state directory, open the database and bring its tables up to date; give its address and its engine.

    With `alongside`, the database is one that a server has made, and is shared with it while it runs. Raise ClusterError.
    """
    cluster = Cluster(cluster_directory(settings.state.absolute()))
    if alongside and not settings.database_url and not cluster.is_made():
        raise ClusterError(f"there is none in {settings.state}: set PONTIFEX_STATE to the state directory of the server")
    with ExitStack() as stack:
        try:
            stack.enter_context(held_state(settings.state))
        except StateInUseError:
            if not alongside or settings.database_url or not cluster.is_alive():
                raise
            url = cluster.url()
        else:
            url = stack.enter_context(database_url(settings))
        engine = connect(url)
        stack.callback(engine.dispose)
        migrate(engine)
        yield url, engine


@contextmanager
def open_product(settings: Settings, *, verbose: bool = False) -> Iterator[Product]:
    """Open the database and the vault, and give the services."""
    for name in _SECRET_SETTINGS:
        os.environ.pop(name, None)  # the workers and the database are given what they need, and no more
    if settings.master_key_text:
        decoded(settings.master_key_text, "PONTIFEX_MASTER_KEY")  # what is no key is told before anything is started
    prepare_workers()
    with open_database(settings) as (url, engine):
        master_key = opened_master_key(engine, master_key_file(settings.state), settings.master_key_text)
        designs, keys = (
            DesignService(KeptDesigns(DesignRepository(engine)), DesignListing(engine)),
            KeyService(Vault(engine, master_key)),
        )
        workers = WorkerPool(url, largest=designs.largest, verbose=verbose)
        upkeep = [Repeated(purge, _DAY_S) for purge in (designs.purge, keys.purge)]
        try:
            yield Product(designs, keys, workers, SpentTokens(engine), master_key, engine)
        finally:
            for repeated in upkeep:
                repeated.end()
            workers.close()


def listen(settings: Settings) -> socket.socket:
    """Return a listening socket: on the port asked for, else on the usual one, else on a free one."""
    if settings.port is not None:
        return _listening(settings, settings.port)
    try:
        return _listening(settings, USUAL_PORT)
    except OSError:
        return _listening(settings, 0)


def listen_for_devices(settings: Settings) -> socket.socket:
    """Return the listening socket for people's devices."""
    return _listening(settings, settings.devices_port)


def _listening(settings: Settings, port: int) -> socket.socket:
    listening = socket.socket(socket.AF_INET6 if settings.host.version == 6 else socket.AF_INET)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((str(settings.host), port))
    except OSError:
        listening.close()
        raise
    listening.listen(2048)
    return listening


def accepted_hosts(settings: Settings, port: int) -> frozenset[str]:
    """Return the Host values to answer for: loopback names, the address listened on, and those of the settings."""
    names = {"127.0.0.1", "localhost", "[::1]", *filter(None, (name.strip() for name in settings.allowed_hosts.split(",")))}
    if not settings.host.is_unspecified:
        names.add(_in_url(settings.host))
    return frozenset(names | {f"{name}:{port}" for name in names})


def _in_url(host: IPv4Address | IPv6Address) -> str:
    return f"[{host}]" if host.version == 6 else str(host)


def serve(product: Product, settings: Settings, start: str, rest: Callable[[FastAPI], AbstractContextManager[None]]) -> None:
    """Listen, print the one address to open, which leads to the view `start`, and serve until interrupted.

    From when the address is printed, `rest` is held open beside: it completes the application.
    """
    listening = listen(settings)
    port = listening.getsockname()[1]
    sessions = Sessions(product.master_key, settings.person, start, product.spent)
    app = create_app(
        product.designs,
        product.keys,
        product.workers,
        sessions,
        accepted_hosts(settings, port),
        f"pontifex_{port}",  # browsers share cookies between the ports of a host
        FRONT_END,
        build_id(),
    )
    shown = "127.0.0.1" if settings.host.is_unspecified else _in_url(settings.host)
    tell_address(settings.state, f"http://{shown}:{port}")
    announcement = f"\nPontifex is ready. Open\n\n    http://{shown}:{port}/open/{sessions.ticket()}\n\nCtrl-C stops it."
    _allow_many_connections()
    config = uvicorn.Config(
        app, http=PatientProtocol, ws="none", access_log=False, log_level="warning", lifespan="off", timeout_graceful_shutdown=3
    )
    server = _AnnouncingServer(config, announcement, lambda: rest(app))
    refreshing = Repeated(sessions.refresh, every_s=30)
    try:
        server.run(sockets=[listening])
    finally:
        refreshing.end()
        server.beside.end()


def _allow_many_connections() -> None:
    """Let as many connections be open as the machine allows: idle ones are closed after a time, and cost little until then."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))


class _AnnouncingServer(uvicorn.Server):
    """Says that it is ready once it is: from then on a signal stops it in order."""

    def __init__(self, config: uvicorn.Config, announcement: str, rest: Callable[[], AbstractContextManager[None]]) -> None:
        """`rest` is held open beside it once it is ready; where that fails, it stops."""
        super().__init__(config)
        self._announcement = announcement
        self.beside = Alongside(rest, self._stop)

    def _stop(self) -> None:
        self.should_exit = True

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Start serving, then print the announcement."""
        to_thread.current_default_thread_limiter().total_tokens = _MOST_THREADS  # most of them wait for their turn
        await super().startup(sockets)
        if not self.should_exit:
            print(self._announcement, flush=True)
            self.beside.start()


def build_id() -> str:
    """Return what tells this build from another: what an analysis says may change with the code."""
    sources = sorted(Path(__file__).parent.rglob("*.py"))
    stamp = "".join(f"{path.name}{path.stat().st_mtime_ns}" for path in sources)
    return hashlib.sha256(stamp.encode()).hexdigest()[:12]
