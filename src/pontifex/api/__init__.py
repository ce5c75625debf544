"""HTTP: translates requests to services and back. No rule of the trade lives here."""

from pontifex.api.app import create_app
from pontifex.api.session import Sessions

__all__ = ["Sessions", "create_app"]
