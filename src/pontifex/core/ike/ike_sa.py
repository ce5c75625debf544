"""The state of one IKE SA at one end."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import Enum
from typing import Final

from pontifex.core.addressing import Address, Region
from pontifex.core.eap import EapPeer, EapServer
from pontifex.core.eap.method import Judged
from pontifex.core.ike.effects import NAT_PORT, ChildSa, Socket
from pontifex.core.ike.keys import IkeKeys, Nonces
from pontifex.core.ike.message import NO_SPI, ExchangeType, Header, Message
from pontifex.core.ike.payloads import Payload
from pontifex.core.ike.protection import Direction, Reassembly
from pontifex.core.ike.suite.chosen import Suite
from pontifex.core.ike.suite.key_exchange import Begun
from pontifex.core.ipsec import Transform

FIRST_RETRY_S: Final = 2.0  # each further one after twice the time; RFC 7296 section 2.1 leaves it to the device
MOST_TRIES: Final = 5


class IkeSaState(Enum):
    """How far an IKE SA is."""

    INIT = "init"  # no keys yet
    KEYED = "keyed"  # messages are sealed, nobody has proved itself
    ESTABLISHED = "established"
    ENDING = "ending"  # rekeyed, or being deleted
    ENDED = "ended"


class Purpose(Enum):
    """What a request is for."""

    INIT = "init"
    INTERMEDIATE = "intermediate"
    AUTH = "auth"
    EAP = "eap"  # a round of it
    EAP_PROOF = "eap-proof"  # of the key that EAP has made
    CREATE = "create"  # a new or rekeyed Child SA, or a rekeyed IKE SA
    FOLLOW_UP = "follow-up"
    DELETE_CHILD = "delete-child"
    DELETE_IKE = "delete-ike"
    CHECK = "check"
    MOVE = "move"


class DueRequest(Enum):
    """What is to be asked for when no other request waits for its answer."""

    REKEY_IKE = "rekey-ike"
    REKEY_CHILD = "rekey-child"
    NEW_CHILD = "new-child"
    DELETE_CHILD = "delete-child"
    DELETE_IKE = "delete-ike"
    MOVE = "move"  # the SAs go by other addresses
    TELL_ADDRESS = "tell-address"


@dataclass(slots=True)
class Request:
    """A request that waits for its answer."""

    purpose: Purpose
    message: Message
    datagrams: tuple[bytes, ...]
    due: float  # when it is sent again, or given up
    tries: int = 1
    about: bytes = b""  # the inbound SPI of the Child SA that it is about


@dataclass(frozen=True, slots=True)
class Heard:
    """A message that has come: as it came, opened, and with the request that it answers."""

    message: Message
    octets: bytes
    plain: bytes = b""  # what was inside its Encrypted payload
    request: Request | None = None
    source: Socket | None = None  # of a request
    destination: Socket | None = None


@dataclass(slots=True)
class Creation:
    """A key exchange that makes an SA: an IKE SA, or a Child SA; at either end."""

    makes_ike: bool
    initiated: bool
    chosen: tuple[Transform, ...] = ()
    suite: Suite | None = None
    nonce_i: bytes = b""
    nonce_r: bytes = b""
    begun: Begun | None = None
    guess: int = 0  # the method that the first public value is of
    secrets: list[bytes] = field(default_factory=list)
    own_spi: bytes = b""
    far_spi: bytes = b""
    local: Region = ()
    remote: Region = ()
    replaces: bytes | None = None  # the inbound SPI of a Child SA that is rekeyed
    link: bytes = b""  # by which follow-up exchanges are told apart (RFC 9370 section 2.2.4)

    @property
    def nonces(self) -> Nonces:
        """Both nonces."""
        return Nonces(self.nonce_i, self.nonce_r)

    @property
    def next_method(self) -> int | None:
        """The additional key exchange that comes next; None where all are done."""
        methods = self.suite.exchanges if self.suite else ()
        done = len(self.secrets)
        return methods[done] if done < len(methods) else None


@dataclass(slots=True)
class Child:
    """A Child SA with what is due of it."""

    sa: ChildSa
    rekey_at: float
    ends_at: float
    rekeying: bool = False  # this end has asked to rekey it
    rival: Creation | None = None  # the other end's rekey of the same Child SA, made while this end's was under way
    replaced: bool = False  # a newer one carries what it did


@dataclass(slots=True)
class EapCaller:
    """A proof by EAP that the initiator gives; with what AUTH of either end protects."""

    peer: EapPeer
    own: bytes
    far: bytes
    key: bytes = field(default=b"", repr=False)


@dataclass(slots=True)
class EapCalled:
    """A proof by EAP that the responder asks for; with the request that began it, which asks for the Child SA."""

    server: EapServer
    request: Message
    own: bytes
    far: bytes
    judged: Judged | None = None


@dataclass(slots=True)
class IkeSa:
    """One IKE SA."""

    initiated: bool  # this end made it
    spi_i: bytes
    spi_r: bytes
    local: Socket
    remote: Socket
    creation: Creation
    phase: IkeSaState = IkeSaState.INIT
    suite: Suite | None = None
    keys: IkeKeys | None = None
    sending: Direction | None = None
    receiving: Direction | None = None
    next_id: int = 0
    expected_id: int = 0
    request: Request | None = None
    waiting: deque[tuple[DueRequest, bytes]] = field(default_factory=deque)  # with the Child SA that it is about
    answered: tuple[bytes, ...] = ()  # the last answer, for a request that comes again
    reassembly: dict[bool, Reassembly] = field(default_factory=lambda: {True: Reassembly(), False: Reassembly()})
    first_sent: bytes = b""
    first_heard: bytes = b""
    between_own: bytes = b""  # of IKE_INTERMEDIATE exchanges (RFC 9242 section 3.3)
    between_far: bytes = b""
    proved: bytes = b""  # what AUTH of this end protects
    eap_caller: EapCaller | None = None
    eap_called: EapCalled | None = None
    fragments: bool = False  # both ends can (RFC 7383)
    behind_nat: bool = False  # this end is
    far_behind_nat: bool = False
    mobike: bool = False  # both ends can (RFC 4555)
    far_identity: bytes = b""
    leased: Address | None = None  # that the caller was given, at either end
    children: dict[bytes, Child] = field(default_factory=dict)
    creations: dict[bytes, Creation] = field(default_factory=dict)  # that follow-up exchanges go on with, by their link
    rival: tuple[Creation, IkeSa] | None = None  # the other end's rekey, made while this end's was under way
    rekey_at: float = float("inf")
    ends_at: float = float("inf")
    heard_at: float = 0.0
    sent_at: float = 0.0

    @property
    def own_spi(self) -> bytes:
        """The SPI that this end chose."""
        return self.spi_i if self.initiated else self.spi_r

    @property
    def in_udp(self) -> bool:
        """Whether a NAT stands between the ends, so that ESP goes in UDP."""
        return self.behind_nat or self.far_behind_nat

    def float_to_nat_port(self) -> None:
        """Go on at port 4500 (RFC 7296 section 2.23)."""
        self.local = Socket(self.local.address, NAT_PORT)
        self.remote = Socket(self.remote.address, NAT_PORT)

    def header(self, exchange: ExchangeType, is_response: bool, message_id: int) -> Header:
        """Return the header of a message that this end sends."""
        spi_r = NO_SPI if exchange is ExchangeType.IKE_SA_INIT and not is_response else self.spi_r
        return Header(self.spi_i, spi_r, exchange, self.initiated, is_response, message_id)

    def message(self, exchange: ExchangeType, is_response: bool, message_id: int, payloads: Sequence[Payload]) -> Message:
        """Return a message that this end sends."""
        return Message(self.header(exchange, is_response, message_id), tuple(payloads))
