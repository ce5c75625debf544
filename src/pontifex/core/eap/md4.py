"""The message digest MD4 (RFC 1320), which MS-CHAP hashes passwords with. Of no use where anything is to be kept safe."""

from __future__ import annotations

import struct
from collections.abc import Callable
from typing import Final

_MASK: Final = 0xFFFFFFFF
_START: Final = (0x67452301, 0xEFCDAB89, 0x98BADCFE, 0x10325476)
_BLOCK_OCTETS: Final = 64

_Round = tuple[Callable[[int, int, int], int], int, tuple[int, ...], tuple[int, ...]]
_ROUNDS: Final[tuple[_Round, ...]] = (  # function, constant, order of the words, shifts (section 3.4)
    (lambda x, y, z: x & y | ~x & z, 0, tuple(range(16)), (3, 7, 11, 19)),
    (lambda x, y, z: x & y | x & z | y & z, 0x5A827999, (0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15), (3, 5, 9, 13)),
    (lambda x, y, z: x ^ y ^ z, 0x6ED9EBA1, (0, 8, 4, 12, 2, 10, 6, 14, 1, 9, 5, 13, 3, 11, 7, 15), (3, 9, 11, 15)),
)


def md4(octets: bytes) -> bytes:
    """Return the digest, 16 octets."""
    padding = b"\x80" + bytes((55 - len(octets)) % _BLOCK_OCTETS)
    padded = octets + padding + struct.pack("<Q", len(octets) * 8)
    a, b, c, d = _START
    for at in range(0, len(padded), _BLOCK_OCTETS):
        more = _mixed(a, b, c, d, struct.unpack("<16I", padded[at : at + _BLOCK_OCTETS]))
        a, b, c, d = ((before + after) & _MASK for before, after in zip((a, b, c, d), more, strict=True))
    return struct.pack("<4I", a, b, c, d)


def _mixed(a: int, b: int, c: int, d: int, words: tuple[int, ...]) -> tuple[int, int, int, int]:
    for function, constant, order, shifts in _ROUNDS:
        for step, word in enumerate(order):
            total = (a + function(b, c, d) + words[word] + constant) & _MASK
            shift = shifts[step % 4]
            a, b, c, d = d, (total << shift | total >> 32 - shift) & _MASK, b, c
    return a, b, c, d
