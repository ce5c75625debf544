"""A rehearsal as a capture file (pcapng, draft-ietf-opsawg-pcapng) with the session keys that open what is in it.

The keys are those of the rehearsal alone: its secrets are made up.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.call_effects import CallEffect
from pontifex.core.ike.effects import ChildInstalled, Effect, IkeKeyed
from pontifex.core.ipsec import Transform
from pontifex.core.kinds import Side
from pontifex.core.rehearsal.events import Sent

_SECTION: Final = 0x0A0D0D0A
_INTERFACE: Final = 1
_PACKET: Final = 6
_RAW_IP: Final = 101  # LINKTYPE_RAW
_COMMENT: Final = 1
_MICROSECONDS: Final = 1_000_000


def _block(kind: int, body: bytes) -> bytes:
    padded = body + bytes(-len(body) % 4)
    length = (len(padded) + 12).to_bytes(4, "little")
    return kind.to_bytes(4, "little") + length + padded + length


def _option(code: int, value: bytes) -> bytes:
    head = code.to_bytes(2, "little") + len(value).to_bytes(2, "little")
    return head + value + bytes(-len(value) % 4) + bytes(4)  # and the end of options


@dataclass(frozen=True, slots=True)
class CapturedPacket:
    """An IP packet as it was seen, in seconds from the beginning; with why it didn't arrive."""

    at_s: float
    octets: bytes
    dropped: str = ""


def seen_outside(sent: Iterable[Sent]) -> Iterator[CapturedPacket]:
    """Yield packets as the outside saw them."""
    for packet in sent:
        yield CapturedPacket(packet.at_s, packet.outside.octets(), packet.dropped)


def pcapng(packets: Iterable[CapturedPacket], began_us: int = 0) -> bytes:
    """Return a capture of packets, those that were dropped with a comment.

    `began_us` is the time of the rehearsal's beginning, in microseconds since 1970.
    """
    order = (0x1A2B3C4D).to_bytes(4, "little") + (1).to_bytes(2, "little") + (0).to_bytes(2, "little")
    blocks = [_block(_SECTION, order + b"\xff" * 8)]  # the length of the section isn't said
    blocks.append(_block(_INTERFACE, _RAW_IP.to_bytes(2, "little") + bytes(2) + bytes(4)))
    for packet in packets:
        octets = packet.octets
        time = began_us + round(packet.at_s * _MICROSECONDS)
        head = bytes(4) + (time >> 32).to_bytes(4, "little") + (time & 0xFFFFFFFF).to_bytes(4, "little")
        lengths = len(octets).to_bytes(4, "little") * 2
        comment = _option(_COMMENT, f"didn't arrive: {packet.dropped}".encode()) if packet.dropped else b""
        blocks.append(_block(_PACKET, head + lengths + octets + bytes(-len(octets) % 4) + comment))
    return b"".join(blocks)


@dataclass(frozen=True, slots=True, kw_only=True)
class IkeSessionKeys:
    """What opens the messages of an IKE SA: numbers are IANA's, keys are hexadecimal, a salt at their end."""

    spi_i: str
    spi_r: str
    transforms: tuple[Transform, ...]
    encryption_i: Annotated[str, Field(title="SK_ei")]
    encryption_r: Annotated[str, Field(title="SK_er")]
    integrity_i: Annotated[str, Field(title="SK_ai")]
    integrity_r: Annotated[str, Field(title="SK_ar")]


@dataclass(frozen=True, slots=True, kw_only=True)
class EspSessionKeys:
    """What opens the packets of one direction of a Child SA."""

    spi: str
    receiver: Side
    transforms: tuple[Transform, ...]
    encryption: str
    integrity: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionKeys:
    """The keys of a rehearsal, in the order in which they came into use."""

    ike: tuple[IkeSessionKeys, ...]
    esp: tuple[EspSessionKeys, ...]


def session_keys(effects: Iterable[tuple[Side, Effect | CallEffect]]) -> SessionKeys:
    """Return the keys of all SAs that came into use."""
    effects = tuple(effects)
    ike = {_ike(effect): None for _, effect in effects if isinstance(effect, IkeKeyed)}  # both ends have the same
    esp = (keys for side, effect in effects if isinstance(effect, ChildInstalled) for keys in _esp(side, effect))
    return SessionKeys(ike=tuple(ike), esp=tuple(esp))


def _ike(keyed: IkeKeyed) -> IkeSessionKeys:
    return IkeSessionKeys(
        spi_i=keyed.spi_i.hex(),
        spi_r=keyed.spi_r.hex(),
        transforms=keyed.chosen,
        encryption_i=keyed.encryption_i.hex(),
        encryption_r=keyed.encryption_r.hex(),
        integrity_i=keyed.integrity_i.hex(),
        integrity_r=keyed.integrity_r.hex(),
    )


def _esp(side: Side, installed: ChildInstalled) -> Iterator[EspSessionKeys]:
    """Yield the keys of what an end receives by a Child SA; the other end tells those of the other direction."""
    sa, keys = installed.child, installed.child.keys
    encryption, integrity = (keys.encryption_r, keys.integrity_r) if sa.initiated else (keys.encryption_i, keys.integrity_i)
    yield EspSessionKeys(
        spi=sa.spi_in.hex(), receiver=side, transforms=sa.chosen, encryption=encryption.hex(), integrity=integrity.hex()
    )
