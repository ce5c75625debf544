"""The way to devices: one narrow protocol, by RESTCONF and by SSH."""

from pontifex.connectors.connector import (
    Connector,
    DeviceAccess,
    DeviceChange,
    DeviceProtocol,
    DeviceRefused,
    DeviceSilent,
)
from pontifex.connectors.opened import fingerprint_of, opened
from pontifex.connectors.visit import DeviceVisit

__all__ = [
    "Connector",
    "DeviceAccess",
    "DeviceChange",
    "DeviceProtocol",
    "DeviceRefused",
    "DeviceSilent",
    "DeviceVisit",
    "fingerprint_of",
    "opened",
]
