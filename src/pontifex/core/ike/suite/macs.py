"""Message authentication: pseudorandom functions and integrity algorithms (transform types 2 and 3)."""

from __future__ import annotations

import hashlib
import hmac
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from cryptography.hazmat.primitives.ciphers import Cipher, algorithms, modes
from cryptography.hazmat.primitives.cmac import CMAC

Mac = Callable[[bytes, bytes], bytes]  # of a key and data


@dataclass(frozen=True, slots=True)
class Prf:
    """A pseudorandom function."""

    mac: Mac
    key_octets: int  # of the keys that are made for it (RFC 7296 section 2.14)
    output_octets: int
    short_nonces: bool = False  # of each nonce 8 octets alone make SKEYSEED

    def expand(self, key: bytes, seed: bytes, octets: int) -> bytes:
        """Return prf+ of RFC 7296 section 2.13."""
        block, made, number = b"", b"", 0
        while len(made) < octets:
            number += 1
            block = self.mac(key, block + seed + bytes((number,)))
            made += block
        return made[:octets]


@dataclass(frozen=True, slots=True)
class Integrity:
    """An integrity algorithm: its code is the first octets of a longer one."""

    mac: Mac
    key_octets: int
    icv_octets: int

    def icv(self, key: bytes, octets: bytes) -> bytes:
        """Return the integrity check value."""
        return self.mac(key, octets)[: self.icv_octets]


def _hmac(name: str) -> Mac:
    return lambda key, octets: hmac.digest(key, octets, name)


def _aes_cmac(key: bytes, octets: bytes) -> bytes:
    """AES-CMAC (RFC 4493)."""
    code = CMAC(algorithms.AES(key))
    code.update(octets)
    return code.finalize()


def _aes_cmac_prf(key: bytes, octets: bytes) -> bytes:
    """AES-CMAC-PRF-128, which takes a key of any length (RFC 4615 section 3)."""
    return _aes_cmac(key if len(key) == 16 else _aes_cmac(bytes(16), key), octets)


def _aes_xcbc(key: bytes, octets: bytes) -> bytes:
    """AES-XCBC-MAC with its whole output (RFC 3566 section 4)."""
    derive = Cipher(algorithms.AES(key), modes.ECB()).encryptor()  # noqa: S305 -- as the RFC derives its three keys
    keys = [derive.update(bytes((number,)) * 16) for number in (1, 2, 3)]
    whole = len(octets) % 16 == 0 and octets
    padded = octets if whole else octets + b"\x80" + bytes(-(len(octets) + 1) % 16)
    last = bytes(a ^ b for a, b in zip(padded[-16:], keys[1 if whole else 2], strict=True))
    chain = Cipher(algorithms.AES(keys[0]), modes.CBC(bytes(16))).encryptor()
    return chain.update(padded[:-16] + last)[-16:]


def _aes_xcbc_prf(key: bytes, octets: bytes) -> bytes:
    """AES-XCBC-PRF-128, which takes a key of any length (RFC 4434 section 2)."""
    fitting = key + bytes(16 - len(key)) if len(key) < 16 else key if len(key) == 16 else _aes_xcbc(bytes(16), key)
    return _aes_xcbc(fitting, octets)


def _hash_prf(name: str) -> Prf:
    octets = hashlib.new(name, usedforsecurity=False).digest_size
    return Prf(_hmac(name), octets, octets)


PRFS: Final[dict[int, Prf]] = {
    1: _hash_prf("md5"),
    2: _hash_prf("sha1"),
    4: Prf(_aes_xcbc_prf, 16, 16, short_nonces=True),
    5: _hash_prf("sha256"),
    6: _hash_prf("sha384"),
    7: _hash_prf("sha512"),
    8: Prf(_aes_cmac_prf, 16, 16, short_nonces=True),
}
INTEGRITIES: Final[dict[int, Integrity]] = {
    1: Integrity(_hmac("md5"), 16, 12),
    2: Integrity(_hmac("sha1"), 20, 12),
    5: Integrity(_aes_xcbc, 16, 12),
    6: Integrity(_hmac("md5"), 16, 16),
    7: Integrity(_hmac("sha1"), 20, 20),
    8: Integrity(_aes_cmac, 16, 12),
    12: Integrity(_hmac("sha256"), 32, 16),
    13: Integrity(_hmac("sha384"), 48, 24),
    14: Integrity(_hmac("sha512"), 64, 32),
}
