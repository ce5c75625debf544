"""The simulated outside that ships: gateways that speak RESTCONF, people's devices, and a cloud, with habits of real ones."""

from pontifex.standins.cloud import CloudState
from pontifex.standins.cloud_serving import ServedCloud
from pontifex.standins.gateway import GatewayHabit, SettingRefused, StandInGateway
from pontifex.standins.person_device import DeviceHabit, PersonDevice, ProfileSource
from pontifex.standins.serving import USER, ServedGateway, StandInServers

__all__ = [
    "USER",
    "CloudState",
    "DeviceHabit",
    "GatewayHabit",
    "PersonDevice",
    "ProfileSource",
    "ServedCloud",
    "ServedGateway",
    "SettingRefused",
    "StandInGateway",
    "StandInServers",
]
