"""Encryption algorithms (transform type 1): keys, initialisation vectors, and how a packet is sealed and opened.

A key as made by prf+ holds the secret first, then the salt that some modes put before each initialisation vector.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.decrepit.ciphers import algorithms as decrepit
from cryptography.hazmat.primitives.ciphers import Cipher, CipherAlgorithm, algorithms, modes
from cryptography.hazmat.primitives.ciphers.aead import AESCCM, AESGCM, ChaCha20Poly1305


class OpeningError(ValueError):
    """A packet whose integrity value doesn't fit, or whose length is impossible."""


@dataclass(frozen=True, slots=True)
class EncryptionAlgorithm:
    """An encryption algorithm with a key length."""

    secret_octets: int
    salt_octets: int
    iv_octets: int
    block_octets: int  # what the plain octets are padded to
    icv_octets: int  # of a combined mode; else 0
    seal: Callable[[bytes, bytes, bytes, bytes], bytes]  # key, IV, plain octets, associated octets
    open: Callable[[bytes, bytes, bytes, bytes], bytes]  # key, IV, sealed octets, associated octets
    counts_iv: bool = False  # the IV may be a counter; else it must be unpredictable (RFC 3602 section 3)

    @property
    def key_octets(self) -> int:
        """What is taken of the keying material."""
        return self.secret_octets + self.salt_octets


def _gcm(octets: int, icv: int) -> EncryptionAlgorithm:
    """AES-GCM with a shortened or whole integrity value (RFC 4106, RFC 5282)."""

    def seal(key: bytes, iv: bytes, plain: bytes, associated: bytes) -> bytes:
        machine = Cipher(algorithms.AES(key[:-4]), modes.GCM(key[-4:] + iv)).encryptor()
        machine.authenticate_additional_data(associated)
        sealed = machine.update(plain) + machine.finalize()
        return sealed + machine.tag[:icv]

    def open_(key: bytes, iv: bytes, sealed: bytes, associated: bytes) -> bytes:
        if len(sealed) < icv:
            raise OpeningError("shorter than its integrity value")
        mode = modes.GCM(key[-4:] + iv, sealed[-icv:], min_tag_length=icv)
        machine = Cipher(algorithms.AES(key[:-4]), mode).decryptor()
        machine.authenticate_additional_data(associated)
        try:
            return machine.update(sealed[:-icv]) + machine.finalize()
        except InvalidTag:
            raise OpeningError("the integrity value doesn't fit") from None

    return EncryptionAlgorithm(octets, 4, 8, 1, icv, seal, open_, counts_iv=True)


def _whole_gcm(octets: int) -> EncryptionAlgorithm:
    """AES-GCM with its whole integrity value."""
    return _aead(octets, 4, 16, lru_cache(maxsize=256)(AESGCM))


def _aead(octets: int, salt: int, icv: int, make: Callable[[bytes], AESCCM | AESGCM | ChaCha20Poly1305]) -> EncryptionAlgorithm:
    def seal(key: bytes, iv: bytes, plain: bytes, associated: bytes) -> bytes:
        return make(key[:-salt]).encrypt(key[-salt:] + iv, plain, associated)

    def open_(key: bytes, iv: bytes, sealed: bytes, associated: bytes) -> bytes:
        try:
            return make(key[:-salt]).decrypt(key[-salt:] + iv, sealed, associated)
        except InvalidTag:
            raise OpeningError("the integrity value doesn't fit") from None

    return EncryptionAlgorithm(octets, salt, 8, 1, icv, seal, open_, counts_iv=True)


def _ccm(octets: int, icv: int) -> EncryptionAlgorithm:
    """AES-CCM, of which three octets are salt (RFC 4309, RFC 5282)."""
    return _aead(octets, 3, icv, lambda key: AESCCM(key, tag_length=icv))


