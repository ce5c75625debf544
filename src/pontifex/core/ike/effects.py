"""What a machine gives back: datagrams to send, SAs that came or went, and lines of its log."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Enum
from typing import NamedTuple

from pontifex.core.addressing import Address, Region
from pontifex.core.ike.keys import ChildKeys
from pontifex.core.ike.message import Message
from pontifex.core.ike.suite.chosen import Suite
from pontifex.core.ipsec import Transform

IKE_PORT = 500
NAT_PORT = 4500  # where ESP goes in UDP, and IKE behind four octets of zero (RFC 3948 section 2.2)


class Socket(NamedTuple):
    """An address with a port."""

    address: Address
    port: int

    def __str__(self) -> str:
        return f"[{self.address}]:{self.port}" if ":" in str(self.address) else f"{self.address}:{self.port}"


@dataclass(frozen=True, slots=True)
class Send:
    """A datagram of IKE, without the four octets of zero; `message` is what is inside, opened."""

    source: Socket
    destination: Socket
    octets: bytes = field(repr=False)
    message: Message


@dataclass(frozen=True, slots=True)
class Keepalive:
    """One octet that keeps a NAT's memory fresh (RFC 3948 section 2.3)."""

    source: Socket
    destination: Socket


@dataclass(frozen=True, slots=True)
class ChildSa:
    """A Child SA as one end has it. SPIs are of four octets; that of `spi_in` is chosen by this end."""

    spi_in: bytes
    spi_out: bytes
    local: Region
    remote: Region
    suite: Suite
    chosen: tuple[Transform, ...]
    keys: ChildKeys
    initiated: bool  # this end asked for it
    created: float


@dataclass(frozen=True, slots=True)
class ChildInstalled:
    """A Child SA may carry packets from now on; with UDP around them where a NAT was found."""

    child: ChildSa
    in_udp: bool
    replaces: bytes | None = None  # the inbound SPI of the one that it takes over from


@dataclass(frozen=True, slots=True)
class ChildRemoved:
    """A Child SA carries nothing any more."""

    spi_in: bytes


class LogLevel(Enum):
    """How much a line of the log matters."""

    INFO = "info"
    WARNING = "warning"
    ERROR = "error"


@dataclass(frozen=True, slots=True)
class Logged:
    """A line of a device's log: a plain sentence in the terms of the standards."""

    text: str
    level: LogLevel = LogLevel.INFO


@dataclass(frozen=True, slots=True)
class IkeEstablished:
    """Both ends have proved themselves, or an IKE SA was rekeyed."""

    spi_i: bytes
    spi_r: bytes
    suite: Suite
    rekeyed: bool


@dataclass(frozen=True, slots=True)
class IkeKeyed:
    """An IKE SA has keys: what a capture needs to be read. For the simulated ends alone, whose secrets are made up."""

    spi_i: bytes
    spi_r: bytes
    chosen: tuple[Transform, ...]
    encryption_i: bytes = field(repr=False)
    encryption_r: bytes = field(repr=False)
    integrity_i: bytes = field(repr=False)
    integrity_r: bytes = field(repr=False)


@dataclass(frozen=True, slots=True)
class IkeMoved:
    """An IKE SA goes by other addresses: its Child SAs, by inbound SPI, go there too, in UDP or not."""

    children: tuple[bytes, ...]
    in_udp: bool


@dataclass(frozen=True, slots=True)
class IkeEnded:
    """An IKE SA is gone, with all its Child SAs."""

    spi_i: bytes
    spi_r: bytes
    reason: str


@dataclass(frozen=True, slots=True)
class Configured:
    """A caller was given an address inside, resolvers, and the domains whose names are asked there."""

    address: Address
    resolvers: tuple[Address, ...]
    domains: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Redial:
    """The end has lost its IKE SA, and is to call anew: whoever holds it looks up where."""


Effect = (
    Redial
    | Send
    | Keepalive
    | ChildInstalled
    | ChildRemoved
    | Configured
    | Logged
    | IkeEstablished
    | IkeKeyed
    | IkeMoved
    | IkeEnded
)
