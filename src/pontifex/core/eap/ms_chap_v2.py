"""What MS-CHAP version 2 computes (RFC 2759 section 8), and the key that comes of it (RFC 3079 section 3)."""

from __future__ import annotations

import hashlib
from typing import Final

from cryptography.hazmat.decrepit.ciphers.algorithms import TripleDES
from cryptography.hazmat.primitives.ciphers import Cipher, modes

from pontifex.core.eap.md4 import md4

_SIGNING_1: Final = b"Magic server to client signing constant"
_SIGNING_2: Final = b"Pad to make it do more than one iteration"
_MASTER: Final = b"This is the MPPE Master Key"
_BY_SERVER: Final = b"On the client side, this is the receive key; on the server side, it is the send key."
_BY_CLIENT: Final = b"On the client side, this is the send key; on the server side, it is the receive key."
_PAD_1, _PAD_2 = bytes(40), b"\xf2" * 40
_KEY_OCTETS: Final = 16
MASTER_KEY_OCTETS: Final = 64  # of EAP (RFC 3748 section 7.10)


def _sha1(*parts: bytes) -> bytes:
    return hashlib.sha1(b"".join(parts), usedforsecurity=False).digest()


def password_hash(password: str) -> bytes:
    """Return the hash of a password (section 8.3)."""
    return md4(password.encode("utf-16-le"))


def challenge_hash(peer_challenge: bytes, server_challenge: bytes, name: str) -> bytes:
    """Return the eight octets that are answered (section 8.2)."""
    return _sha1(peer_challenge, server_challenge, name.encode())[:8]


def _encrypted(block: bytes, key: bytes) -> bytes:
    """Encrypt a block with single DES (section 8.6): the library has it as Triple DES with one key thrice."""
    number = int.from_bytes(key)
    octets = bytes(
        (number >> shift & 0x7F) << 1 for shift in range(49, -1, -7)
    )  # seven bits of key in each; parity isn't looked at
    encryptor = Cipher(TripleDES(octets * 3), modes.ECB()).encryptor()  # noqa: S305 -- one block, as the method wants it
    return encryptor.update(block) + encryptor.finalize()


def response(challenge: bytes, hashed: bytes) -> bytes:
    """Return the answer to the eight octets of a challenge, 24 octets (section 8.5)."""
    padded = hashed + bytes(5)
    return b"".join(_encrypted(challenge, padded[at : at + 7]) for at in (0, 7, 14))


def server_proof(hashed: bytes, answer: bytes, challenge: bytes) -> bytes:
    """Return by what the server shows that it knows the password as well, 20 octets (section 8.7)."""
    return _sha1(_sha1(md4(hashed), answer, _SIGNING_1), challenge, _SIGNING_2)


def master_key(hashed: bytes, answer: bytes) -> bytes:
    """Return the key of EAP: what the server receives with, what it sends with (RFC 3079 section 3.4), and zeros."""
    master = _sha1(md4(hashed), answer, _MASTER)[:_KEY_OCTETS]
    both = (_sha1(master, _PAD_1, magic, _PAD_2)[:_KEY_OCTETS] for magic in (_BY_CLIENT, _BY_SERVER))
    return b"".join(both).ljust(MASTER_KEY_OCTETS, b"\0")
