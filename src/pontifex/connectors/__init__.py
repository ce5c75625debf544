"""The way to devices: one narrow protocol, by RESTCONF and by SSH."""

from pontifex.connectors.connector import Access, Connector, DeviceChange, DeviceRefused, DeviceSilent, Protocol
from pontifex.connectors.opened import fingerprint_of, opened

__all__ = [
    "Access",
    "Connector",
    "DeviceChange",
    "DeviceRefused",
    "DeviceSilent",
    "Protocol",
    "fingerprint_of",
    "opened",
]
