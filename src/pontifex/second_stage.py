"""The second stage of a start: all that the first page can do without, and that takes as long to load as all before it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext
from datetime import UTC, datetime
from socket import socket

from fastapi import FastAPI

from pontifex.api.whole import complete
from pontifex.collector import collect_seldom
from pontifex.demo.devices import reach_demo_devices, start_demo_devices
from pontifex.demo.roll_out import demo_people
from pontifex.demo.stand_in_cloud import demo_cloud, reach_demo_cloud
from pontifex.device_server import DeviceServer, device_server
from pontifex.server import Product
from pontifex.services.records import RecordServices
from pontifex.settings import Settings
from pontifex.standins import StandInServers


@contextmanager
def second_stage(product: Product, settings: Settings, devices: socket, app: FastAPI, *, with_demo: bool) -> Iterator[None]:
    """Serve people's devices on a socket, start the demo's stand-ins, and complete the application; end them when left."""
    records = RecordServices.over(product.engine, product.keys, product.master_key)
    with (
        device_server(records.provisioning, settings, devices) as served,
        _demo_devices(product, records, settings) if with_demo else nullcontext(),
        _demo_cloud(product, records, settings) if with_demo else nullcontext(),
        _devices_of_people(product, records, settings, served) if with_demo else nullcontext(),
    ):
        app.state.device_server = served
        complete(app, records)
        collect_seldom()
        yield


@contextmanager
def _demo_devices(product: Product, records: RecordServices, settings: Settings) -> Iterator[None]:
    """Start the stand-in gateways of the demo, and say how they are reached."""
    servers = StandInServers(settings.state / "stand-ins")
    start_demo_devices(servers)
    try:
        reach_demo_devices(product.designs, records, servers)
        yield
    finally:
        servers.stop()


@contextmanager
def _demo_cloud(product: Product, records: RecordServices, settings: Settings) -> Iterator[None]:
    """Start the stand-in cloud of the demo, and say how its accounts are reached."""
    served = demo_cloud(settings.state / "stand-ins" / "cloud.json", lambda: datetime.now(UTC))
    served.start()
    try:
        reach_demo_cloud(product.designs, records, served)
        yield
    finally:
        served.stop()


def _devices_of_people(
    product: Product, records: RecordServices, settings: Settings, devices: DeviceServer
) -> AbstractContextManager[None]:
    """Let the stand-ins for people's devices ask."""
    file, certificate = settings.state / "stand-ins" / "people.json", devices.certificate.pem
    return demo_people(product.designs, records.rollouts, file, devices.address, certificate)
