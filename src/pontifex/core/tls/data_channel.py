"""Packets of hosts, sealed by the cipher that both ends took, with keys that went through TLS."""

from __future__ import annotations

import hashlib
import hmac
import zlib
from dataclasses import dataclass, field
from typing import Final

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.decrepit.ciphers.algorithms import TripleDES
from cryptography.hazmat.primitives.ciphers import Cipher
from cryptography.hazmat.primitives.ciphers.aead import AESGCM, ChaCha20Poly1305
from cryptography.hazmat.primitives.ciphers.algorithms import AES
from cryptography.hazmat.primitives.ciphers.modes import CBC
from cryptography.hazmat.primitives.padding import PKCS7

from pontifex.core.kinds import DataCipher
from pontifex.core.kinds.technology import Digest

_KEY_OCTETS: Final = {
    DataCipher.AES_128_GCM: 16,
    DataCipher.AES_256_GCM: 32,
    DataCipher.CHACHA20_POLY1305: 32,
    DataCipher.AES_128_CBC: 16,
    DataCipher.AES_256_CBC: 32,
    DataCipher.TRIPLE_DES_CBC: 24,
    DataCipher.NULL: 0,
}
_HASH: Final = {
    Digest.SHA2_256: "sha256",
    Digest.SHA2_384: "sha384",
    Digest.SHA2_512: "sha512",
    Digest.SHA1: "sha1",
    Digest.MD5: "md5",
}
_TAG: Final = 16  # octets that the combined ciphers add
_COUNTER: Final = 8


class DataError(ValueError):
    """A packet that doesn't open, or that isn't one once it is open; the message says why."""


@dataclass(slots=True)
class DataChannel:
    """One direction. Without a combined cipher, `digest` protects what is sealed (encrypt-then-MAC, RFC 7366)."""

    cipher: DataCipher
    digest: Digest | None
    compresses: bool
    secret: bytes = field(repr=False)
    _sealed: int = 0

    def _key(self, name: str, octets: int) -> bytes:
        return hashlib.shake_256(self.secret + name.encode()).digest(octets)

    def largest(self, room: int) -> int:
        """Return how many octets a packet may have, to fit sealed into some."""
        if self.cipher.combined_mode:
            return room - _COUNTER - _TAG
        rest = room - _COUNTER - len(self._mark(b""))
        if self.cipher is DataCipher.NULL:
            return rest
        block = 8 if self.cipher is DataCipher.TRIPLE_DES_CBC else 16
        return rest // block * block - 1  # an octet of padding at least

    def seal(self, packet: bytes) -> bytes:
        """Return a packet as it goes over the wire."""
        counter = self._sealed.to_bytes(_COUNTER)
        self._sealed += 1
        inner = zlib.compress(packet) if self.compresses else packet
        if self.cipher.combined_mode:
            return counter + self._combined().encrypt(counter.rjust(12, b"\0"), inner, None)
        body = counter + self._hidden(counter, inner)
        return body + self._mark(body)

    def open(self, octets: bytes) -> bytes:
        """Return the packet inside. Raise DataError."""
        counter, rest = octets[:_COUNTER], octets[_COUNTER:]
        if self.cipher.combined_mode:
            try:
                inner = self._combined().decrypt(counter.rjust(12, b"\0"), rest, None)
            except InvalidTag:
                raise DataError("it was changed on the way, or sealed with another key") from None
        else:
            length = len(self._mark(b""))
            body, mark = (octets[:-length], octets[-length:]) if length else (octets, b"")
            if not hmac.compare_digest(self._mark(body), mark):
                raise DataError("it was changed on the way, or sealed with another key")
            inner = self._shown(counter, body[_COUNTER:])
        if not self.compresses:
            return inner
        try:
            return zlib.decompress(inner)
        except zlib.error:
            raise DataError("it isn't compressed, and this end takes it for compressed") from None

    def _combined(self) -> AESGCM | ChaCha20Poly1305:
        key = self._key("cipher", _KEY_OCTETS[self.cipher])
        return ChaCha20Poly1305(key) if self.cipher is DataCipher.CHACHA20_POLY1305 else AESGCM(key)

    def _block(self, counter: bytes) -> tuple[Cipher[CBC], int]:
        key = self._key("cipher", _KEY_OCTETS[self.cipher])
        algorithm = TripleDES(key) if self.cipher is DataCipher.TRIPLE_DES_CBC else AES(key)
        octets = algorithm.block_size // 8
        return Cipher(algorithm, CBC(self._key("start" + counter.hex(), octets))), algorithm.block_size

    def _hidden(self, counter: bytes, inner: bytes) -> bytes:
        if self.cipher is DataCipher.NULL:
            return inner
        cipher, bits = self._block(counter)
        padder, encryptor = PKCS7(bits).padder(), cipher.encryptor()
        return encryptor.update(padder.update(inner) + padder.finalize()) + encryptor.finalize()

    def _shown(self, counter: bytes, hidden: bytes) -> bytes:
        if self.cipher is DataCipher.NULL:
            return hidden
        cipher, bits = self._block(counter)
        unpadder, decryptor = PKCS7(bits).unpadder(), cipher.decryptor()
        try:
            return unpadder.update(decryptor.update(hidden) + decryptor.finalize()) + unpadder.finalize()
        except ValueError:
            raise DataError("its padding is wrong") from None

    def _mark(self, body: bytes) -> bytes:
        return hmac.digest(self._key("digest", 32), body, _HASH[self.digest]) if self.digest else b""