def _gmac(octets: int) -> EncryptionAlgorithm:
    """AES-GMAC, which authenticates and doesn't encrypt: the payload is associated data, too (RFC 4543 section 3.3)."""
    gcm = _gcm(octets, 16)

    def seal(key: bytes, iv: bytes, plain: bytes, associated: bytes) -> bytes:
        return plain + gcm.seal(key, iv, b"", associated + iv + plain)

    def open_(key: bytes, iv: bytes, sealed: bytes, associated: bytes) -> bytes:
        gcm.open(key, iv, sealed[-16:], associated + iv + sealed[:-16])
        return sealed[:-16]

    return EncryptionAlgorithm(octets, 4, 8, 1, 16, seal, open_, counts_iv=True)


def _cbc(algorithm: Callable[[bytes], CipherAlgorithm], octets: int, block: int) -> EncryptionAlgorithm:
    """A block cipher in CBC mode (RFC 2451, RFC 3602)."""

    def seal(key: bytes, iv: bytes, plain: bytes, associated: bytes) -> bytes:  # noqa: ARG001 -- one signature for all
        machine = Cipher(algorithm(key), modes.CBC(iv)).encryptor()
        return machine.update(plain) + machine.finalize()

    def open_(key: bytes, iv: bytes, sealed: bytes, associated: bytes) -> bytes:  # noqa: ARG001 -- one signature for all
        if len(sealed) % block:
            raise OpeningError("not a whole number of blocks")
        machine = Cipher(algorithm(key), modes.CBC(iv)).decryptor()
        return machine.update(sealed) + machine.finalize()

    return EncryptionAlgorithm(octets, 0, block, block, 0, seal, open_)


def _counter(algorithm: Callable[[bytes], CipherAlgorithm], octets: int) -> EncryptionAlgorithm:
    """A block cipher in counter mode: four octets of nonce, the IV, and a counter from 1 (RFC 3686, RFC 5930)."""

    def apply(key: bytes, iv: bytes, octets_: bytes, associated: bytes) -> bytes:  # noqa: ARG001 -- one signature for all
        machine = Cipher(algorithm(key[:-4]), modes.CTR(key[-4:] + iv + b"\0\0\0\1")).encryptor()
        return machine.update(octets_) + machine.finalize()

    return EncryptionAlgorithm(octets, 4, 8, 1, 0, apply, apply, counts_iv=True)


def _null() -> EncryptionAlgorithm:
    """No encryption (RFC 2410)."""

    def same(key: bytes, iv: bytes, octets: bytes, associated: bytes) -> bytes:  # noqa: ARG001 -- one signature for all
        return octets

    return EncryptionAlgorithm(0, 0, 0, 1, 0, same, same)


_FIXED: Final[dict[int, Callable[[], EncryptionAlgorithm]]] = {
    2: lambda: _cbc(lambda key: decrepit.TripleDES(key * 3), 8, 8),  # three times one key is single DES
    3: lambda: _cbc(decrepit.TripleDES, 24, 8),
    5: lambda: _cbc(decrepit.IDEA, 16, 8),
    6: lambda: _cbc(decrepit.CAST5, 16, 8),
    7: lambda: _cbc(decrepit.Blowfish, 16, 8),
    11: _null,
    28: lambda: _aead(32, 4, 16, ChaCha20Poly1305),
}
_BY_KEY_LENGTH: Final[dict[int, Callable[[int], EncryptionAlgorithm]]] = {
    12: lambda octets: _cbc(algorithms.AES, octets, 16),
    13: lambda octets: _counter(algorithms.AES, octets),
    14: lambda octets: _ccm(octets, 8),
    15: lambda octets: _ccm(octets, 12),
    16: lambda octets: _ccm(octets, 16),
    18: lambda octets: _gcm(octets, 8),
    19: lambda octets: _gcm(octets, 12),
    20: _whole_gcm,
    21: _gmac,
    23: lambda octets: _cbc(decrepit.Camellia, octets, 16),
}


@lru_cache(maxsize=64)
def data_cipher(number: int, key_length: int | None) -> EncryptionAlgorithm | None:
    """Return an encryption algorithm by its number and key length in bits; None where it isn't rehearsed."""
    if number in _FIXED and key_length is None:
        return _FIXED[number]()
    if number in _BY_KEY_LENGTH and key_length:
        return _BY_KEY_LENGTH[number](key_length // 8)
    return None
