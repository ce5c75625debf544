"""The stand-in cloud of the demo: Basalt and Gneiss as two accounts, with a peering that was requested and never accepted."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from datetime import datetime, timedelta
from pathlib import Path
from typing import Final

from pontifex.connectors.cloud import CloudAccess, CloudSilent
from pontifex.core.clouds.intended import intended_networks, intended_peerings
from pontifex.core.clouds.peering_state import EXPIRES_AFTER, PeeringState
from pontifex.core.clouds.resources import NetworkState, Peering
from pontifex.demo.clouds import BOOKING, REPORTING
from pontifex.demo.scenario import DEMO_ID, demo_design
from pontifex.services import DesignService
from pontifex.services.records import RecordServices
from pontifex.standins import CloudState, ServedCloud
from pontifex.store import DesignNotFound

_WAITS_SINCE: Final = timedelta(days=2)
_BY: Final = "make demo"


def demo_cloud(file: Path, clock: Callable[[], datetime]) -> ServedCloud:
    """Return the cloud with what it kept, or as it was before anybody accepted the peering."""
    return ServedCloud(file, lambda: _first(clock()), (BOOKING, REPORTING), clock=clock)


def _first(now: datetime) -> CloudState:
    design = demo_design()
    networks = [_without_peerings(network) for network in intended_networks(design)]
    (wanted,) = intended_peerings(design)
    request = Peering(
        id="peering-1",
        requester=wanted.requester.id,
        requester_account=wanted.requester.owner,
        accepter=wanted.accepter.id,
        accepter_account=wanted.accepter.owner,
        state=PeeringState.PENDING,
        since=now - _WAITS_SINCE,
        until=now - _WAITS_SINCE + EXPIRES_AFTER,
    )
    return CloudState(networks={network.id: network for network in networks}, peerings={request.id: request}, made=1)


def _without_peerings(network: NetworkState) -> NetworkState:
    """Return a network without routes by peerings: a cloud takes them only once the peering is active."""
    tables = (table.changed(routes=tuple(route for route in table.routes if not route.peering)) for table in network.tables)
    return network.changed(tables=tuple(tables))


def reach_demo_cloud(designs: DesignService, records: RecordServices, served: ServedCloud) -> None:
    """Say how the accounts are reached, and read those that never were. A way of somebody's own is left alone."""
    try:
        design = designs.get(DEMO_ID)
    except DesignNotFound:
        return
    accounts = records.cloud_accounts.accounts(design)
    ours = [shown for shown in accounts if shown.account in served.tokens and shown.made_by in ("", _BY)]
    for account in (shown.account for shown in ours):
        access = CloudAccess(
            account=account, address=served.address, fingerprint=served.fingerprint, token=served.tokens[account]
        )
        records.cloud_accounts.keep_access(design, access, _BY)
    unread = [shown.account for shown in ours if shown.read_at is None]
    if unread:
        with suppress(CloudSilent):  # on a machine that is too busy to answer in time the page offers to read it
            records.cloud_accounts.read(design, unread, _BY)
