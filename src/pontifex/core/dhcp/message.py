"""A message of DHCP as octets, and back (RFC 2131 section 2)."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Final

from pontifex.core.addressing import Address, Family
from pontifex.core.dhcp.options import OptionCode, OptionsError, decode_options, encode_options

SERVER_PORT: Final = 67
CLIENT_PORT: Final = 68
BROADCAST: Final = Address(Family.V4, 0xFFFFFFFF)
NOWHERE: Final = Address(Family.V4, 0)
_COOKIE: Final = bytes((99, 130, 83, 99))
_HEAD: Final = struct.Struct(">BBBBIHHIIII16s64s128s")
_ETHERNET: Final = 1
_HARDWARE_OCTETS: Final = 6
_SHORTEST: Final = 300  # octets: some relays drop what is shorter (RFC 1542 section 2.1)


class MessageType(IntEnum):
    """The types of message of RFC 2132 section 9.6."""

    DISCOVER = 1
    OFFER = 2
    REQUEST = 3
    DECLINE = 4
    ACK = 5
    NAK = 6
    RELEASE = 7
    INFORM = 8


class DhcpError(ValueError):
    """Octets that are no message of DHCP."""


@dataclass(frozen=True, slots=True)
class DhcpMessage:
    """One message. Addresses that aren't said are 0.0.0.0."""

    type: MessageType
    transaction: int  # xid
    hardware: bytes  # chaddr, 6 octets
    is_reply: bool = False
    client: Address = NOWHERE  # ciaddr: the client's own, which it can answer for
    yours: Address = NOWHERE  # yiaddr: that the server gives it
    options: Mapping[int, bytes] = field(default_factory=dict)  # without the type

    def octets(self) -> bytes:
        """The message as it stands on the wire, in UDP."""
        head = _HEAD.pack(
            2 if self.is_reply else 1,
            _ETHERNET,
            _HARDWARE_OCTETS,
            0,
            self.transaction,
            0,
            0,
            self.client.value,
            self.yours.value,
            0,
            0,
            self.hardware,
            b"",
            b"",
        )
        octets = head + _COOKIE + encode_options({OptionCode.MESSAGE_TYPE: bytes((self.type,)), **self.options})
        return octets.ljust(_SHORTEST, b"\0")


def decode_message(octets: bytes) -> DhcpMessage:
    """Return the message in some octets. Raise DhcpError saying what is wrong."""
    if len(octets) < _HEAD.size + len(_COOKIE):
        raise DhcpError(f"{len(octets)} octets are too few for a message")
    op, kind, length, _, transaction, _, _, client, yours, _, _, hardware, _, _ = _HEAD.unpack_from(octets)
    if op not in (1, 2) or kind != _ETHERNET or length != _HARDWARE_OCTETS:
        raise DhcpError("it is no message of a client with an Ethernet address, nor an answer to one")
    if octets[_HEAD.size : _HEAD.size + len(_COOKIE)] != _COOKIE:
        raise DhcpError("the octets in front of the options aren't those of DHCP")
    try:
        options = decode_options(octets[_HEAD.size + len(_COOKIE) :])
    except OptionsError as error:
        raise DhcpError(str(error)) from None
    type_ = options.pop(OptionCode.MESSAGE_TYPE, b"")
    if len(type_) != 1 or type_[0] not in set(MessageType):
        raise DhcpError("it doesn't say what type of message it is")
    return DhcpMessage(
        type=MessageType(type_[0]),
        transaction=transaction,
        hardware=hardware[:_HARDWARE_OCTETS],
        is_reply=op == 2,
        client=Address(Family.V4, client),
        yours=Address(Family.V4, yours),
        options=options,
    )
