"""Readings of devices: what a device runs and what it keeps after a restart, held against what is intended."""

from pontifex.core.handover.readings.as_running import as_running
from pontifex.core.handover.readings.drift import Drift, DriftLine, DriftVerdict, drift
from pontifex.core.handover.readings.reading import Reading, UnreadableReading, read_reading
from pontifex.core.handover.readings.setting import Setting, intended

__all__ = [
    "Drift",
    "DriftLine",
    "DriftVerdict",
    "Reading",
    "Setting",
    "UnreadableReading",
    "as_running",
    "drift",
    "intended",
    "read_reading",
]
