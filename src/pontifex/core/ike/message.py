"""Messages of IKEv2: the header, and payloads behind it (RFC 7296 section 3.1)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Final, Self, TypeVar

from pontifex.core.choice import member_of
from pontifex.core.ike.payloads import MalformedError, Notify, NotifyType, Payload, PayloadType, read_payloads, write_payloads

HEADER_OCTETS: Final = 28
VERSION: Final = 0x20
NO_SPI: Final = bytes(8)
_INITIATOR: Final = 0x08  # the sender made the IKE SA
_RESPONSE: Final = 0x20

SomePayload = TypeVar("SomePayload", bound=Payload)


class ExchangeType(IntEnum):
    """Exchange types by their numbers at IANA."""

    IKE_SA_INIT = 34
    IKE_AUTH = 35
    CREATE_CHILD_SA = 36
    INFORMATIONAL = 37
    IKE_INTERMEDIATE = 43  # RFC 9242
    IKE_FOLLOWUP_KE = 44  # RFC 9370


@dataclass(frozen=True, slots=True)
class Header:
    """The header of a message, but for its length and the type of the first payload, which follow from what stands behind."""

    spi_i: bytes
    spi_r: bytes
    exchange: int
    from_initiator: bool  # the sender is the one that made the IKE SA
    is_response: bool
    message_id: int

    def written(self, first: int, length: int) -> bytes:
        """Return the octets; `length` is that of the whole message."""
        flags = (_INITIATOR if self.from_initiator else 0) | (_RESPONSE if self.is_response else 0)
        head = self.spi_i + self.spi_r + bytes((first, VERSION, self.exchange, flags))
        return head + self.message_id.to_bytes(4) + length.to_bytes(4)

    @classmethod
    def read(cls, octets: bytes) -> tuple[Self, int]:
        """Return the header and the type of the first payload. Raise MalformedError where they aren't those of IKEv2."""
        if len(octets) < HEADER_OCTETS:
            raise MalformedError(f"a message of {len(octets)} octets, where {HEADER_OCTETS} are the least")
        if octets[17] >> 4 != VERSION >> 4:
            raise MalformedError(f"version {octets[17] >> 4} of IKE")
        length = int.from_bytes(octets[24:28])
        if length != len(octets):
            raise MalformedError(f"a message says {length} octets and has {len(octets)}")
        flags = octets[19]
        message_id = int.from_bytes(octets[20:24])
        return cls(octets[:8], octets[8:16], octets[18], bool(flags & _INITIATOR), bool(flags & _RESPONSE), message_id), octets[
            16
        ]

    @property
    def name(self) -> str:
        """The name of the exchange."""
        known = member_of(ExchangeType, self.exchange)
        return f"exchange {self.exchange}" if known is None else known.name


@dataclass(frozen=True, slots=True)
class Message:
    """A message with its payloads, those inside an Encrypted payload where it has been opened."""

    header: Header
    payloads: tuple[Payload, ...] = field(default=())

    def first(self, kind: type[SomePayload], type_: int | None = None) -> SomePayload | None:
        """Return the first payload of a class, and of a type where a class has two; None where there is none."""
        for payload in self.payloads:
            if isinstance(payload, kind) and (type_ is None or payload.type == type_):
                return payload
        return None

    def all(self, kind: type[SomePayload]) -> Iterable[SomePayload]:
        """Return the payloads of a class, in their order."""
        return (payload for payload in self.payloads if isinstance(payload, kind))

    def notified(self, kind: NotifyType) -> Notify | None:
        """Return the first notification of a kind; None where there is none."""
        for payload in self.payloads:
            if isinstance(payload, Notify) and payload.kind == kind:
                return payload
        return None

    @property
    def error(self) -> Notify | None:
        """The first notification of an error; None where there is none."""
        for payload in self.payloads:
            if isinstance(payload, Notify) and payload.is_error:
                return payload
        return None

    def needed(self, kind: type[SomePayload], type_: int | None = None) -> SomePayload:
        """Return the first payload of a class. Raise MalformedError where it is lacking."""
        payload = self.first(kind, type_)
        if payload is None:
            raise MalformedError(f"no {PayloadType(type_).name if type_ else kind.__name__} payload in {self.header.name}")
        return payload


def write_message(header: Header, payloads: tuple[Payload, ...]) -> bytes:
    """Return the octets of a message whose payloads aren't encrypted."""
    first, body = write_payloads(payloads)
    return header.written(first, HEADER_OCTETS + len(body)) + body


def read_message(octets: bytes) -> Message:
    """Read a message; an Encrypted payload stays sealed. Raise MalformedError where it is none."""
    header, first = Header.read(octets)
    return Message(header, read_payloads(first, octets[HEADER_OCTETS:]))
