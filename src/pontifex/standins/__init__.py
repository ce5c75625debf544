"""The simulated outside that ships: gateways that speak RESTCONF, and people's devices, with habits of real ones."""

from pontifex.standins.gateway import Habit, Refused, StandInGateway
from pontifex.standins.person_device import DeviceHabit, PersonDevice, ProfileSource
from pontifex.standins.serving import USER, ServedGateway, StandInServers

__all__ = [
    "USER",
    "DeviceHabit",
    "Habit",
    "PersonDevice",
    "ProfileSource",
    "Refused",
    "ServedGateway",
    "StandInGateway",
    "StandInServers",
]
