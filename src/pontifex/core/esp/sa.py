"""The two directions of a Child SA: packets are protected by one, and opened by the other (RFC 4303 sections 2 and 3)."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

from pontifex.core.entropy import Entropy
from pontifex.core.esp.replay import ReplayWindow
from pontifex.core.ike.suite.chosen import Suite
from pontifex.core.ike.suite.ciphers import OpeningError

_ALIGNMENT: Final = 4  # section 2.4
_HEADER: Final = 8  # SPI and sequence number
_PADDING: Final = bytes(range(1, 256))  # it counts from 1 (section 2.4)
_LAST: Final = {False: (1 << 32) - 1, True: (1 << 64) - 1}  # sequence number, by whether it is extended


class EspError(ValueError):
    """A packet that is refused; the message says why."""


def _associated(suite: Suite, spi: bytes, number: int) -> bytes:
    """Return what a combined mode authenticates beside the payload (RFC 4106 section 5)."""
    return spi + number.to_bytes(8 if suite.extended_numbers else 4)


def _icv(suite: Suite, key: bytes, packet: bytes, number: int) -> bytes:
    """Return the integrity value; the high half of an extended number is authenticated, and not sent (section 2.2.1)."""
    assert suite.integrity  # asked for where there is one
    return suite.integrity.icv(key, packet + (number >> 32).to_bytes(4) if suite.extended_numbers else packet)


@dataclass(slots=True)
class OutboundSa:
    """What an end sends with. Keys are never shown."""

    spi: bytes
    suite: Suite
    encryption: bytes = field(repr=False)
    integrity: bytes = field(repr=False)
    sent: int = 0  # the last sequence number

    def protect(self, inner: bytes, next_header: int, entropy: Entropy) -> bytes:
        """Return the packet of ESP; `entropy` gives the octets of an IV, for a cipher whose IV must be unpredictable.

        Raise EspError when the sequence numbers are used up (section 3.3.3).
        """
        cipher = self.suite.cipher
        if self.sent >= _LAST[self.suite.extended_numbers]:
            raise EspError("the sequence numbers are used up")
        self.sent += 1
        padding = -(len(inner) + 2) % max(cipher.block_octets, _ALIGNMENT)
        plain = inner + _PADDING[:padding] + bytes((padding, next_header))
        iv = self.sent.to_bytes(8)[-cipher.iv_octets :] if cipher.counts_iv else entropy(cipher.iv_octets)
        head = self.spi + (self.sent & 0xFFFFFFFF).to_bytes(4)
        packet = head + iv + cipher.seal(self.encryption, iv, plain, _associated(self.suite, self.spi, self.sent))
        return packet + (_icv(self.suite, self.integrity, packet, self.sent) if self.suite.integrity else b"")


@dataclass(slots=True)
class InboundSa:
    """What an end receives with. Keys are never shown."""

    spi: bytes
    suite: Suite
    encryption: bytes = field(repr=False)
    integrity: bytes = field(repr=False)
    window: ReplayWindow = field(default_factory=ReplayWindow)

    def open(self, packet: bytes) -> tuple[bytes, int]:
        """Return the inner packet and its protocol. Raise EspError where the packet is refused (section 3.4)."""
        cipher, integrity = self.suite.cipher, self.suite.integrity
        if len(packet) < _HEADER + cipher.iv_octets + self.suite.icv_octets + 2:
            raise EspError("shorter than its header and integrity value")
        number = self.window.whole(int.from_bytes(packet[4:8]), self.suite.extended_numbers)
        if not self.window.is_new(number):
            raise EspError("it has come before, or is too old to tell")
        body = packet
        if integrity:
            body = packet[: -integrity.icv_octets]
            if _icv(self.suite, self.integrity, body, number) != packet[-integrity.icv_octets :]:
                raise EspError("the integrity value doesn't fit")
        iv, sealed = body[_HEADER : _HEADER + cipher.iv_octets], body[_HEADER + cipher.iv_octets :]
        try:
            plain = cipher.open(self.encryption, iv, sealed, _associated(self.suite, self.spi, number))
        except OpeningError as error:
            raise EspError(str(error)) from None
        self.window.note(number)
        return _unpadded(plain)


def _unpadded(plain: bytes) -> tuple[bytes, int]:
    """Return the inner packet and its protocol, without the padding, which counts from 1 (section 2.4)."""
    padding, next_header = plain[-2:]
    end = len(plain) - 2 - padding
    inner, padded = plain[:end], plain[end:-2]
    if end < 0 or padded != _PADDING[:padding]:
        raise EspError("the padding isn't that of ESP")
    return inner, next_header
