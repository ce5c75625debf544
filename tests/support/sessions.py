"""Sessions of tests: a master key, and the host that the application answers for."""

from __future__ import annotations

from pontifex.api import Sessions

MASTER_KEY = bytes(range(32))
HOST = "127.0.0.1:8470"
SESSIONS = Sessions(MASTER_KEY, "ann")
