"""The Notify payload (RFC 7296 section 3.10)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from typing import ClassVar, Final, Self

from pontifex.core.choice import member_of
from pontifex.core.ike.payloads.payload import PayloadType, at_least

_FIRST_STATUS: Final = 16384


class NotifyType(IntEnum):
    """Notify message types by their numbers at IANA: errors below 16384, statuses from there."""

    UNSUPPORTED_CRITICAL_PAYLOAD = 1
    INVALID_IKE_SPI = 4
    INVALID_MAJOR_VERSION = 5
    INVALID_SYNTAX = 7
    INVALID_MESSAGE_ID = 9
    INVALID_SPI = 11
    NO_PROPOSAL_CHOSEN = 14
    INVALID_KE_PAYLOAD = 17
    AUTHENTICATION_FAILED = 24
    SINGLE_PAIR_REQUIRED = 34
    NO_ADDITIONAL_SAS = 35
    INTERNAL_ADDRESS_FAILURE = 36
    FAILED_CP_REQUIRED = 37
    TS_UNACCEPTABLE = 38
    INVALID_SELECTORS = 39
    TEMPORARY_FAILURE = 43
    CHILD_SA_NOT_FOUND = 44
    INITIAL_CONTACT = 16384
    ADDITIONAL_TS_POSSIBLE = 16386
    NAT_DETECTION_SOURCE_IP = 16388
    NAT_DETECTION_DESTINATION_IP = 16389
    COOKIE = 16390
    USE_TRANSPORT_MODE = 16391
    REKEY_SA = 16393
    ESP_TFC_PADDING_NOT_SUPPORTED = 16394
    MOBIKE_SUPPORTED = 16396
    ADDITIONAL_IP4_ADDRESS = 16397
    ADDITIONAL_IP6_ADDRESS = 16398
    UPDATE_SA_ADDRESSES = 16400
    IKEV2_FRAGMENTATION_SUPPORTED = 16430
    SIGNATURE_HASH_ALGORITHMS = 16431
    INTERMEDIATE_EXCHANGE_SUPPORTED = 16438
    ADDITIONAL_KEY_EXCHANGE = 16441


@dataclass(frozen=True, slots=True)
class Notify:
    """Something that an end tells: an error, or a status."""

    kind: int
    octets: bytes = b""
    protocol: int = 0
    spi: bytes = b""
    type: ClassVar[int] = PayloadType.NOTIFY

    @property
    def is_error(self) -> bool:
        """Whether the request failed for it (section 3.10.1)."""
        return self.kind < _FIRST_STATUS

    @property
    def name(self) -> str:
        """IANA's name."""
        known = member_of(NotifyType, self.kind)
        return f"notification {self.kind}" if known is None else known.name

    def body(self) -> bytes:
        """Its octets behind the generic header."""
        return bytes((self.protocol, len(self.spi))) + self.kind.to_bytes(2) + self.spi + self.octets

    def text(self) -> str:
        """What it says, for a person."""
        about = f" of SPI {self.spi.hex()}" if self.spi else ""
        return f"{self.name}{about}{f', {len(self.octets)} octets' if self.octets else ''}"

    @classmethod
    def read(cls, body: bytes) -> Self:
        """Read the body. Raise MalformedError where it is too short."""
        at_least(body, 4, "a Notify payload")
        at_least(body, 4 + body[1], "a Notify payload with its SPI")
        return cls(int.from_bytes(body[2:4]), body[4 + body[1] :], body[0], body[4 : 4 + body[1]])
