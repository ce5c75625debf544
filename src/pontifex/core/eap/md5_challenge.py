"""MD5-Challenge (RFC 3748 section 5.4, RFC 1994 section 4.1): no key comes of it, and the server isn't proved."""

from __future__ import annotations

import hashlib
import hmac
from typing import Final

from pontifex.core.eap.method import Judged, PeerProved, Refused
from pontifex.core.eap.packet import EapError
from pontifex.core.entropy import Entropy
from pontifex.core.login import Login

_CHALLENGE_OCTETS: Final = 16


def _parted(data: bytes) -> tuple[bytes, str]:
    """Return value and name."""
    if not data or len(data) < 1 + data[0]:
        raise EapError("an MD5-Challenge whose value isn't whole")
    return data[1 : 1 + data[0]], data[1 + data[0] :].decode(errors="replace")


def _joined(value: bytes, name: str) -> bytes:
    return bytes((len(value),)) + value + name.encode()


def _proof(identifier: int, secret: bytes, challenge: bytes) -> bytes:
    return hashlib.md5(bytes((identifier,)) + secret + challenge, usedforsecurity=False).digest()


class Md5ChallengePeer:
    """The end that proves itself."""

    def __init__(self, login: Login) -> None:
        self._login = login

    def answer(self, identifier: int, data: bytes) -> bytes:
        """Answer a challenge."""
        challenge, _ = _parted(data)
        return _joined(_proof(identifier, self._login.secret, challenge), self._login.name)

    def ended(self) -> Judged:
        """Accept: there is nothing by which the server would be known."""
        return PeerProved()


class Md5ChallengeServer:
    """The end that challenges."""

    def __init__(self, login: Login, entropy: Entropy) -> None:
        self._login = login
        self._challenge = entropy(_CHALLENGE_OCTETS)

    def begin(self, identifier: int) -> bytes:  # noqa: ARG002 -- one signature for all methods
        """Return the challenge."""
        return _joined(self._challenge, "")

    def take(self, identifier: int, data: bytes) -> bytes | Judged:
        """Judge the answer."""
        value, name = _parted(data)
        refused = why_not(self._login, name)
        if refused:
            return refused
        fits = hmac.compare_digest(value, _proof(identifier, self._login.secret, self._challenge))
        return PeerProved() if fits else Refused(f"the secret of '{name}' is another one")


def why_not(login: Login, name: str) -> Refused | None:
    """Say why an end doesn't let an account in, whatever its secret; None where it does."""
    if name != login.name:
        return Refused(f"there is no account '{name}'")
    return None if login.may_call else Refused(f"the account '{name}' is switched off, or isn't one for tunnels")
