"""The stand-in gateways of the demo: each with a habit of real ones, and none of them changed yet as the design intends."""

from __future__ import annotations

from typing import Final

from pontifex.connectors import DeviceAccess, DeviceProtocol
from pontifex.core.handover.readings import intended
from pontifex.demo.scenario import DEMO_ID, demo_design
from pontifex.services import DesignService
from pontifex.services.records import RecordServices
from pontifex.standins import USER, GatewayHabit, StandInServers
from pontifex.store import DesignNotFound

_HABITS: Final = {
    "harbour-gateway": GatewayHabit.FORGETS,
    "ostvik-gateway": GatewayHabit.DROPS,
    "brenna-gateway": GatewayHabit.CUTS,
    "aurelia-gateway": GatewayHabit.SLOW,
    "basalt-gateway": GatewayHabit.REFUSES,
}
# The planned change: Harbour–Ostvik is checked more often and rekeyed earlier than it was.
_AS_IT_WAS: Final = {
    f"tunnel/harbour-ostvik/{side}/{field}": value
    for side in ("left", "right")
    for field, value in (("dead_peer_s", "120"), ("child_lifetime_s", "28800"))
}


def start_demo_devices(servers: StandInServers) -> None:
    """Start the stand-ins, with what they kept, or as the devices were before the planned change."""
    servers.start(_HABITS, _before_the_change)


def _before_the_change(gateway_id: str) -> dict[str, str]:
    settings = {setting.path: setting.text for setting in intended(demo_design(), gateway_id)}
    return {path: _AS_IT_WAS.get(path, text) for path, text in settings.items()}


def reach_demo_devices(designs: DesignService, records: RecordServices, servers: StandInServers) -> None:
    """Say how the stand-ins are reached: they are on other ports after each start. A way of somebody's own is left alone."""
    try:
        design = designs.get(DEMO_ID)
    except DesignNotFound:
        return
    known = {shown.gateway_id: shown.user for shown in records.devices.accesses(DEMO_ID)}
    for gateway_id, served in servers.gateways.items():
        if gateway_id in design.gateway_by_id and known.get(gateway_id, USER) == USER:
            access = DeviceAccess(
                protocol=DeviceProtocol.RESTCONF,
                address=served.address,
                user=served.login.user,
                secret=served.login.password,
                fingerprint=served.fingerprint,
            )
            records.devices.keep_access(design, gateway_id, access, "make demo")
