"""The handshake Noise_IK_25519_ChaChaPoly_BLAKE2s of the public Noise Protocol Framework, revision 34.

IK: the caller knows the other end's static key beforehand, and sends its own within the first message.

    <- s
    ...
    -> e, es, s, ss
    <- e, ee, se
"""

from __future__ import annotations

import hashlib
import hmac
from dataclasses import dataclass, field
from typing import Final

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.asymmetric.x25519 import X25519PrivateKey, X25519PublicKey
from cryptography.hazmat.primitives.ciphers.aead import ChaCha20Poly1305

_NAME: Final = b"Noise_IK_25519_ChaChaPoly_BLAKE2s"
KEY: Final = 32  # octets of a key, and of a hash
TAG: Final = 16


class NotOpenedError(ValueError):
    """A message that doesn't open: it isn't for this end, or was changed on its way."""


def _hash(octets: bytes) -> bytes:
    return hashlib.blake2s(octets).digest()


def _derived(chaining: bytes, material: bytes) -> tuple[bytes, bytes]:
    """Return two keys (section 4.3, HKDF)."""
    drawn = hmac.digest(chaining, material, "blake2s")
    first = hmac.digest(drawn, b"\1", "blake2s")
    return first, hmac.digest(drawn, first + b"\2", "blake2s")


def _nonce(counter: int) -> bytes:
    return bytes(4) + counter.to_bytes(8, "little")


def sealed(key: bytes, counter: int, plain: bytes, about: bytes = b"") -> bytes:
    """Return octets as they go over the wire (section 12, ChaChaPoly)."""
    return ChaCha20Poly1305(key).encrypt(_nonce(counter), plain, about)


def opened(key: bytes, counter: int, octets: bytes, about: bytes = b"") -> bytes:
    """Return what was sealed. Raise NotOpenedError."""
    try:
        return ChaCha20Poly1305(key).decrypt(_nonce(counter), octets, about)
    except InvalidTag:
        raise NotOpenedError("it doesn't open") from None


@dataclass(slots=True)
class Handshake:
    """One side of a handshake (sections 5.2 and 5.3). `static` and `ephemeral` are its own private keys."""

    static: X25519PrivateKey = field(repr=False)
    ephemeral: X25519PrivateKey = field(repr=False)
    remote_static: bytes  # of a waiting end only known once the call is read
    _chaining: bytes = field(default=b"", repr=False)
    _heard: bytes = b""  # the hash of all that was sent and received
    _key: bytes = field(default=b"", repr=False)
    _counter: int = 0
    _remote_ephemeral: bytes = b""

    def _begin(self, responder: bytes) -> None:
        self._chaining = self._heard = _hash(_NAME) if len(_NAME) > KEY else _NAME.ljust(KEY, b"\0")
        self._mix(b"")  # no prologue
        self._mix(responder)

    def _mix(self, octets: bytes) -> None:
        self._heard = _hash(self._heard + octets)

    def _exchange(self, own: X25519PrivateKey, remote: bytes) -> None:
        try:
            shared = own.exchange(X25519PublicKey.from_public_bytes(remote))
        except ValueError:
            raise NotOpenedError("its key is none") from None
        self._chaining, self._key = _derived(self._chaining, shared)
        self._counter = 0

    def _seal(self, plain: bytes) -> bytes:
        octets = sealed(self._key, self._counter, plain, self._heard)
        self._counter += 1
        self._mix(octets)
        return octets

    def _open(self, octets: bytes) -> bytes:
        plain = opened(self._key, self._counter, octets, self._heard)
        self._counter += 1
        self._mix(octets)
        return plain

    def call(self, payload: bytes) -> bytes:
        """Return the first message."""
        self._begin(self.remote_static)
        own = public_octets(self.ephemeral)
        self._mix(own)
        self._exchange(self.ephemeral, self.remote_static)
        static = self._seal(public_octets(self.static))
        self._exchange(self.static, self.remote_static)
        return own + static + self._seal(payload)

    def hear_call(self, octets: bytes) -> bytes:
        """Read the first message; return its payload. Raise NotOpenedError."""
        self._begin(public_octets(self.static))
        self._remote_ephemeral, rest = octets[:KEY], octets[KEY:]
        self._mix(self._remote_ephemeral)
        self._exchange(self.static, self._remote_ephemeral)
        self.remote_static = self._open(rest[: KEY + TAG])
        self._exchange(self.static, self.remote_static)
        return self._open(rest[KEY + TAG :])

    def answer(self, payload: bytes) -> bytes:
        """Return the second message."""
        own = public_octets(self.ephemeral)
        self._mix(own)
        self._exchange(self.ephemeral, self._remote_ephemeral)
        self._exchange(self.ephemeral, self.remote_static)
        return own + self._seal(payload)

    def hear_answer(self, octets: bytes) -> bytes:
        """Read the second message; return its payload. Raise NotOpenedError."""
        remote = octets[:KEY]
        self._mix(remote)
        self._exchange(self.ephemeral, remote)
        self._exchange(self.static, remote)
        return self._open(octets[KEY:])

    def keys(self) -> tuple[bytes, bytes]:
        """Return the keys of what the caller sends, and of what the other end sends (section 5.2, Split)."""
        return _derived(self._chaining, b"")


def public_octets(private: X25519PrivateKey) -> bytes:
    """Return the public half of a private key."""
    return private.public_key().public_bytes_raw()
