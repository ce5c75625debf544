"""Keys that we generate: recognisable as such, so that no slow hash is needed to keep them from being guessed."""

from __future__ import annotations

import base64
import hmac
from typing import Final

RANDOM_OCTETS: Final = 32
CHARACTERS: Final = 56  # of 35 octets
_CHECK_OCTETS: Final = 3
_ALPHABET: Final = frozenset("abcdefghijklmnopqrstuvwxyz234567")


def generated_key(random: bytes) -> str:
    """Write 256 random bits as a key of 56 characters: base32 (RFC 4648 section 6) in lower case, with a check of 24 bits.

    Letter case carries nothing, so that such a key can be read out on the telephone.
    """
    assert len(random) == RANDOM_OCTETS
    return base64.b32encode(random + _check(random)).decode().lower()


def is_generated(text: str) -> bool:
    """Whether a key was written by `generated_key`; of keys that people think of, one in 16 million would pass."""
    if len(text) != CHARACTERS or not _ALPHABET.issuperset(text):
        return False
    octets = base64.b32decode(text.upper())
    return hmac.compare_digest(_check(octets[:RANDOM_OCTETS]), octets[RANDOM_OCTETS:])


def _check(random: bytes) -> bytes:
    return hmac.digest(b"pontifex generated key", random, "sha256")[:_CHECK_OCTETS]
