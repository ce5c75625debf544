"""Who may speak: the session that the printed address opens."""

from __future__ import annotations

import base64
import hmac
import json
import secrets
import time
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Final

from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

LIFETIME_S: Final = 24 * 3600  # a change window and the day after


@dataclass(frozen=True)
class Sessions:
    """Opens sessions for holders of this run's ticket. A session is signed, so it outlives a restart of the server."""

    master_key: bytes
    person: str
    start: str = "/"  # the view that the printed address opens
    ticket: str = field(default_factory=lambda: secrets.token_urlsafe(24))

    def accepts(self, ticket: str) -> bool:
        """Whether a ticket is this run's."""
        return hmac.compare_digest(ticket.encode(), self.ticket.encode())

    def open(self) -> str:
        """Return the cookie of a new session."""
        payload = json.dumps({"person": self.person, "until": int(time.time()) + LIFETIME_S}).encode()
        return f"{_encoded(payload)}.{_encoded(self._signature(payload))}"

    def person_of(self, cookie: str) -> str | None:
        """Return who speaks, or None when the cookie is no session of ours or has ended."""
        try:
            payload, signature = (_decoded(part) for part in cookie.split("."))
        except ValueError:
            return None
        if not hmac.compare_digest(signature, self._signature(payload)):
            return None
        claims = json.loads(payload)
        return str(claims["person"]) if claims["until"] > time.time() else None

    def _signature(self, payload: bytes) -> bytes:
        key = HKDF(SHA256(), 32, salt=None, info=b"pontifex session").derive(self.master_key)
        return hmac.digest(key, payload, sha256)


def _encoded(octets: bytes) -> str:
    return base64.urlsafe_b64encode(octets).decode()


def _decoded(text: str) -> bytes:
    return base64.urlsafe_b64decode(text)
