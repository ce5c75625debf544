"""How messages of an IKE SA are sealed and opened, whole or in fragments (RFC 7296 section 3.14, RFC 5282, RFC 7383)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Final

from pontifex.core.entropy import Entropy
from pontifex.core.ike.keys import IkeKeys
from pontifex.core.ike.message import HEADER_OCTETS, Header, Message
from pontifex.core.ike.payloads import (
    Encrypted,
    EncryptedFragment,
    MalformedError,
    Payload,
    PayloadType,
    read_payloads,
    write_payloads,
)
from pontifex.core.ike.suite.chosen import Suite
from pontifex.core.ike.suite.ciphers import OpeningError

_PAYLOAD_HEADER: Final = 4
_FRAGMENT_NUMBERS: Final = 4
_MOST_FRAGMENTS: Final = 64


@dataclass(frozen=True, slots=True)
class Direction:
    """What one end seals with. Never shown: no `repr` of keys."""

    suite: Suite
    encryption: bytes = field(repr=False)
    integrity: bytes = field(repr=False)

    def sealed(self, header: Header, outer: int, inside: int, numbers: bytes, plain: bytes, entropy: Entropy) -> bytes:
        """Return a message with one payload of type `outer`, which holds `plain`; `inside` is the type of the first payload."""
        cipher = self.suite.cipher
        padding = -(len(plain) + 1) % cipher.block_octets
        padded = plain + bytes(padding) + bytes((padding,))
        body = len(numbers) + cipher.iv_octets + len(padded) + self.suite.icv_octets
        length = HEADER_OCTETS + _PAYLOAD_HEADER + body
        head = header.written(outer, length) + bytes((inside, 0)) + (_PAYLOAD_HEADER + body).to_bytes(2) + numbers
        iv = entropy(cipher.iv_octets)
        sealed = head + iv + cipher.seal(self.encryption, iv, padded, head)
        return sealed + (self.suite.integrity.icv(self.integrity, sealed) if self.suite.integrity else b"")

    def opened(self, octets: bytes, numbers: int) -> bytes:
        """Return what is inside a message with one sealed payload. Raise OpeningError where its integrity value doesn't fit."""
        cipher, integrity = self.suite.cipher, self.suite.integrity
        head_octets = HEADER_OCTETS + _PAYLOAD_HEADER + numbers
        if len(octets) < head_octets + cipher.iv_octets + self.suite.icv_octets + 1:
            raise OpeningError("shorter than an initialisation vector and an integrity value")
        if integrity:
            octets, icv = octets[: -integrity.icv_octets], octets[-integrity.icv_octets :]
            if integrity.icv(self.integrity, octets) != icv:
                raise OpeningError("the integrity value doesn't fit")
        head, iv = octets[:head_octets], octets[head_octets : head_octets + cipher.iv_octets]
        padded = cipher.open(self.encryption, iv, octets[head_octets + cipher.iv_octets :], head)
        if not padded or padded[-1] >= len(padded):
            raise OpeningError("more padding than there are octets")
        return padded[: -1 - padded[-1]]

    def room(self, most: int) -> int:
        """Return how many octets fit inside a fragment of a message of at most so many octets."""
        cipher = self.suite.cipher
        fixed = HEADER_OCTETS + _PAYLOAD_HEADER + _FRAGMENT_NUMBERS + cipher.iv_octets + self.suite.icv_octets
        return (most - fixed) // cipher.block_octets * cipher.block_octets - 1


@dataclass(slots=True)
class Reassembly:
    """The fragments of one message that have come so far."""

    first: int = 0
    total: int = 0
    parts: dict[int, bytes] = field(default_factory=dict)


def directions(suite: Suite, keys: IkeKeys) -> tuple[Direction, Direction]:
    """Return what the initiator seals with, and the responder."""
    return Direction(suite, keys.encryption_i, keys.integrity_i), Direction(suite, keys.encryption_r, keys.integrity_r)


def seal(
    direction: Direction, header: Header, payloads: Sequence[Payload], entropy: Entropy, most: int | None = None
) -> tuple[bytes, ...]:
    """Return the datagrams of a message: one, or fragments where it is longer than `most` octets."""
    first, plain = write_payloads(payloads)
    whole = direction.sealed(header, PayloadType.SK, first, b"", plain, entropy)
    if most is None or len(whole) <= most:
        return (whole,)
    room = direction.room(most)
    parts = [plain[at : at + room] for at in range(0, len(plain), room)]
    return tuple(
        direction.sealed(
            header, PayloadType.SKF, first if number == 1 else 0, number.to_bytes(2) + len(parts).to_bytes(2), part, entropy
        )
        for number, part in enumerate(parts, start=1)
    )


@dataclass(frozen=True, slots=True)
class Opened:
    """What was inside a message: the type of the first payload, and all octets."""

    first: int
    plain: bytes = field(repr=False)

    def payloads(self) -> tuple[Payload, ...]:
        """Return the payloads. Raise MalformedError where they can't be read."""
        return read_payloads(self.first, self.plain)


def open_message(direction: Direction, octets: bytes, message: Message, reassembly: Reassembly) -> Opened | None:
    """Open a message, or take a fragment; None while fragments are lacking.

    Raise OpeningError where the integrity value doesn't fit, MalformedError where this is no sealed message.
    """
    sealed = message.payloads[-1] if message.payloads else None
    if len(message.payloads) != 1:
        raise MalformedError(f"payloads beside the encrypted one in {message.header.name}")
    if isinstance(sealed, Encrypted):
        return Opened(sealed.first, direction.opened(octets, 0))
    if isinstance(sealed, EncryptedFragment):
        return _joined(sealed, direction.opened(octets, _FRAGMENT_NUMBERS), reassembly)
    raise MalformedError(f"no encrypted payload in {message.header.name}")


def _joined(fragment: EncryptedFragment, plain: bytes, reassembly: Reassembly) -> Opened | None:
    """Add a fragment; return the type of the first payload and all octets once none is lacking (RFC 7383 section 2.6)."""
    if fragment.total > _MOST_FRAGMENTS:
        raise MalformedError(f"{fragment.total} fragments, where {_MOST_FRAGMENTS} are the most")
    if fragment.total < reassembly.total:
        return None
    if fragment.total > reassembly.total:  # sent anew in smaller pieces
        reassembly.total, reassembly.parts = fragment.total, {}
    reassembly.parts[fragment.number] = plain
    if fragment.number == 1:
        reassembly.first = fragment.first
    if len(reassembly.parts) < reassembly.total:
        return None
    whole = Opened(reassembly.first, b"".join(reassembly.parts[number] for number in range(1, reassembly.total + 1)))
    reassembly.parts, reassembly.total = {}, 0
    return whole
