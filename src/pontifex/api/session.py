"""Who may speak: a ticket opens one session, a session ends with its day or when it is signed out of."""

from __future__ import annotations

import base64
import hmac
import json
import secrets
import time
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Final, Protocol

from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

LIFETIME_S: Final = 24 * 3600  # a change window and the day after
TICKET_LIFETIME_S: Final = 3600
_SESSION, _TICKET = "session", "ticket"


class Spent(Protocol):
    """Keeps the tokens that are not accepted again."""

    def spend(self, token_id: str, until: float) -> bool:
        """Spend a token; return whether it was not spent before."""

    def all(self) -> frozenset[str]:
        """Return all spent tokens."""


class SpentInMemory:
    """Keeps spent tokens for as long as the process runs."""

    def __init__(self) -> None:
        self._ids: set[str] = set()

    def spend(self, token_id: str, until: float) -> bool:  # noqa: ARG002 -- memory is short enough
        """Spend a token; return whether it was not spent before."""
        is_new = token_id not in self._ids
        self._ids.add(token_id)
        return is_new

    def all(self) -> frozenset[str]:
        """Return all spent tokens."""
        return frozenset(self._ids)


@dataclass(frozen=True, slots=True)
class Session:
    """Who speaks, and until when."""

    id: str
    person: str
    until: int  # seconds since 1970


@dataclass
class Sessions:
    """Makes tickets and opens sessions. Both are signed, so that they outlive a restart of the server."""

    master_key: bytes
    person: str
    start: str = "/"  # the view that the printed address opens
    spent: Spent = field(default_factory=SpentInMemory)

    def __post_init__(self) -> None:
        self._ended: set[str] = set()

    def refresh(self) -> int:
        """Take note of what was ended elsewhere; return how many there are."""
        self._ended |= self.spent.all()
        return len(self._ended)

    def ticket(self) -> str:
        """Return a ticket that opens one session, within an hour."""
        return self._signed(_TICKET, TICKET_LIFETIME_S)

    def redeem(self, ticket: str) -> str | None:
        """Return the cookie of a new session for a ticket; None when it is none of ours, has ended, or was redeemed."""
        claims = self._claims(_TICKET, ticket)
        return self.open() if claims and self.spent.spend(claims.id, claims.until) else None

    def open(self) -> str:
        """Return the cookie of a new session."""
        return self._signed(_SESSION, LIFETIME_S)

    def end(self, cookie: str) -> None:
        """End a session before its time."""
        session = self.session_of(cookie)
        if session:
            self.spent.spend(session.id, session.until)
            self._ended.add(session.id)

    def session_of(self, cookie: str) -> Session | None:
        """Return who speaks, or None when the cookie is no session of ours or has ended."""
        session = self._claims(_SESSION, cookie)
        return session if session and session.id not in self._ended else None

    def _signed(self, kind: str, lifetime_s: int) -> str:
        claims = {"kind": kind, "id": secrets.token_hex(16), "person": self.person, "until": int(time.time()) + lifetime_s}
        payload = json.dumps(claims).encode()
        return f"{_encoded(payload)}.{_encoded(self._signature(payload))}"

    def _claims(self, kind: str, token: str) -> Session | None:
        try:
            payload, signature = (_decoded(part) for part in token.split("."))
        except ValueError:
            return None
        if not hmac.compare_digest(signature, self._signature(payload)):
            return None
        claims = json.loads(payload)
        if claims.get("kind") != kind or claims["until"] <= time.time():
            return None
        return Session(str(claims["id"]), str(claims["person"]), int(claims["until"]))

    def _signature(self, payload: bytes) -> bytes:
        key = HKDF(SHA256(), 32, salt=None, info=b"pontifex session").derive(self.master_key)
        return hmac.digest(key, payload, sha256)


def _encoded(octets: bytes) -> str:
    return base64.urlsafe_b64encode(octets).decode().rstrip("=")


def _decoded(text: str) -> bytes:
    return base64.urlsafe_b64decode(text + "=" * (-len(text) % 4))
