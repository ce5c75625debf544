"""The simulated outside that ships with the product: gateways that speak RESTCONF, each with a habit of real ones."""

from pontifex.standins.gateway import Habit, Refused, StandInGateway
from pontifex.standins.serving import USER, ServedGateway, StandInServers

__all__ = ["USER", "Habit", "Refused", "ServedGateway", "StandInGateway", "StandInServers"]
