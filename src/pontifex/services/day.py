"""The day for which the product judges certificates and exceptions."""

from __future__ import annotations

from datetime import UTC, date, datetime


def utc_day() -> date:
    """Return today, in UTC."""
    return datetime.now(UTC).date()
